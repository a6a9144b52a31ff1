import { sharedFloat64, sharedUint8 } from '../base/shared';
import { type Crew, spansOf } from '../crew/crew';
import { defineTask } from '../crew/task';
import type { HeightMap } from '../steel/heightMap';
import { CutterDrop } from '../tool/drop';
import { type Bounds, BoundsTest } from './bounds';
import { Buried } from './buried';
import type { ContactNet } from './contactNet';
import { netEdges } from './netEdges';
import { OnSurface } from './onSurface';
import { TipSurface, type TipSurfaceSpec } from './tipSurface';
import type { RoundPiece } from '../tool/profile';
import { Wanted, type WantedSpec } from './wanted';

/** The part is looked for so far beyond what the round touches, mm. */
const BEYOND_MM = 0.02;
/** The ground's border is found between two vertices by halving their edge so often. */
const HALVINGS = 8;
/** It holds where it came this near, mm. */
const HOLDS_MM = 2e-3;
/** The cutter may stand where its tip is no lower than this below the tip surface, and is looked at so far off the part, mm. */
const BELOW_MM = 5e-3;
const OFF_MM = 1e-3;
const PIECE = 6000;

/** What of a place of the net is: ground to be cut, or why it is none. */
export const Ground = { yes: 1, nothing: 0, closed: 2, unwanted: 3, steel: 4 } as const;

/** Where the ground is that a step cuts. */
export interface GroundAsk {
  readonly spec: TipSurfaceSpec;
  readonly bounds: Bounds;
  readonly wanted: WantedSpec;
  readonly steel: HeightMap;
  /** Steel that reaches deeper into the cutter is left alone, mm. */
  readonly mostSteel: number;
  /** The tip goes no lower, mm. */
  readonly lowest: number;
  /** The cutter of whose corner the net is, when that is not all of it: it stands off by its flat, and has to have room. */
  readonly whole?: RoundPiece;
}

/** A net that ends where the ground does. */
export interface GroundNet {
  readonly count: number;
  readonly centres: Float64Array;
  readonly normals: Float64Array;
  readonly triangles: Uint32Array;
  /** Lines of vertices along its border. */
  readonly border: readonly { readonly vertices: readonly number[]; readonly isClosed: boolean }[];
  /** Middles of the round beside which too much steel stands. */
  readonly steel: readonly (readonly [number, number, number])[];
}

class GroundTest {
  private readonly on: OnSurface;
  private readonly surface: TipSurface;
  private readonly ray: CutterDrop;
  private readonly bounds: BoundsTest;
  private readonly wanted: Wanted;
  private readonly buried: Buried;
  private readonly whole: TipSurface | undefined;

  constructor(private readonly ask: GroundAsk) {
    const { spec, steel } = ask;
    this.on = new OnSurface(spec);
    this.surface = new TipSurface(spec);
    this.ray = new CutterDrop(spec.mesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    this.bounds = new BoundsTest(ask.bounds);
    this.wanted = new Wanted(ask.wanted, spec.piece, steel);
    const { whole } = ask;
    this.whole = whole && new TipSurface({ ...spec, piece: whole });
    this.buried = new Buried(steel, whole ?? spec.piece, ask.mostSteel);
  }

  /** What a middle of the round is that lies on the net, with its normal. */
  at(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
    const { spec, lowest } = this.ask;
    const tip = z - spec.piece.corner;
    if (tip < lowest) return Ground.unwanted;
    const level = Math.hypot(nx, ny);
    const { reach } = this.on;
    if (level > 1e-6) {
      // beyond the part's border there is nothing: the round only rolls over it
      const back = reach - BEYOND_MM / level;
      if (this.ray.at(x - back * nx, y - back * ny) === -Infinity) return Ground.nothing;
    }
    const away = level > 1e-6 ? (this.ask.whole?.flat ?? 0) / level : 0;
    const [ax, ay] = [x + away * nx, y + away * ny];
    if (this.whole?.forbids(ax + OFF_MM * nx, ay + OFF_MM * ny, tip + BELOW_MM)) return Ground.nothing;
    if (this.bounds.forbids(ax, ay, tip)) return Ground.closed;
    const lift = spec.floor - spec.side;
    const touched = { x: x - reach * nx, y: y - reach * ny, z: z - lift - reach * nz, nx, ny, nz };
    if (!this.wanted.at(touched, x, y, tip)) return Ground.unwanted;
    return this.buried.at(ax, ay, tip) ? Ground.steel : Ground.yes;
  }

  /** The last place that is ground between one that is and one that is not: put into `on`. */
  border(inside: ArrayLike<number>, outside: ArrayLike<number>): OnSurface {
    const { on } = this;
    let [good, bad] = [0, 1];
    const put = (t: number): number =>
      on.put(
        inside[0]! + t * (outside[0]! - inside[0]!),
        inside[1]! + t * (outside[1]! - inside[1]!),
        inside[2]! + t * (outside[2]! - inside[2]!),
      );
    for (let k = 0; k < HALVINGS; k++) {
      const t = (good + bad) / 2;
      const off = put(t);
      const isGood = off < HOLDS_MM && this.isOpen() && this.at(on.x, on.y, on.z, on.nx, on.ny, on.nz) === Ground.yes;
      if (isGood) good = t;
      else bad = t;
    }
    put(good);
    return on;
  }

  private isOpen(): boolean {
    const { on } = this;
    const tip = on.z - this.ask.spec.piece.corner + BELOW_MM;
    return !this.surface.forbids(on.x + OFF_MM * on.nx, on.y + OFF_MM * on.ny, tip);
  }
}

type NetArrays = Pick<ContactNet, 'centres' | 'normals' | 'holds'>;

/** Tells for vertices of a net whether they are ground. */
export const groundTask = defineTask(
  'ground',
  (
    { net, ask, marks, rows }: { net: NetArrays; ask: GroundAsk; marks: Uint8Array; rows: [number, number] },
    cancel,
  ): void => {
    const test = new GroundTest(ask);
    const { centres: c, normals: n, holds } = net;
    for (let v = rows[0]; v < rows[1]; v++) {
      if ((v & 255) === 0) cancel.check();
      const o = 3 * v;
      marks[v] = holds[v] ? test.at(c[o]!, c[o + 1]!, c[o + 2]!, n[o]!, n[o + 1]!, n[o + 2]!) : Ground.nothing;
    }
  },
);

/** Finds where edges from ground to none end on it: middle and normal of each, written after one another. */
export const borderTask = defineTask(
  'groundBorder',
  (
    {
      net,
      ask,
      ends,
      out,
      rows,
    }: { net: NetArrays; ask: GroundAsk; ends: Uint32Array; out: Float64Array; rows: [number, number] },
    cancel,
  ): void => {
    const test = new GroundTest(ask);
    const at = (v: number): Float64Array => net.centres.subarray(3 * v, 3 * v + 3);
    for (let k = rows[0]; k < rows[1]; k++) {
      if ((k & 63) === 0) cancel.check();
      const on = test.border(at(ends[2 * k]!), at(ends[2 * k + 1]!));
      out.set([on.x, on.y, on.z, on.nx, on.ny, on.nz], 6 * k);
    }
  },
);

/**
 * What of a net is ground, cut off where it ends.
 *
 * @param isValley whether the net lies beside a valley at a vertex: what does not hold there lies between its two sides
 */
export async function groundOf(
  net: ContactNet,
  ask: GroundAsk,
  isValley: (v: number) => boolean,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<GroundNet> {
  const { count, centres, normals, holds, triangles } = net;
  const arrays = { centres, normals, holds };
  for (let v = 0; v < count; v++) if (!holds[v] && isValley(v)) holds[v] = 1;
  const marks = sharedUint8(count);
  const spans = spansOf(count, Math.ceil(count / PIECE));
  await crew.all(
    groundTask,
    spans.map((rows) => ({ net: arrays, ask, marks, rows })),
    (done) => onDone((0.8 * done) / spans.length),
  );
  return cutOff(net, netEdges(count, triangles), marks, async (ends) => {
    const out = sharedFloat64(3 * ends.length);
    const pieces = spansOf(ends.length / 2, Math.max(1, Math.ceil(ends.length / 2 / 500)));
    await crew.all(
      borderTask,
      pieces.map((rows) => ({ net: arrays, ask, ends, out, rows })),
      (done) => onDone(0.8 + (0.2 * done) / pieces.length),
    );
    return out;
  });
}

async function cutOff(
  { count, centres, normals, triangles }: ContactNet,
  { ends, ofTriangle, uses }: ReturnType<typeof netEdges>,
  marks: Uint8Array,
  findEnds: (ends: Uint32Array) => Promise<Float64Array>,
): Promise<GroundNet> {
  const isIn = (v: number): boolean => marks[v] === Ground.yes;
  /** Number of the border's place on each edge that crosses it, from 0 on; -1 at others. */
  const crossing = new Int32Array(ends.length / 2).fill(-1);
  const crossed: number[] = [];
  const steel: [number, number, number][] = [];
  for (let e = 0; e < crossing.length; e++) {
    const [a, b] = [ends[2 * e]!, ends[2 * e + 1]!];
    if (isIn(a) === isIn(b)) continue;
    crossing[e] = crossed.length / 2;
    crossed.push(...(isIn(a) ? [a, b] : [b, a]));
    const out = isIn(a) ? b : a;
    if (marks[out] === Ground.steel) steel.push([centres[3 * out]!, centres[3 * out + 1]!, centres[3 * out + 2]!]);
  }
  const places = await findEnds(Uint32Array.from(crossed));
  // vertices that are ground first, then the border's
  const number = new Int32Array(count).fill(-1);
  let kept = 0;
  for (let v = 0; v < count; v++) if (isIn(v)) number[v] = kept++;
  const total = kept + crossed.length / 2;
  const own = { centres: sharedFloat64(3 * total), normals: sharedFloat64(3 * total) };
  for (let v = 0; v < count; v++) {
    if (number[v]! < 0) continue;
    for (let axis = 0; axis < 3; axis++) {
      own.centres[3 * number[v]! + axis] = centres[3 * v + axis]!;
      own.normals[3 * number[v]! + axis] = normals[3 * v + axis]!;
    }
  }
  for (let k = 0; k < crossed.length / 2; k++) {
    own.centres.set(places.subarray(6 * k, 6 * k + 3), 3 * (kept + k));
    own.normals.set(places.subarray(6 * k + 3, 6 * k + 6), 3 * (kept + k));
  }
  const out: number[] = [];
  const beside = new Map<number, number[]>();
  const join = (a: number, b: number): void => {
    for (const [p, q] of [
      [a, b],
      [b, a],
    ] as const) {
      const list = beside.get(p);
      if (list) list.push(q);
      else beside.set(p, [q]);
    }
  };
  for (let t = 0; t < triangles.length; t += 3) {
    const [va, vb, vc] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const inside = Number(isIn(va)) + Number(isIn(vb)) + Number(isIn(vc));
    if (inside === 0) continue;
    if (inside === 3) {
      out.push(number[va]!, number[vb]!, number[vc]!);
      if (uses[ofTriangle[t]!] === 1) join(number[va]!, number[vb]!);
      if (uses[ofTriangle[t + 1]!] === 1) join(number[vb]!, number[vc]!);
      if (uses[ofTriangle[t + 2]!] === 1) join(number[vc]!, number[va]!);
      continue;
    }
    const corners = [va, vb, vc];
    const mine = corners.map((v) => number[v]!);
    // turned so that the corner that differs from both others comes first
    const first = corners.findIndex((v) => isIn(v) === (inside === 1));
    const [b, c] = [(first + 1) % 3, (first + 2) % 3];
    const onAB = kept + crossing[ofTriangle[t + first]!]!;
    const onCA = kept + crossing[ofTriangle[t + c]!]!;
    if (inside === 1) out.push(mine[first]!, onAB, onCA);
    else out.push(onAB, mine[b]!, mine[c]!, onAB, mine[c]!, onCA);
    join(onAB, onCA);
  }
  return { count: total, ...own, triangles: Uint32Array.from(out), border: chains(beside), steel };
}

/** Ways along linked numbers, each link once. */
function chains(beside: ReadonlyMap<number, readonly number[]>): { vertices: number[]; isClosed: boolean }[] {
  const open = new Map([...beside].map(([v, list]) => [v, new Set(list)]));
  const out: { vertices: number[]; isClosed: boolean }[] = [];
  const follow = (start: number): void => {
    const vertices = [start];
    for (let at = start; ;) {
      const on = [...open.get(at)!][0];
      if (on === undefined) break;
      open.get(at)!.delete(on);
      open.get(on)!.delete(at);
      if (on === start) {
        out.push({ vertices, isClosed: true });
        return;
      }
      vertices.push(on);
      at = on;
    }
    if (vertices.length > 1) out.push({ vertices, isClosed: false });
  };
  for (const [v, list] of beside) if (list.length % 2 === 1 && open.get(v)!.size > 0) follow(v);
  for (const v of beside.keys()) while (open.get(v)!.size > 0) follow(v);
  return out;
}
