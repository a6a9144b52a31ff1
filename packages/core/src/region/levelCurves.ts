import { type Polygon, simplifyRing } from '../geometry/polygon';
import type { TipGrid, TipSurface } from './tipSurface';

/** A root is known to this length, mm; the side where the cutter may be is returned. */
const ROOT_MM = 2e-4;
/** Largest distance of the true curve from a chord, and of a left-out point from the curve, mm. */
const REFINE_MM = 0.004;
const SIMPLIFY_MM = 0.004;
/** Chords shorter than this are not divided further, mm. */
const SHORTEST_MM = 0.02;
const DEEPEST = 7;

/** Corners of a cell in turn, and for each case the directed pieces (edge to edge) with the forbidden side on the left. */
const PIECES: readonly (readonly (readonly [number, number])[])[] = [
  [],
  [[0, 3]],
  [[1, 0]],
  [[1, 3]],
  [[2, 1]],
  [],
  [[2, 0]],
  [[2, 3]],
  [[3, 2]],
  [[0, 2]],
  [],
  [[1, 2]],
  [[3, 1]],
  [[0, 1]],
  [[3, 0]],
  [],
];
const SADDLES: Readonly<Record<number, readonly (readonly [number, number])[][]>> = {
  5: [
    [
      [0, 3],
      [2, 1],
    ],
    [
      [0, 1],
      [2, 3],
    ],
  ],
  10: [
    [
      [1, 0],
      [3, 2],
    ],
    [
      [3, 0],
      [1, 2],
    ],
  ],
};

/** Whether a curve must be exact near a place; elsewhere the allowed node of the grid will do. */
export type Matters = (x: number, y: number) => boolean;

/**
 * The closed curves where the tip surface crosses height z. The forbidden side (tip surface above z) lies on the left, so
 * its outer borders run counter-clockwise and the openings in it clockwise. Points lie on the allowed side, to
 * {@link ROOT_MM}; chords and simplification add {@link REFINE_MM} and {@link SIMPLIFY_MM} at most.
 */
export function levelCurves(grid: TipGrid, surface: TipSurface, z: number, matters: Matters = () => true): Polygon[] {
  const curves = new LevelTracer(grid, surface, z, matters).rings();
  return curves
    .map((ring) => simplifyRing(refineRing(ring, surface, z, matters), SIMPLIFY_MM))
    .filter((ring) => ring.length >= 6);
}

class LevelTracer {
  private readonly points: number[] = [];
  private readonly edgePoint = new Map<number, number>();
  private readonly next = new Map<number, number>();

  constructor(
    private readonly grid: TipGrid,
    private readonly surface: TipSurface,
    private readonly z: number,
    private readonly matters: Matters,
  ) {
    for (let j = 0; j + 1 < grid.ny; j++) for (let i = 0; i + 1 < grid.nx; i++) this.cell(i, j);
  }

  rings(): Polygon[] {
    const rings: Polygon[] = [];
    const used = new Set<number>();
    for (const start of this.next.keys()) {
      if (used.has(start)) continue;
      const ring: number[] = [];
      let at: number | undefined = start;
      while (at !== undefined && !used.has(at)) {
        used.add(at);
        ring.push(this.points[2 * at]!, this.points[2 * at + 1]!);
        at = this.next.get(at);
      }
      rings.push(Float64Array.from(ring));
    }
    return rings;
  }

  private cell(i: number, j: number): void {
    const { nx, z } = this.grid;
    const o = j * nx + i;
    const level = this.z;
    const code =
      (z[o]! > level ? 1 : 0) +
      (z[o + 1]! > level ? 2 : 0) +
      (z[o + nx + 1]! > level ? 4 : 0) +
      (z[o + nx]! > level ? 8 : 0);
    if (code === 0 || code === 15) return;
    let pieces = PIECES[code]!;
    const saddle = SADDLES[code];
    if (saddle) {
      const { x0, y0, step } = this.grid;
      pieces = saddle[this.surface.forbids(x0 + (i + 0.5) * step, y0 + (j + 0.5) * step, level) ? 1 : 0]!;
    }
    for (const [from, to] of pieces) this.next.set(this.crossing(i, j, from), this.crossing(i, j, to));
  }

  /** Point where the curve crosses an edge of cell (i, j): 0 below, 1 right, 2 above, 3 left. */
  private crossing(i: number, j: number, edge: number): number {
    const ci = edge === 1 ? i + 1 : i;
    const cj = edge === 2 ? j + 1 : j;
    const upright = edge === 1 || edge === 3;
    const key = 2 * (cj * this.grid.nx + ci) + (upright ? 1 : 0);
    const known = this.edgePoint.get(key);
    if (known !== undefined) return known;
    const { x0, y0, step, nx, z } = this.grid;
    const o = cj * nx + ci;
    const ax = x0 + ci * step;
    const ay = y0 + cj * step;
    const bx = upright ? ax : ax + step;
    const by = upright ? ay + step : ay;
    const za = z[o]!;
    const zb = z[upright ? o + nx : o + 1]!;
    const at = !this.matters(ax, ay)
      ? ([za > this.z ? bx : ax, za > this.z ? by : ay] as const)
      : za > this.z
        ? allowedRoot(this.surface, this.z, bx, by, zb, ax, ay, za)
        : allowedRoot(this.surface, this.z, ax, ay, za, bx, by, zb);
    const n = this.points.length / 2;
    this.points.push(at[0], at[1]);
    this.edgePoint.set(key, n);
    return n;
  }
}

/** Last allowed point between an allowed point a and a forbidden point b, by false position guarded by bisection. */
function allowedRoot(
  surface: TipSurface,
  z: number,
  ax: number,
  ay: number,
  za: number,
  bx: number,
  by: number,
  zb: number,
): [number, number] {
  const length = Math.hypot(bx - ax, by - ay);
  let low = 0;
  let high = 1;
  let fLow = za - z;
  let fHigh = zb - z;
  for (let k = 0; k < 40 && (high - low) * length > ROOT_MM; k++) {
    let t = 0.5 * (low + high);
    if (k % 3 !== 2 && fLow > -1e6) {
      const width = high - low;
      // aim a little to the forbidden side, so that the bracket closes from both ends
      t = low + width * Math.min(0.98, Math.max(0.02, -fLow / (fHigh - fLow) + (k % 3 === 0 ? 0.002 : -0.002)));
    }
    const f = surface.at(ax + t * (bx - ax), ay + t * (by - ay)) - z;
    if (f > 0) {
      high = t;
      fHigh = f;
    } else {
      low = t;
      fLow = f;
    }
  }
  return [ax + low * (bx - ax), ay + low * (by - ay)];
}

function refineRing(ring: Polygon, surface: TipSurface, z: number, matters: Matters): Polygon {
  const out: number[] = [];
  const n = ring.length / 2;
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    out.push(ring[2 * k]!, ring[2 * k + 1]!);
    if (!matters(ring[2 * k]!, ring[2 * k + 1]!)) continue;
    refine(out, surface, z, ring[2 * k]!, ring[2 * k + 1]!, ring[2 * m]!, ring[2 * m + 1]!, 0);
  }
  return Float64Array.from(out);
}

/** Adds points between a and b where the curve leaves their chord by more than the tolerance, to either side. */
function refine(
  out: number[],
  surface: TipSurface,
  z: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  depth: number,
): void {
  const dx = bx - ax;
  const dy = by - ay;
  const length = Math.hypot(dx, dy);
  if (length < SHORTEST_MM || depth >= DEEPEST) return;
  const mx = 0.5 * (ax + bx);
  const my = 0.5 * (ay + by);
  const nx = dy / length;
  const ny = -dx / length;
  const inside = surface.forbids(mx, my, z);
  // from the chord towards the curve: into the allowed side when the middle is forbidden, else the other way
  const sign = inside ? 1 : -1;
  let reach = REFINE_MM;
  if (surface.forbids(mx + sign * reach * nx, my + sign * reach * ny, z) !== inside) return;
  while (reach < length) {
    const before = reach;
    reach *= 2;
    const ex = mx + sign * reach * nx;
    const ey = my + sign * reach * ny;
    if (surface.forbids(ex, ey, z) === inside) continue;
    let near = before;
    let far = reach;
    while (far - near > ROOT_MM) {
      const mid = 0.5 * (near + far);
      if (surface.forbids(mx + sign * mid * nx, my + sign * mid * ny, z) === inside) near = mid;
      else far = mid;
    }
    const at = inside ? far : near;
    const px = mx + sign * at * nx;
    const py = my + sign * at * ny;
    refine(out, surface, z, ax, ay, px, py, depth + 1);
    out.push(px, py);
    refine(out, surface, z, px, py, bx, by, depth + 1);
    return;
  }
}
