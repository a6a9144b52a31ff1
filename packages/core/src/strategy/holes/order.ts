interface Place {
  readonly x: number;
  readonly y: number;
}

/** More places than this are taken from one to the nearest without looking for a shorter way: it would take too long. */
const MOST_LOOKED_AT = 600;

/** An order of places with a short way in plan: from each to the nearest, then with stretches turned round while that makes it shorter. */
export function holeOrder(places: readonly Place[]): number[] {
  const order = nearestFirst(places);
  return places.length <= MOST_LOOKED_AT ? turned(order, places) : order;
}

const between = (a: Place, b: Place): number => Math.hypot(a.x - b.x, a.y - b.y);

/** Begins at the lowest corner. */
function nearestFirst(places: readonly Place[]): number[] {
  const open = new Set(places.keys());
  const order: number[] = [];
  let at: Place | undefined;
  while (open.size > 0) {
    let next = -1;
    let least = Infinity;
    for (const k of open) {
      const place = places[k]!;
      const away = at ? between(at, place) : place.x + place.y;
      if (away < least) [next, least] = [k, away];
    }
    order.push(next);
    open.delete(next);
    at = places[next];
  }
  return order;
}

/** Turns stretches of an open way round while it becomes shorter (2-opt: Croes 1958, from memory). */
function turned(order: number[], places: readonly Place[]): number[] {
  const at = (k: number): Place => places[order[k]!]!;
  for (let shorter = true; shorter;) {
    shorter = false;
    for (let i = 0; i + 1 < order.length; i++)
      for (let j = i + 1; j < order.length; j++) {
        const before = between(at(i), at(i + 1)) + (j + 1 < order.length ? between(at(j), at(j + 1)) : 0);
        const after = between(at(i), at(j)) + (j + 1 < order.length ? between(at(i + 1), at(j + 1)) : 0);
        if (after > before - 1e-9) continue;
        const part = order.slice(i + 1, j + 1).reverse();
        order.splice(i + 1, part.length, ...part);
        shorter = true;
      }
  }
  return order;
}
