import type { Cancel } from '../../base/cancel';
import { isoLines } from '../../field/isoLines';
import { march, type Marched, trianglesAt } from '../../field/march';
import { netEdges, type NetEdges } from '../../field/netEdges';
import { type GroundNet } from '../../field/netGround';
import type { Direction } from '../../levels/loops';
import { turned } from '../order';
import { passMetric } from './metric';
import { NearLines } from './valleySeeds';

/** Vertices up to so many steps of the net from a valley are reached from it straight. */
const SEED_STEPS = 2;
/** Fronts meet where they come together along an edge by this much of their speed. */
const MEET = 0.3;
/** Where they meet no farther from the last lines than this share of a pass the ridge between is as high as others. */
const HALF_PASS = 0.5;

/** A line that is cut. */
export interface EvenLine {
  /** Middles of the round near the surface, x, y, z one after another; a closed one ends where it begins. */
  readonly points: Float64Array;
  /** The line beside it from which its front came, by its place in the list; -1: none. */
  readonly parent: number;
  readonly isClosed: boolean;
}

export interface EvenAsk {
  readonly radius: number;
  readonly scallop: number;
  readonly sideStep: number;
  /** Of the net, mm. */
  readonly step: number;
  readonly direction: Direction;
  /** Whether ground nearer to the border is cut first. */
  readonly isInward: boolean;
}

export interface EvenLines {
  readonly lines: EvenLine[];
  /** Places at which ridges may be higher than others: middles of the round near the surface. */
  readonly doubtful: Float64Array;
  /** The line from which the front came to a place: one of the doubtful ones, or after them one of the ground's vertices. */
  readonly beside: (place: number) => number;
}

/**
 * Lines that lie one pass apart, from the ground's border and its valleys on. The first are the border's, in its order; valleys
 * are lines of their own with the numbers `border.length` and on, whose points are left to the caller.
 */
export function evenLines(
  ground: GroundNet,
  valleys: readonly { readonly points: Float64Array }[],
  ask: EvenAsk,
  cancel?: Cancel,
): EvenLines {
  const { count, centres, normals, triangles, border } = ground;
  const seeds = new Float64Array(count).fill(Infinity);
  const line = new Int32Array(count).fill(-1);
  border.forEach(({ vertices }, k) => {
    for (const v of vertices) {
      seeds[v] = 0;
      line[v] = k;
    }
  });
  const near = new NearLines(valleys, SEED_STEPS * ask.step);
  for (let v = 0; v < count; v++) {
    const found = near.nearest(centres[3 * v]!, centres[3 * v + 1]!, centres[3 * v + 2]!);
    if (!found || found.distance / ask.sideStep >= seeds[v]!) continue;
    seeds[v] = found.distance / ask.sideStep;
    line[v] = border.length + found.line;
  }
  const length = passMetric(centres, normals, ask.radius, ask.scallop, ask.sideStep);
  const marched = march({ count, triangles, length }, seeds, cancel);
  const edges = netEdges(count, triangles);
  const at = trianglesAt(count, triangles);
  const { phi } = marched;
  /** Both ends of an edge, the nearer one first. */
  const uphill = (e: number): [number, number] => {
    const [p, q] = [edges.ends[2 * e]!, edges.ends[2 * e + 1]!];
    return phi[q]! > phi[p]! ? [p, q] : [q, p];
  };
  /** The vertex beside one of the border that lies farthest inside. */
  const inside = (v: number): number => {
    let best = v;
    for (let k = at.first[v]!; k < at.first[v + 1]!; k++)
      for (const w of triangles.subarray(3 * at.of[k]!, 3 * at.of[k]! + 3)) if (phi[w]! > phi[best]!) best = w;
    return best;
  };
  const lines: EvenLine[] = border.map(({ vertices, isClosed }) => {
    const points = placesOf(centres, isClosed ? [...vertices, vertices[0]!] : vertices);
    return { points: mayTurn(points, vertices[0]!, inside(vertices[0]!), ground, ask), parent: -1, isClosed };
  });
  for (const valley of valleys) lines.push({ points: valley.points, parent: -1, isClosed: false });
  const origins = new Origins(phi, edges, at, line);
  const found = isoLines(edges, phi);
  // lower levels first, so that every line comes after the one from which its front came
  found.sort((a, b) => a.level - b.level);
  for (const iso of found) {
    const points = new Float64Array(3 * (iso.edges.length + (iso.isClosed ? 1 : 0)));
    iso.edges.forEach((e, k) => placeOn(centres, edges, e, iso.shares[k]!, points, 3 * k));
    if (iso.isClosed) points.copyWithin(points.length - 3, 0, 3);
    const parent = origins.of(iso.edges[0]!, iso.level - 1);
    origins.put(iso, lines.length);
    lines.push({
      points: mayTurn(points, ...uphill(iso.edges[0]!), ground, ask),
      parent,
      isClosed: iso.isClosed,
    });
  }
  const met = doubtful(ground, edges, marched, length);
  const n = met.vertices.length;
  const beside = (place: number): number => {
    const v = place < n ? met.vertices[place]! : place - n;
    return origins.from(v, Math.floor(phi[v]!));
  };
  return { lines, doubtful: met.places, beside };
}

/** Tells from which line the front came that crosses an edge. */
class Origins {
  private readonly lines = new Map<number, number>();

  constructor(
    private readonly phi: Float64Array,
    private readonly edges: NetEdges,
    private readonly at: ReturnType<typeof trianglesAt>,
    private readonly seed: Int32Array,
  ) {}

  put({ edges, level }: { edges: Uint32Array; level: number }, line: number): void {
    for (const e of edges) this.lines.set(this.key(e, level), line);
  }

  /** Down from the lower end of an edge to a level's line, or to the seed. */
  of(edge: number, level: number): number {
    const { phi, edges } = this;
    const { ends } = edges;
    const [p, q] = [ends[2 * edge]!, ends[2 * edge + 1]!];
    const v = phi[q]! < phi[p]! ? q : p;
    const own = this.lines.get(this.key(edge, level));
    return own !== undefined && phi[v]! < level ? own : this.from(v, level);
  }

  /** Down from a vertex to a level's line, or to the seed; -1 where none leads there. */
  from(v: number, level: number): number {
    const { phi, edges, at, seed } = this;
    const { ends, ofTriangle } = edges;
    for (;;) {
      let [best, over] = [-1, -1];
      let least = phi[v]!;
      for (let k = at.first[v]!; k < at.first[v + 1]!; k++)
        for (let c = 0; c < 3; c++) {
          const e = ofTriangle[3 * at.of[k]! + c]!;
          const [p, q] = [ends[2 * e]!, ends[2 * e + 1]!];
          if (p !== v && q !== v) continue;
          const w = p + q - v;
          if (phi[w]! >= least) continue;
          least = phi[w]!;
          [best, over] = [w, e];
        }
      if (best < 0) return seed[v]!;
      const found = phi[best]! < level && phi[v]! >= level ? this.lines.get(this.key(over, level)) : undefined;
      if (found !== undefined) return found;
      v = best;
    }
  }

  private key(edge: number, level: number): number {
    return level * this.edges.uses.length + edge;
  }
}

function placesOf(centres: Float64Array, vertices: readonly number[]): Float64Array {
  const out = new Float64Array(3 * vertices.length);
  vertices.forEach((v, k) => out.set(centres.subarray(3 * v, 3 * v + 3), 3 * k));
  return out;
}

function placeOn(
  centres: Float64Array,
  { ends }: NetEdges,
  edge: number,
  share: number,
  out: Float64Array,
  o: number,
): void {
  const [p, q] = [3 * ends[2 * edge]!, 3 * ends[2 * edge + 1]!];
  for (let axis = 0; axis < 3; axis++)
    out[o + axis] = centres[p + axis]! + share * (centres[q + axis]! - centres[p + axis]!);
}

/**
 * Turned round where the steel that is still to be cut would lie on the wrong side: climb milling has it on the right.
 *
 * @param low a vertex on the line or before it, and `high` one beyond it, at a greater distance
 */
function mayTurn(
  points: Float64Array,
  low: number,
  high: number,
  { centres, normals }: GroundNet,
  { direction, isInward }: EvenAsk,
): Float64Array {
  if (direction === 'shortest' || points.length < 6) return points;
  const n = [0, 1, 2].map((axis) => normals[3 * low + axis]! + normals[3 * high + axis]!) as [number, number, number];
  const g = [0, 1, 2].map((axis) => centres[3 * high + axis]! - centres[3 * low + axis]!);
  const t = [0, 1, 2].map((axis) => points[3 + axis]! - points[axis]!) as [number, number, number];
  const right = [t[1] * n[2] - t[2] * n[1], t[2] * n[0] - t[0] * n[2], t[0] * n[1] - t[1] * n[0]];
  const isRight = right[0]! * g[0]! + right[1]! * g[1]! + right[2]! * g[2]! > 0;
  const isClimb = isRight === isInward;
  return isClimb === (direction === 'climb') ? points : turned(points);
}

/** Places where fronts meet farther from the last lines on both sides than half a pass: middles of the round near the surface. */
function doubtful(
  { centres }: GroundNet,
  { ends }: NetEdges,
  { phi, from, share }: Marched,
  length: (a: number, b: number) => number,
): { places: Float64Array; vertices: Uint32Array } {
  const c = centres;
  // the unit vector along which the front came to each vertex; zero at seeds
  const came = new Float32Array(c.length);
  for (let v = 0; v < phi.length; v++) {
    const [a, b] = [3 * from[2 * v]!, 3 * from[2 * v + 1]!];
    if (a < 0) continue;
    const o = 3 * v;
    const s = share[v]!;
    const x = c[o]! - c[a]! - s * (c[b]! - c[a]!);
    const y = c[o + 1]! - c[a + 1]! - s * (c[b + 1]! - c[a + 1]!);
    const z = c[o + 2]! - c[a + 2]! - s * (c[b + 2]! - c[a + 2]!);
    const l = Math.max(Math.sqrt(x * x + y * y + z * z), 1e-12);
    came[o] = x / l;
    came[o + 1] = y / l;
    came[o + 2] = z / l;
  }
  const places: number[] = [];
  const vertices: number[] = [];
  for (let e = 0; e < ends.length / 2; e++) {
    const [va, vb] = [ends[2 * e]!, ends[2 * e + 1]!];
    const [a, b] = [3 * va, 3 * vb];
    const x = c[b]! - c[a]!;
    const y = c[b + 1]! - c[a + 1]!;
    const z = c[b + 2]! - c[a + 2]!;
    const toA = came[a]! * x + came[a + 1]! * y + came[a + 2]! * z;
    const toB = -(came[b]! * x + came[b + 1]! * y + came[b + 2]! * z);
    const far = Math.sqrt(x * x + y * y + z * z);
    if (!Number.isFinite(phi[va]! + phi[vb]!)) continue;
    if (!(toA + toB > MEET * far)) continue;
    const l = length(va, vb);
    const s = Math.min(1, Math.max(0, ((phi[vb]! - phi[va]!) * far + l * toB) / (l * (toA + toB))));
    const meet = phi[va]! + (s * l * toA) / far;
    if (meet - Math.floor(meet) < HALF_PASS) continue;
    places.push(c[a]! + s * x, c[a + 1]! + s * y, c[a + 2]! + s * z);
    vertices.push(phi[va]! < phi[vb]! ? va : vb);
  }
  return { places: Float64Array.from(places), vertices: Uint32Array.from(vertices) };
}
