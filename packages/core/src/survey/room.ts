import type { Cancel } from '../base/cancel';
import type { ContactMesh } from '../geometry/contactMesh';
import { unit, type Vec3 } from '../geometry/vector';
import type { Place } from './bendPeaks';
import { Rolling, ROOMY_MM } from './rolling';
import { endsOf, middleOf, type Surface } from './surface';
import type { Neighbours } from './vertices';

/** Vertices of bends at which a ball is rolled, about at most. */
const MOST_VERTICES = 30_000;
/** Points on plane triangles, about at most. */
const MOST_POINTS = 15_000;
/** Above this many triangles fewer places are looked at. */
const FINE_TRIANGLES = 130_000;
/** Spacing of points on large plane triangles, mm. */
const SPACING_MM = 2;
/** Radii from this on are evened out over the vertices beside one another: there the ball is held by what stands across. */
const EVENED_FROM_MM = ROOMY_MM / 3;
const EVEN_ROUNDS = 8;
/** Rounds by which single odd vertices give way to those around them. */
const SPECK_ROUNDS = 2;

/** The surface with what the rolling ball asks of it. */
export interface Bends {
  surface: Surface;
  /** Unit normal of each vertex, of no use on sharp edges. */
  normal: Float64Array;
  beside: Neighbours;
  /** The plane that a triangle belongs to, numbered from 0; -1 in bends. */
  planeOf: Int32Array;
  /** Whether a vertex lies on a sharp or open edge. */
  onSharp: Uint8Array;
  /** A bent triangle at each vertex, -1 where there is none. */
  triangleAt: Int32Array;
}

/** Radii (mm, at most {@link ROOMY_MM}) of the largest balls that touch a part from outside. */
export interface Room {
  /** At each vertex of a bend that is not on a sharp edge, as measured; else {@link ROOMY_MM}. */
  atVertex: Float32Array;
  /** At each corner of each triangle, evened out for the eye. */
  atCorner: Float32Array;
}

/** Rolls balls over a part. */
export class RoomFinder {
  /** Smallest distance between two walls that face each other. */
  gap?: Place;
  private readonly roll: Rolling;
  private readonly fewer: number;
  private last = ROOMY_MM;

  /** @param besides triangles whose gap does not count, since holes are drilled */
  constructor(
    private readonly bends: Bends,
    contact: ContactMesh,
    private readonly besides: ReadonlySet<number>,
    private readonly cancel?: Cancel,
  ) {
    this.roll = new Rolling(contact);
    // nearest points cost more the finer the mesh
    this.fewer = Math.min(1, Math.sqrt(FINE_TRIANGLES / bends.surface.count));
  }

  /** @param onStrip told of each edge between two strips of a bend without places inside: the radius there */
  find(strips: readonly number[], onStrip: (edge: number, at: Vec3, radius: number) => void): Room {
    const { surface, planeOf } = this.bends;
    const atVertex = this.atVertices();
    const atStrip = this.atStrips(strips, onStrip);
    const atCorner = new Float32Array(3 * surface.count);
    const even = this.evened(atVertex);
    for (let t = 0; t < surface.count; t++) if (planeOf[t]! < 0) this.fillBend(t, even, atStrip[t]!, atCorner);
    this.fillPlanes(atCorner);
    return { atVertex, atCorner };
  }

  private take(t: number, at: Vec3, n: Vec3, turn: number): number {
    this.cancel?.check();
    const r = this.roll.at(at, n, this.last, turn);
    if (this.roll.opposite && 2 * r < (this.gap?.value ?? 2 * ROOMY_MM) && !this.besides.has(t))
      this.gap = { value: 2 * r, at, triangle: t };
    this.last = r;
    return r;
  }

  /** Bends by their vertices, each begun with what the one before has room for. */
  private atVertices(): Float32Array {
    const { surface, normal, triangleAt, beside } = this.bends;
    const { mesh, count, turn } = surface;
    const p = mesh.positions;
    const turns = new Float32Array(triangleAt.length);
    for (let h = 0; h < 3 * count; h++)
      for (const v of endsOf(mesh, h)) turns[v] = Math.max(turns[v]!, Math.abs(turn[h]!));
    const room = new Float32Array(triangleAt.length).fill(ROOMY_MM);
    let bent = 0;
    for (let v = 0; v < room.length; v++) if (this.isBent(v)) bent++;
    const every = Math.max(1, Math.ceil(bent / (MOST_VERTICES * this.fewer)));
    const looked = new Uint8Array(room.length);
    for (let v = 0; v < room.length; v += every) {
      if (!this.isBent(v)) continue;
      const at: Vec3 = [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
      const n: Vec3 = [normal[3 * v]!, normal[3 * v + 1]!, normal[3 * v + 2]!];
      room[v] = this.take(triangleAt[v]!, at, n, turns[v]!);
      looked[v] = 1;
    }
    if (every > 1) spreadOut(beside, looked, room);
    return room;
  }

  private isBent(v: number): boolean {
    return this.bends.triangleAt[v]! >= 0 && !this.bends.onSharp[v];
  }

  /** Bends without places inside, such as the long strips of a straight fillet: by the middles of their edges. */
  private atStrips(strips: readonly number[], onStrip: (edge: number, at: Vec3, radius: number) => void): Float32Array {
    const { mesh, count, twin, normals, turn } = this.bends.surface;
    const p = mesh.positions;
    const least = new Float32Array(count).fill(Infinity);
    const every = Math.max(1, Math.ceil(strips.length / (MOST_VERTICES * this.fewer)));
    for (let k = 0; k < strips.length; k += every) {
      const h = strips[k]!;
      const t = (h / 3) | 0;
      const s = (twin[h]! / 3) | 0;
      const [a, b] = endsOf(mesh, h);
      const at = [0, 1, 2].map((c) => (p[3 * a + c]! + p[3 * b + c]!) / 2) as Vec3;
      const n = unit([0, 1, 2].map((c) => normals[3 * t + c]! + normals[3 * s + c]!) as Vec3);
      const radius = this.take(t, at, n, Math.abs(turn[h]!));
      for (const side of [t, s]) least[side] = Math.min(least[side]!, radius);
      onStrip(h, at, radius);
    }
    return least;
  }

  /** Corners on sharp edges have the room that the triangle's others have: there the normal is not the surface's own. */
  private fillBend(t: number, room: Float32Array, atStrip: number, out: Float32Array): void {
    const { surface, onSharp } = this.bends;
    let sum = 0;
    let n = 0;
    for (let c = 0; c < 3; c++) {
      const v = surface.mesh.indices[3 * t + c]!;
      if (onSharp[v]) continue;
      sum += room[v]!;
      n++;
    }
    const others = n > 0 ? sum / n : atStrip < Infinity ? atStrip : this.atMiddle(t);
    for (let c = 0; c < 3; c++) {
      const v = surface.mesh.indices[3 * t + c]!;
      out[3 * t + c] = onSharp[v] ? others : room[v]!;
    }
  }

  private atMiddle(t: number): number {
    return this.take(t, middleOf(this.bends.surface.mesh, t), this.normalOf(t), 0);
  }

  private normalOf(t: number): Vec3 {
    const { normals } = this.bends.surface;
    return [normals[3 * t]!, normals[3 * t + 1]!, normals[3 * t + 2]!];
  }

  /** Planes, by points spread over them: the whole plane has the middle one of what they have. */
  private fillPlanes(out: Float32Array): void {
    const { surface, planeOf } = this.bends;
    let area = 0;
    for (let t = 0; t < surface.count; t++) if (planeOf[t]! >= 0) area += surface.areas[t]!;
    const spacing = Math.max(SPACING_MM, Math.sqrt(area / (MOST_POINTS * this.fewer)));
    const rooms: number[][] = [];
    const passed: number[] = [];
    for (let t = 0; t < surface.count; t++) {
      const plane = planeOf[t]!;
      if (plane < 0) continue;
      // of many small triangles only as many are looked at as their area asks for
      passed[plane] = (passed[plane] ?? Infinity) + surface.areas[t]!;
      if (passed[plane]! < 0.5 * spacing * spacing) continue;
      passed[plane] = 0;
      const n = this.normalOf(t);
      for (const at of pointsOn(surface, t, spacing)) (rooms[plane] ??= []).push(this.take(t, at, n, 0));
    }
    const middle = rooms.map((all) => all.sort((a, b) => a - b)[all.length >> 1]!);
    for (let t = 0; t < surface.count; t++) if (planeOf[t]! >= 0) out.fill(middle[planeOf[t]!]!, 3 * t, 3 * t + 3);
  }

  /** Single odd vertices give way to those around; large radii are the mean of what lies around, small ones stay. */
  private evened(room: Float32Array): Float32Array {
    const { starts, around } = this.bends.beside;
    let now = room;
    const near: number[] = [];
    for (let round = 0; round < SPECK_ROUNDS + EVEN_ROUNDS; round++) {
      const next = now.slice();
      for (let v = 0; v < now.length; v++) {
        if (!this.isBent(v)) continue;
        const means = round >= SPECK_ROUNDS;
        if (means && now[v]! < EVENED_FROM_MM) continue;
        near.length = 0;
        near.push(now[v]!);
        for (let k = starts[v]!; k < starts[v + 1]!; k++) {
          const w = around[k]!;
          if (this.isBent(w) && !(means && now[w]! < EVENED_FROM_MM)) near.push(now[w]!);
        }
        next[v] = means
          ? near.reduce((sum, r) => sum + r, 0) / near.length
          : near.sort((a, b) => a - b)[(near.length - 1) >> 1]!;
      }
      now = next;
    }
    return now;
  }
}

/** Points spread over a plane triangle, inside its edges. */
function pointsOn({ mesh, areas }: Surface, t: number, spacing: number): Vec3[] {
  const { positions: p, indices } = mesh;
  const steps = Math.min(40, Math.max(1, Math.round(Math.sqrt(2 * areas[t]!) / spacing)));
  const out: Vec3[] = [];
  const [a, b, c] = [3 * indices[3 * t]!, 3 * indices[3 * t + 1]!, 3 * indices[3 * t + 2]!];
  for (let i = 0; i < steps; i++)
    for (let j = 0; j < steps - i; j++) {
      const u = (i + 1 / 3) / steps;
      const v = (j + 1 / 3) / steps;
      const w = 1 - u - v;
      out.push([0, 1, 2].map((k) => w * p[a + k]! + u * p[b + k]! + v * p[c + k]!) as Vec3);
    }
  return out;
}

/** Gives vertices that were passed over the mean of what the ones beside them have. */
function spreadOut({ starts, around }: Neighbours, looked: Uint8Array, room: Float32Array): void {
  for (let round = 0; round < 3; round++) {
    const known = looked.slice();
    for (let v = 0; v < looked.length; v++) {
      if (known[v]) continue;
      let sum = 0;
      let n = 0;
      for (let k = starts[v]!; k < starts[v + 1]!; k++) {
        if (!known[around[k]!]) continue;
        sum += room[around[k]!]!;
        n++;
      }
      if (n === 0) continue;
      room[v] = sum / n;
      looked[v] = 1;
    }
  }
}
