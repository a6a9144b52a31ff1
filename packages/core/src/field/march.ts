import { Heap } from '../base/heap';
import type { Cancel } from '../base/cancel';

/** A net on which is marched: triangles, and how long an edge is. */
export interface MarchedNet {
  readonly count: number;
  readonly triangles: Uint32Array;
  /** Length of the way between two neighbouring vertices. */
  readonly length: (a: number, b: number) => number;
}

/** How far each vertex is from the nearest seed, and from where its front came. */
export interface Marched {
  /** Infinity where no seed is joined to. */
  readonly phi: Float64Array;
  /** The front came from between these two vertices, at this share of the way from the first; -1 at seeds. */
  readonly from: Int32Array;
  readonly share: Float64Array;
}

/**
 * The distance of every vertex of a net from the nearest of its seeds, along the net, by fast marching with one step of
 * unfolding at obtuse corners (Kimmel and Sethian, Computing geodesic paths on manifolds, 1998, from memory). The lengths of the
 * edges alone tell the triangles' shapes: they need not be those in space.
 *
 * @param seeds distances to begin with; Infinity at all others
 */
export function march(net: MarchedNet, seeds: Float64Array, cancel?: Cancel): Marched {
  const { count, triangles, length } = net;
  const { first, of } = trianglesAt(count, triangles);
  const phi = Float64Array.from(seeds);
  const from = new Int32Array(2 * count).fill(-1);
  const share = new Float64Array(count);
  const isFinal = new Uint8Array(count);
  const heap = new Heap(phi);
  for (let v = 0; v < count; v++) if (phi[v]! < Infinity) heap.push(v, phi[v]!);

  const lower = (v: number, to: number, a: number, b: number, at: number): void => {
    if (to >= phi[v]!) return;
    phi[v] = to;
    from[2 * v] = a;
    from[2 * v + 1] = b;
    share[v] = at;
    heap.push(v, to);
  };
  /** The vertex beyond the edge a b of a triangle. */
  const beyond = (a: number, b: number, triangle: number): number => {
    for (let k = first[a]!; k < first[a + 1]!; k++) {
      const t = of[k]!;
      if (t === triangle) continue;
      const [p, q, r] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
      if (p === b || q === b || r === b) return p + q + r - a - b;
    }
    return -1;
  };
  /** Lowers vertex c by what is known at a and b of its triangle. */
  const through = (a: number, b: number, c: number, triangle: number): void => {
    const [la, lb, base] = [length(a, c), length(b, c), length(a, b)];
    // a lies at 0, b on the x axis, c above it
    const x = (la * la + base * base - lb * lb) / (2 * base);
    const square = la * la - x * x;
    if (!(square > 0) || !(base > 0)) return;
    const y = Math.sqrt(square);
    const direct = across(phi[a]!, phi[b]!, 0, 0, base, 0, x, y);
    if (direct) return lower(c, direct.time, a, b, direct.share);
    if (la * la + lb * lb >= base * base) return;
    const d = beyond(a, b, triangle);
    if (d < 0 || !isFinal[d]) return;
    const [da, db] = [length(a, d), length(b, d)];
    const dx = (da * da + base * base - db * db) / (2 * base);
    const below = da * da - dx * dx;
    if (!(below > 0)) return;
    const dy = -Math.sqrt(below);
    const [left, right] = [
      across(phi[a]!, phi[d]!, 0, 0, dx, dy, x, y),
      across(phi[d]!, phi[b]!, dx, dy, base, 0, x, y),
    ];
    if (left) lower(c, left.time, a, d, left.share);
    if (right) lower(c, right.time, d, b, right.share);
  };

  for (let n = 0; ; n++) {
    if ((n & 4095) === 0) cancel?.check();
    const v = heap.pop();
    if (v < 0) break;
    if (isFinal[v]) continue;
    isFinal[v] = 1;
    for (let k = first[v]!; k < first[v + 1]!; k++) {
      const t = of[k]!;
      for (let corner = 0; corner < 3; corner++) {
        const c = triangles[3 * t + corner]!;
        if (c === v || isFinal[c]) continue;
        lower(c, phi[v]! + length(v, c), v, v, 0);
        const other = triangles[3 * t]! + triangles[3 * t + 1]! + triangles[3 * t + 2]! - v - c;
        if (isFinal[other]) through(v, other, c, t);
      }
    }
  }
  return { phi, from, share };
}

/** When a straight front that is at two places at their times comes to a third, and where it passed between them. */
function across(
  ta: number,
  tb: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  cx: number,
  cy: number,
): { time: number; share: number } | undefined {
  const base = Math.hypot(bx - ax, by - ay);
  const [ux, uy] = [(bx - ax) / base, (by - ay) / base];
  const along = (tb - ta) / base;
  if (!(Math.abs(along) < 1)) return undefined;
  const rise = Math.sqrt(1 - along * along);
  const x = (cx - ax) * ux + (cy - ay) * uy;
  const y = Math.abs((cy - ay) * ux - (cx - ax) * uy);
  const foot = x - (y * along) / rise;
  return foot >= 0 && foot <= base ? { time: ta + along * x + rise * y, share: foot / base } : undefined;
}

/** The triangles at each vertex, one list after another. */
export function trianglesAt(count: number, triangles: Uint32Array): { first: Uint32Array; of: Uint32Array } {
  const first = new Uint32Array(count + 1);
  for (const v of triangles) first[v + 1]!++;
  for (let v = 0; v < count; v++) first[v + 1]! += first[v]!;
  const filled = first.slice();
  const of = new Uint32Array(triangles.length);
  for (let o = 0; o < triangles.length; o++) of[filled[triangles[o]!]!++] = Math.floor(o / 3);
  return { first, of };
}
