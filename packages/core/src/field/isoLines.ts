import type { NetEdges } from './netEdges';

/** A line over a net on which a value is constant: where it crosses edges, one after another. */
export interface IsoLine {
  readonly level: number;
  readonly isClosed: boolean;
  /** Edges of the net, and where on each, as a share from its first vertex. */
  readonly edges: Uint32Array;
  readonly shares: Float64Array;
}

/**
 * Lines on which a value over a net is 1, 2, 3 and so on. A vertex that has just such a value counts as a hair below it.
 *
 * @param values at the vertices; edges with a value that is not finite are not crossed
 */
export function isoLines({ ends, ofTriangle }: NetEdges, values: Float64Array): IsoLine[] {
  const edges = ends.length / 2;
  /** Crossings of each edge begin here: at its lowest level first. */
  const begins = new Uint32Array(edges + 1);
  const low = new Float64Array(edges);
  for (let e = 0; e < edges; e++) {
    const [p, q] = [values[ends[2 * e]!]!, values[ends[2 * e + 1]!]!];
    low[e] = Math.max(1, Math.floor(Math.min(p, q)) + 1);
    const high = Math.floor(Math.max(p, q));
    const n = Number.isFinite(p) && Number.isFinite(q) ? Math.max(0, high - low[e]! + 1) : 0;
    begins[e + 1] = begins[e]! + n;
  }
  const total = begins[edges]!;
  const edgeOf = new Uint32Array(total);
  for (let e = 0; e < edges; e++) edgeOf.fill(e, begins[e], begins[e + 1]);
  const NONE = 0xffffffff;
  const next = new Uint32Array(2 * total).fill(NONE);
  const link = (a: number, b: number): void => {
    next[2 * a + (next[2 * a] === NONE ? 0 : 1)] = b;
    next[2 * b + (next[2 * b] === NONE ? 0 : 1)] = a;
  };
  for (let t = 0; t < ofTriangle.length; t += 3) {
    const three = [ofTriangle[t]!, ofTriangle[t + 1]!, ofTriangle[t + 2]!];
    let from = Infinity;
    let to = -Infinity;
    for (const e of three) {
      const n = begins[e + 1]! - begins[e]!;
      if (n === 0) continue;
      from = Math.min(from, low[e]!);
      to = Math.max(to, low[e]! + n - 1);
    }
    for (let level = from; level <= to; level++) {
      let other = NONE;
      for (const e of three) {
        const k = level - low[e]!;
        if (k < 0 || k >= begins[e + 1]! - begins[e]!) continue;
        const crossing = begins[e]! + k;
        if (other === NONE) other = crossing;
        else link(other, crossing);
      }
    }
  }
  const isTaken = new Uint8Array(total);
  const lines: IsoLine[] = [];
  const walk = (start: number): void => {
    const way: number[] = [];
    let before = NONE;
    let at = start;
    while (at !== NONE && !isTaken[at]) {
      isTaken[at] = 1;
      way.push(at);
      const on = next[2 * at] !== before ? next[2 * at]! : next[2 * at + 1]!;
      before = at;
      at = on;
    }
    const level = low[edgeOf[start]!]! + start - begins[edgeOf[start]!]!;
    lines.push({
      level,
      isClosed: at === start && way.length > 2,
      edges: Uint32Array.from(way, (c) => edgeOf[c]!),
      shares: Float64Array.from(way, (c) => {
        const e = edgeOf[c]!;
        const [p, q] = [values[ends[2 * e]!]!, values[ends[2 * e + 1]!]!];
        return (level - p) / (q - p);
      }),
    });
  };
  for (let c = 0; c < total; c++) if (!isTaken[c] && next[2 * c + 1] === NONE) walk(c);
  for (let c = 0; c < total; c++) if (!isTaken[c]) walk(c);
  return lines;
}
