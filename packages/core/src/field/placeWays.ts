/** A place, mm. */
export type Vec = [number, number, number];

/** A line that comes back to its beginning has more places than this. */
const LEAST_RING = 8;
/** Side branches of fewer places are noise. */
const LEAST_BRANCH = 3;
/** Where lines meet one goes on as the other when they turn by less than this, rad. */
const GOES_ON = (50 * Math.PI) / 180;

const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Of places nearer than `same` only the first. */
export function thinned<T>(list: readonly T[], placeOf: (one: T) => Vec, same: number): T[] {
  const cells = new Map<string, Vec[]>();
  return list.filter((one) => {
    const place = placeOf(one);
    const [i, j, k] = place.map((v) => Math.floor(v / same)) as Vec;
    for (let di = -1; di <= 1; di++)
      for (let dj = -1; dj <= 1; dj++)
        for (let dk = -1; dk <= 1; dk++)
          for (const other of cells.get(`${i + di},${j + dj},${k + dk}`) ?? [])
            if (Math.hypot(other[0] - place[0], other[1] - place[1], other[2] - place[2]) < same) return false;
    const key = `${i},${j},${k}`;
    cells.set(key, [...(cells.get(key) ?? []), place]);
    return true;
  });
}

/**
 * Places one after another along lines: the shortest links that join near ones without rings, and rings that are long.
 *
 * @param near places are neighbours up to this, mm
 */
export function waysThrough(places: readonly Vec[], near: number): { places: number[]; isClosed: boolean }[] {
  const links = linksBetween(places, near);
  const root = places.map((_, k) => k);
  const find = (k: number): number => {
    let r = k;
    while (root[r] !== r) r = root[r] = root[root[r]!]!;
    return r;
  };
  const beside: Set<number>[] = places.map(() => new Set());
  const spare: [number, number][] = [];
  for (const [a, b] of links) {
    const [ra, rb] = [find(a), find(b)];
    if (ra === rb) {
      spare.push([a, b]);
      continue;
    }
    root[ra] = rb;
    beside[a]!.add(b);
    beside[b]!.add(a);
  }
  prune(beside);
  for (const [a, b] of spare)
    if (beside[a]!.size === 1 && beside[b]!.size === 1 && stepsBetween(beside, a, b) >= LEAST_RING) {
      beside[a]!.add(b);
      beside[b]!.add(a);
    }
  return walked(places, beside);
}

/** Pairs of places that are near and whose valleys run along their link, the shortest first. */
function linksBetween(places: readonly Vec[], near: number): [number, number][] {
  const cells = new Map<string, number[]>();
  const key = (c: readonly number[], d: readonly number[]): string =>
    c.map((v, axis) => Math.floor(v / near) + d[axis]!).join();
  const links: { a: number; b: number; length: number }[] = [];
  places.forEach((place, b) => {
    for (let di = -1; di <= 1; di++)
      for (let dj = -1; dj <= 1; dj++)
        for (let dk = -1; dk <= 1; dk++)
          for (const a of cells.get(key(place, [di, dj, dk])) ?? []) {
            const other = places[a]!;
            const length = Math.hypot(...place.map((v, axis) => v - other[axis]!));
            if (length < near) links.push({ a, b, length });
          }
    const own = key(place, [0, 0, 0]);
    cells.set(own, [...(cells.get(own) ?? []), b]);
  });
  return links.sort((p, q) => p.length - q.length || p.a - q.a || p.b - q.b).map(({ a, b }) => [a, b]);
}

/** Takes away short branches. */
function prune(beside: Set<number>[]): void {
  const ends = [...beside.keys()].filter((k) => beside[k]!.size === 1);
  for (const end of ends) {
    const branch = [end];
    let at = [...beside[end]!][0]!;
    while (beside[at]!.size === 2 && branch.length <= LEAST_BRANCH) {
      branch.push(at);
      at = [...beside[at]!].find((k) => k !== branch[branch.length - 2])!;
      if (at === undefined) break;
    }
    if (at === undefined || beside[at]!.size < 3 || branch.length > LEAST_BRANCH) continue;
    beside[at]!.delete(branch[branch.length - 1]!);
    for (const k of branch) beside[k]!.clear();
  }
}

function stepsBetween(beside: readonly ReadonlySet<number>[], a: number, b: number): number {
  let [before, at, n] = [-1, a, 0];
  while (at !== b) {
    const next = [...beside[at]!].find((k) => k !== before);
    if (next === undefined || beside[at]!.size > 2) return 0;
    [before, at] = [at, next];
    n++;
  }
  return n;
}

/** Ways through linked places; where several meet the straightest two go on as one. */
function walked(places: readonly Vec[], beside: readonly Set<number>[]): { places: number[]; isClosed: boolean }[] {
  const open = beside.map((set) => new Set(set));
  const take = (a: number, b: number): void => {
    open[a]!.delete(b);
    open[b]!.delete(a);
  };
  const turn = (a: number, b: number, c: number): number => {
    const u = places[b]!.map((v, k) => v - places[a]![k]!) as Vec;
    const w = places[c]!.map((v, k) => v - places[b]![k]!) as Vec;
    return Math.acos(Math.max(-1, Math.min(1, dot(u, w) / Math.max(1e-12, Math.hypot(...u) * Math.hypot(...w)))));
  };
  const follow = (from: number): number[] => {
    const way = [from];
    for (;;) {
      const at = way[way.length - 1]!;
      let best = -1;
      let least = Infinity;
      for (const k of open[at]!) {
        const angle = way.length > 1 ? turn(way[way.length - 2]!, at, k) : 0;
        if (angle < least) [best, least] = [k, angle];
      }
      if (best < 0 || (beside[at]!.size > 2 && way.length > 1 && least > GOES_ON)) return way;
      take(at, best);
      way.push(best);
      if (best === from) return way;
    }
  };
  const out: { places: number[]; isClosed: boolean }[] = [];
  const put = (way: number[]): void => {
    const isClosed = way.length > 2 && way[0] === way[way.length - 1];
    if (way.length > 1) out.push({ places: isClosed ? way.slice(0, -1) : way, isClosed });
  };
  for (const k of beside.keys()) while (beside[k]!.size === 1 && open[k]!.size > 0) put(follow(k));
  for (const k of beside.keys()) while (beside[k]!.size !== 2 && open[k]!.size > 0) put(follow(k));
  for (const k of beside.keys()) while (open[k]!.size > 0) put(follow(k));
  return out;
}
