import { slimmer } from '../tool/profile';
import type { Cancel } from '../base/cancel';
import { type Contact, CutterDrop } from '../tool/drop';
import type { ContactMesh } from '../geometry/contactMesh';
import { markKept } from '../geometry/polygon';
import { type Bounds, BoundsTest } from '../field/bounds';
import { Buried } from '../field/buried';
import { TipSurface, type TipSurfaceSpec } from '../field/tipSurface';
import type { HeightMap } from '../steel/heightMap';
import { Wanted, type WantedSpec } from '../field/wanted';
import { ENOUGH } from './scallop';

/** Shares of the step's tolerance for the chords and for leaving out points. */
const CHORD_SHARE = 0.45;
const SIMPLIFY_SHARE = 0.35;
/** What rounding may have a cutter in an upright wall, mm. */
const ROUNDING_MM = 0.002;
/** Samples are not taken closer than this, mm: at a jump of the tip surface the pass goes up at the near side. */
const CLOSEST_MM = 0.003;
/** Where beside the middle a chord is tested too, as a share of it, and the slope from which at both sides. */
const EARLY = 0.23;
const STEEP = 0.4;
/** A chord rises by at most this, mm: on a steep wall a short step in plan is a long way along the wall. */
const TALLEST_MM = 0.8;
/** A pass's end is found to this length, mm. */
const END_MM = 0.01;
/** Shorter pieces of a pass are left out, mm. */
const SHORTEST_MM = 0.3;
/** How far beyond a touched edge the part is looked for, mm. */
const BEYOND_EDGE_MM = 0.02;
/** Steeper ends are extended level, since their tangent would lead down beside the part. */
const STEEPEST_EXTENSION = 0.7;

export interface ScanInput {
  spec: TipSurfaceSpec;
  bounds: Bounds;
  /** Steel before the step. */
  stock: HeightMap;
  /** Steel that reaches deeper than this into the cutter's round is left alone, mm. */
  mostSteel: number;
  lowest: number;
  tolerance: number;
  extension: number;
  wanted: WantedSpec;
  /** Gaps shorter than this between what is wanted are passed over as well, mm: that is quicker than a lift. */
  join: number;
  /** Distance between neighbouring passes of a ball on the surface, mm, that leaves the ridges that are asked for. */
  sideStep: number;
  lines: ScanLine[];
}

/** A straight line in plan: from (x, y) along (ux, uy) for `length` mm. */
export interface ScanLine {
  /** Neighbours have neighbouring numbers. */
  number: number;
  /** Only where the passes of each of these families lie too far apart on the surface. */
  onlyBetween?: readonly Between[];
  x: number;
  y: number;
  ux: number;
  uy: number;
  length: number;
}

/** Passes beside a place: so far to either side along (ux, uy), which is square to them. */
export interface Between {
  readonly ux: number;
  readonly uy: number;
  readonly apart: number;
  /** Where they lie farther apart on the surface than so many side steps it is too steep for more of them. */
  readonly most: number;
}

/** A piece of a pass: x, y, z one after another. */
export interface ScanRun {
  line: number;
  points: Float64Array;
  /** Whether the pass was cut short by too much steel at its start and end. */
  stoppedBySteel: [boolean, boolean];
  /** It is cut in the order of its points only. */
  oneWay?: true;
  /** It is entered from above, not from its neighbour over the surface. */
  fromAbove?: true;
  /** It is left straight up at feed: steel that the flutes do not reach overhangs it. */
  leavesAtFeed?: true;
}

/** Tip height at a place along a line, mm. */
type Heights = (s: number) => number;
type Stop = 'none' | 'edge' | 'steel' | 'limit' | 'unwanted';

/** Works out passes of a round cutter along straight lines in plan, within the tolerance between points too. */
export function scanLines(input: ScanInput, cancel?: Cancel): ScanRun[] {
  const follower = new SurfaceFollower(input);
  return input.lines.flatMap((line) => {
    cancel?.check();
    return follower.runs(line);
  });
}

interface Look {
  s: number;
  z: number;
  stop: Stop;
}

/** Short gaps in what is wanted count as wanted, but where something is in the way. */
function passOver(looks: Look[], join: number, isBlocked: (look: Look) => boolean): void {
  let last = -1;
  let way = 0;
  for (const [k, here] of looks.entries()) {
    const before = looks[k - 1];
    if (before) way += Math.hypot(here.s - before.s, here.z - before.z);
    if (here.stop !== 'none' && here.stop !== 'unwanted') last = -1;
    if (here.stop !== 'none') continue;
    const gap = last >= 0 && way <= join ? looks.slice(last + 1, k) : [];
    if (!gap.some(isBlocked)) for (const look of gap) look.stop = 'none';
    last = k;
    way = 0;
  }
}

export class SurfaceFollower {
  private readonly surface: TipSurface;
  /** For a cutter slimmer by what passes may be off: on an upright wall their chords would have it on top. */
  readonly slim: TipSurface;
  private readonly bounds: BoundsTest;
  private readonly ray: CutterDrop;
  private readonly stride: number;
  private readonly chord: number;
  private readonly buried: Buried;
  private readonly wanted: Wanted;
  private readonly corner: number;

  constructor(private readonly input: ScanInput) {
    this.surface = new TipSurface(input.spec);
    this.slim = new TipSurface({ ...input.spec, piece: slimmer(input.spec.piece, input.tolerance + ROUNDING_MM) });
    this.bounds = new BoundsTest(input.bounds);
    this.ray = new CutterDrop(input.spec.mesh as ContactMesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    this.buried = new Buried(input.stock, input.spec.piece, input.mostSteel);
    this.wanted = new Wanted(input.wanted, input.spec.piece, input.stock);
    this.corner = input.spec.piece.corner;
    // a spike between two samples lifts a round of radius R by no more than stride²/8R at the samples' middle
    this.stride = Math.min(0.4, Math.sqrt(4 * this.corner * input.tolerance));
    this.chord = CHORD_SHARE * input.tolerance;
  }

  runs(line: ScanLine): ScanRun[] {
    const height = this.along(line);
    const n = Math.max(1, Math.ceil(line.length / this.stride));
    const runs: ScanRun[] = [];
    let points: number[] = [];
    let startStop: Stop = 'none';
    let before: Look | undefined;
    const close = (stop: Stop): void => {
      const run = this.finish(line, points, startStop, stop);
      if (run) runs.push(run);
      points = [];
    };
    const looks = Array.from({ length: n + 1 }, (_, k) => {
      const s = (line.length * k) / n;
      return { s, ...this.look(line, s) };
    });
    if (!this.wanted.everywhere || line.onlyBetween)
      passOver(looks, this.input.join, ({ s, z }) => this.buried.at(line.x + s * line.ux, line.y + s * line.uy, z));
    for (const here of looks) {
      if (here.stop === 'none') {
        if (before && before.stop !== 'none') {
          startStop = before.stop;
          const edge = this.border(line, here.s, before.s);
          points.push(edge.s, edge.z);
          this.between(height, edge.s, edge.z, here.s, here.z, points);
        } else if (before) this.between(height, before.s, before.z, here.s, here.z, points);
        else startStop = 'edge';
        points.push(here.s, here.z);
      } else if (before && before.stop === 'none') {
        const edge = this.border(line, before.s, here.s);
        this.between(height, before.s, before.z, edge.s, edge.z, points);
        points.push(edge.s, edge.z);
        close(here.stop);
      }
      before = here;
    }
    if (points.length > 0) close('edge');
    return this.joined(line, runs);
  }

  /** Whether a way of x, y, z one after another meets no more steel than the cutter may. */
  isClear(way: readonly number[]): boolean {
    for (let k = 3; k < way.length; k += 3) {
      const [ax, ay, az, bx, by, bz] = way.slice(k - 3, k + 3) as [number, number, number, number, number, number];
      const n = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / this.input.stock.cell));
      for (let s = 1; s <= n; s++)
        if (this.buried.at(ax + (s / n) * (bx - ax), ay + (s / n) * (by - ay), az + (s / n) * (bz - az))) return false;
    }
    return true;
  }

  /**
   * Points of a straight way in plan from a to b, b included: on the line between them, or on the surface where that is
   * higher.
   *
   * @param surface what it keeps above: for ways along walls, on which it is as far off as their passes, a slimmer one
   */
  over(ax: number, ay: number, az: number, bx: number, by: number, bz: number, surface = this.surface): number[] {
    const length = Math.hypot(bx - ax, by - ay);
    if (length < CLOSEST_MM) return [ax, ay, Math.max(az, bz), bx, by, bz];
    const [ux, uy] = [(bx - ax) / length, (by - ay) / length];
    const height: Heights = (s) => Math.max(az + (s / length) * (bz - az), surface.at(ax + s * ux, ay + s * uy));
    const n = Math.ceil(length / this.stride);
    const out: number[] = [];
    let before = az;
    for (let k = 1; k <= n; k++) {
      const z = k === n ? bz : height((length * k) / n);
      this.between(height, (length * (k - 1)) / n, before, (length * k) / n, z, out);
      out.push((length * k) / n, z);
      before = z;
    }
    const xyz: number[] = [];
    for (let k = 0; k < out.length; k += 2) xyz.push(ax + out[k]! * ux, ay + out[k]! * uy, out[k + 1]!);
    return xyz;
  }

  /** Whether a way of x, y, z one after another stays out of what is closed to the axis. */
  isOpen(way: readonly number[]): boolean {
    if (this.bounds.none) return true;
    for (let k = 0; k < way.length; k += 3) if (this.bounds.forbids(way[k]!, way[k + 1]!, way[k + 2]!)) return false;
    return true;
  }

  private along(line: ScanLine): Heights {
    return (s) => this.surface.at(line.x + s * line.ux, line.y + s * line.uy);
  }

  private look(line: ScanLine, s: number): { z: number; stop: Stop } {
    const x = line.x + s * line.ux;
    const y = line.y + s * line.uy;
    const z = this.surface.at(x, y);
    if (z < this.input.lowest || z === -Infinity) return { z, stop: 'edge' };
    if (this.bounds.forbids(x, y, z)) return { z, stop: 'limit' };
    const contact = this.surface.drop.contact();
    if (contact?.element === 'edge') {
      const flat = Math.hypot(contact.nx, contact.ny);
      if (flat > 1e-6) {
        const bx = contact.x + (contact.nx / flat) * BEYOND_EDGE_MM;
        const by = contact.y + (contact.ny / flat) * BEYOND_EDGE_MM;
        if (this.ray.at(bx, by) === -Infinity) return { z, stop: 'edge' };
      }
    }
    if (!contact || !this.wanted.at(contact, x, y, z)) return { z, stop: 'unwanted' };
    if (line.onlyBetween?.some((between) => !this.isFarApart(contact, x, y, z, between)))
      return { z, stop: 'unwanted' };
    return { z, stop: this.buried.at(x, y, z) ? 'steel' : 'none' };
  }

  /**
   * Whether passes to both sides of a place leave higher ridges than are asked for: each side is looked at for itself, since the
   * foot of a wall, or an edge that the cutter rolls over, is on one of them only. With C the centres of the round and n the
   * normals where it touches, two passes leave the ridge h where |ΔC|² - (R - h) ΔC·Δn is the square of the side step on a
   * plane: there Δn is zero, on a bend the second term takes its curvature in. What lies along the passes does not count.
   */
  private isFarApart(at: Contact, x: number, y: number, z: number, between: Between): boolean {
    const { ux, uy, apart, most } = between;
    const here = { z, nx: at.nx, ny: at.ny, nz: at.nz };
    // the passes run along this way on the surface: square to the normal, over (uy, -ux)
    const rise = at.ny * ux - at.nx * uy;
    const l = Math.hypot(at.nz, rise);
    const along = [(uy * at.nz) / l, (-ux * at.nz) / l, rise / l] as const;
    return [-apart, apart].some((far) => {
      const beside = this.touching(x + far * ux, y + far * uy);
      if (!beside) return false;
      const d = [far * ux, far * uy, beside.z - here.z] as const;
      const n = [beside.nx - here.nx, beside.ny - here.ny, beside.nz - here.nz] as const;
      const dt = d[0] * along[0] + d[1] * along[1] + d[2] * along[2];
      const nt = n[0] * along[0] + n[1] * along[1] + n[2] * along[2];
      const dd = d[0] * d[0] + d[1] * d[1] + d[2] * d[2] - dt * dt;
      const dn = d[0] * n[0] + d[1] * n[1] + d[2] * n[2] - dt * nt;
      // half of what lies between the passes, so a quarter of the square
      const squared = (4 * (dd - this.corner * dn)) / this.input.sideStep ** 2;
      return squared > ENOUGH ** 2 && squared <= most ** 2;
    });
  }

  private touching(x: number, y: number): { z: number; nx: number; ny: number; nz: number } | undefined {
    const z = this.surface.at(x, y);
    const contact = this.surface.drop.contact();
    return contact && { z, nx: contact.nx, ny: contact.ny, nz: contact.nz };
  }

  /** Last good place between a good one and a bad one. */
  private border(line: ScanLine, good: number, bad: number): { s: number; z: number } {
    let a = good;
    let b = bad;
    let z = this.look(line, good).z;
    while (Math.abs(b - a) > END_MM) {
      const mid = (a + b) / 2;
      const at = this.look(line, mid);
      if (at.stop === 'none') {
        a = mid;
        z = at.z;
      } else b = mid;
    }
    return { s: a, z };
  }

  /** Adds samples between two until their chords are near enough to the surface. */
  private between(height: Heights, sa: number, za: number, sb: number, zb: number, out: number[]): void {
    const ds = sb - sa;
    const dz = zb - za;
    if (Math.abs(ds) <= CLOSEST_MM) {
      // a jump: up on the near side, or down on the far side, never across it
      if (Math.abs(dz) > this.chord) out.push(dz > 0 ? sa : sb, Math.max(za, zb));
      return;
    }
    const s = (sa + sb) / 2;
    const z = height(s);
    if (Math.abs(dz) <= TALLEST_MM && this.isNear(sa, za, ds, dz, s, z)) {
      // an S that crosses the chord in its middle shows itself beside it, on steep ground at either side
      const steep = Math.abs(dz) > STEEP * Math.abs(ds);
      const early = sa + EARLY * ds;
      const late = sb - EARLY * ds;
      if (
        this.isNear(sa, za, ds, dz, early, height(early)) &&
        (!steep || this.isNear(sa, za, ds, dz, late, height(late)))
      )
        return;
    }
    this.between(height, sa, za, s, z, out);
    out.push(s, z);
    this.between(height, s, z, sb, zb, out);
  }

  private isNear(sa: number, za: number, ds: number, dz: number, s: number, z: number): boolean {
    // the largest distance may lie beside the place: a kink at a quarter shows two thirds of itself in the middle
    return Math.abs((z - za) * ds - (s - sa) * dz) <= 0.6 * this.chord * Math.hypot(ds, dz);
  }

  private finish(line: ScanLine, points: number[], from: Stop, to: Stop): ScanRun | undefined {
    const n = points.length / 2;
    if (n < 2 || points[2 * n - 2]! - points[0]! < SHORTEST_MM) return undefined;
    const keep = new Uint8Array(n);
    keep[0] = keep[n - 1] = 1;
    markKept(points, 2, 0, n - 1, SIMPLIFY_SHARE * this.input.tolerance, keep);
    const kept: number[] = [];
    for (let k = 0; k < n; k++) if (keep[k]) kept.push(points[2 * k]!, points[2 * k + 1]!);
    const extended = [...this.extension(line, kept, from, -1), ...kept, ...this.extension(line, kept, to, 1)];
    const xyz = new Float64Array((extended.length / 2) * 3);
    for (let k = 0; k < extended.length / 2; k++) {
      xyz[3 * k] = line.x + extended[2 * k]! * line.ux;
      xyz[3 * k + 1] = line.y + extended[2 * k]! * line.uy;
      xyz[3 * k + 2] = extended[2 * k + 1]!;
    }
    return { line: line.number, points: xyz, stoppedBySteel: [from === 'steel', to === 'steel'] };
  }

  /** Continues a pass past the part's edge along its tangent, but never below the tip surface. */
  private extension(line: ScanLine, points: number[], stop: Stop, way: 1 | -1): number[] {
    if (stop !== 'edge' || this.input.extension <= 0) return [];
    const n = points.length / 2;
    const end = way > 0 ? n - 1 : 0;
    const s = points[2 * end]!;
    const z = points[2 * end + 1]!;
    let inner = end;
    while (inner - way >= 0 && inner - way < n && Math.abs(points[2 * inner]! - s) < 0.2) inner -= way;
    const run = s - points[2 * inner]!;
    let slope = run !== 0 ? (z - points[2 * inner + 1]!) / run : 0;
    if (Math.abs(slope) > STEEPEST_EXTENSION) slope = 0;
    const tangent = (at: number): number => z + slope * (at - s);
    const height: Heights = (at) =>
      Math.max(tangent(at), this.surface.at(line.x + at * line.ux, line.y + at * line.uy));
    // outward while the steel allows it
    const steps = Math.max(1, Math.ceil(this.input.extension / this.stride));
    let far = s;
    for (let k = 1; k <= steps; k++) {
      const at = s + (way * this.input.extension * k) / steps;
      const [x, y] = [line.x + at * line.ux, line.y + at * line.uy];
      if (this.buried.at(x, y, height(at)) || this.bounds.forbids(x, y, height(at))) break;
      far = at;
    }
    if (far === s) return [];
    const [low, high] = way > 0 ? [s, far] : [far, s];
    const chunks = Math.max(1, Math.ceil((high - low) / this.stride - 1e-9));
    const out: number[] = [];
    let before = height(low);
    if (way < 0) out.push(low, before);
    for (let k = 1; k <= chunks; k++) {
      const [from, to] = [low + ((high - low) * (k - 1)) / chunks, low + ((high - low) * k) / chunks];
      const next = height(to);
      this.between(height, from, before, to, next, out);
      if (k < chunks || way > 0) out.push(to, next);
      before = next;
    }
    for (let k = 0; k < out.length; k += 2) if (out[k + 1]! - tangent(out[k]!) > 1e-9) return out;
    return way > 0 ? out.slice(-2) : out.slice(0, 2);
  }

  /** Runs whose extensions overlap are one: the cutter passes over the gap. */
  private joined(line: ScanLine, runs: ScanRun[]): ScanRun[] {
    const out: ScanRun[] = [];
    for (const run of runs) {
      const last = out[out.length - 1];
      if (!last || this.placeOf(line, run, 0) > this.placeOf(line, last, last.points.length / 3 - 1)) {
        out.push(run);
        continue;
      }
      out[out.length - 1] = {
        line: run.line,
        points: this.bridge(line, last.points, run.points),
        stoppedBySteel: [last.stoppedBySteel[0], run.stoppedBySteel[1]],
      };
    }
    return out;
  }

  private placeOf(line: ScanLine, run: ScanRun, k: number): number {
    return (run.points[3 * k]! - line.x) * line.ux + (run.points[3 * k + 1]! - line.y) * line.uy;
  }

  private bridge(line: ScanLine, a: Float64Array, b: Float64Array): Float64Array {
    const s = (p: Float64Array, k: number): number =>
      (p[3 * k]! - line.x) * line.ux + (p[3 * k + 1]! - line.y) * line.uy;
    let keep = a.length / 3;
    const begin = s(b, 0);
    while (keep > 1 && s(a, keep - 1) > begin) keep--;
    const head = a.subarray(0, 3 * keep);
    const way = this.over(head[3 * keep - 3]!, head[3 * keep - 2]!, head[3 * keep - 1]!, b[0]!, b[1]!, b[2]!);
    return Float64Array.from([...head, ...way, ...b.subarray(3)]);
  }
}
