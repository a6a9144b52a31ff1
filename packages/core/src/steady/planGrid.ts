import type { Polygon } from '../geometry/polygon';

/** Nodes over the plan, `step` mm apart; the first at (x0, y0). Fields over it hold one number a node, row by row. */
export interface PlanGrid {
  readonly x0: number;
  readonly y0: number;
  readonly step: number;
  readonly nx: number;
  readonly ny: number;
}

/** Pieces are looked at in stretches of so many steps at most. */
const STRETCH_STEPS = 4;
/** Nodes beside a stretch's box that are held against it themselves: near the pieces distances are exact. */
const BESIDE = 2;

/** A shorter piece is a point, mm. */
const SHORTEST_MM = 1e-9;

/** Straight pieces in the plan: ax, ay, bx, by in turn, mm. */
export type Pieces = Float64Array;

/** The value of a field at a place, linear between nodes; `outside` where the grid does not reach. */
export function valueAt(grid: PlanGrid, field: Float32Array, x: number, y: number, outside: number): number {
  const u = (x - grid.x0) / grid.step;
  const v = (y - grid.y0) / grid.step;
  const i = Math.floor(u);
  const j = Math.floor(v);
  if (i < 0 || j < 0 || i + 1 >= grid.nx || j + 1 >= grid.ny) return outside;
  const s = u - i;
  const t = v - j;
  const o = j * grid.nx + i;
  const low = field[o]! + s * (field[o + 1]! - field[o]!);
  const high = field[o + grid.nx]! + s * (field[o + grid.nx + 1]! - field[o + grid.nx]!);
  return low + t * (high - low);
}

/** The sides of closed lines as pieces. */
export function piecesOf(rings: readonly Polygon[]): Pieces {
  const out = new Float64Array(2 * rings.reduce((sum, ring) => sum + ring.length, 0));
  let o = 0;
  for (const ring of rings)
    for (let b = ring.length - 2, k = 0; k < ring.length; b = k, k += 2) {
      out[o++] = ring[b]!;
      out[o++] = ring[b + 1]!;
      out[o++] = ring[k]!;
      out[o++] = ring[k + 1]!;
    }
  return out;
}

/**
 * Distance of each node from the nearest of some pieces, mm; `most` where it is more. Each node takes the piece of a neighbour
 * and its own distance to it (sweeps over the rows), so distances are those of a piece, and hardly ever of another than the
 * nearest.
 */
export function distanceTo(grid: PlanGrid, pieces: Pieces, most: number): Float32Array {
  const { x0, y0, step, nx, ny } = grid;
  const square = new Float32Array(nx * ny).fill(most * most);
  const nearest = new Int32Array(nx * ny).fill(-1);
  const parted = inStretches(pieces, STRETCH_STEPS * step);
  const { ax, ay, dx, dy, over, whole } = parted;
  /** Takes the piece k for the node o at (x, y), if it is nearer than what the node has. */
  const take = (o: number, k: number, x: number, y: number): void => {
    const px = x - ax[k]!;
    const py = y - ay[k]!;
    let t = (px * dx[k]! + py * dy[k]!) * over[k]!;
    t = t < 0 ? 0 : t > 1 ? 1 : t;
    const ex = px - t * dx[k]!;
    const ey = py - t * dy[k]!;
    const d = ex * ex + ey * ey;
    if (d >= square[o]!) return;
    square[o] = d;
    nearest[o] = k;
  };
  for (let k = 0; k < ax.length; k++) {
    const [bx, by] = [ax[k]! + dx[k]!, ay[k]! + dy[k]!];
    // what lies outside the grid is nearest to nodes at its border
    const [i0, i1] = nodesAbout((Math.min(ax[k]!, bx) - x0) / step, (Math.max(ax[k]!, bx) - x0) / step, nx);
    const [j0, j1] = nodesAbout((Math.min(ay[k]!, by) - y0) / step, (Math.max(ay[k]!, by) - y0) / step, ny);
    for (let j = j0; j <= j1; j++) for (let i = i0; i <= i1; i++) take(j * nx + i, k, x0 + i * step, y0 + j * step);
  }
  const row = (j: number, before: number): void => {
    const y = y0 + j * step;
    const o = j * nx;
    if (before >= 0 && before < ny) {
      const p = before * nx;
      for (let i = 0; i < nx; i++) {
        const own = nearest[o + i]!;
        const a = i > 0 ? nearest[p + i - 1]! : -1;
        const b = nearest[p + i]!;
        const c = i + 1 < nx ? nearest[p + i + 1]! : -1;
        const x = x0 + i * step;
        if (b >= 0 && b !== own) take(o + i, b, x, y);
        if (a >= 0 && a !== own && a !== b) take(o + i, a, x, y);
        if (c >= 0 && c !== own && c !== b && c !== a) take(o + i, c, x, y);
      }
    }
    for (let i = 1; i < nx; i++) {
      const a = nearest[o + i - 1]!;
      if (a >= 0 && a !== nearest[o + i]!) take(o + i, a, x0 + i * step, y);
    }
    for (let i = nx - 2; i >= 0; i--) {
      const a = nearest[o + i + 1]!;
      if (a >= 0 && a !== nearest[o + i]!) take(o + i, a, x0 + i * step, y);
    }
  };
  if (whole > 0) {
    for (let j = 0; j < ny; j++) row(j, j - 1);
    for (let j = ny - 1; j >= 0; j--) row(j, j + 1);
  }
  for (let o = 0; o < square.length; o++) square[o] = Math.sqrt(square[o]!);
  return square;
}

/** First and last node of a row of `count` around a stretch of it, in steps, with those that are exact beside it. */
function nodesAbout(low: number, high: number, count: number): readonly [number, number] {
  const within = (k: number): number => Math.max(0, Math.min(count - 1, k));
  return [within(Math.floor(low) - BESIDE), within(Math.ceil(high) + BESIDE)];
}

/** Pieces cut into stretches of at most `longest` mm, so that their boxes stay narrow. */
function inStretches(pieces: Pieces, longest: number) {
  let whole = 0;
  const counts = new Uint32Array(pieces.length / 4);
  for (let k = 0; k < pieces.length; k += 4) {
    const length = Math.hypot(pieces[k + 2]! - pieces[k]!, pieces[k + 3]! - pieces[k + 1]!);
    whole += counts[k / 4] = Math.max(1, Math.ceil(length / longest));
  }
  const [ax, ay, dx, dy, over] = Array.from({ length: 5 }, () => new Float64Array(whole)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  let o = 0;
  for (let k = 0; k < pieces.length; k += 4) {
    const n = counts[k / 4]!;
    const [ux, uy] = [(pieces[k + 2]! - pieces[k]!) / n, (pieces[k + 3]! - pieces[k + 1]!) / n];
    const square = ux * ux + uy * uy;
    for (let s = 0; s < n; s++, o++) {
      ax[o] = pieces[k]! + s * ux;
      ay[o] = pieces[k + 1]! + s * uy;
      dx[o] = ux;
      dy[o] = uy;
      over[o] = square > SHORTEST_MM * SHORTEST_MM ? 1 / square : 0;
    }
  }
  return { ax, ay, dx, dy, over, whole };
}

/**
 * Signed distance from borders that have what is closed on their left (see `LevelCurves`): above 0 where it is open, `most` at most.
 */
export function openDistance(grid: PlanGrid, rings: readonly Polygon[], most: number): Float32Array {
  const out = distanceTo(grid, piecesOf(rings), most);
  const closed = closedNodes(grid, rings);
  for (let o = 0; o < out.length; o++) if (closed[o]) out[o] = -out[o]!;
  return out;
}

/** Which nodes lie in what is closed: round which more rings run counter-clockwise than clockwise. */
function closedNodes({ x0, y0, step, nx, ny }: PlanGrid, rings: readonly Polygon[]): Uint8Array {
  const rows: { x: number; turn: number }[][] = Array.from({ length: ny }, () => []);
  for (const ring of rings)
    for (let b = ring.length - 2, k = 0; k < ring.length; b = k, k += 2) {
      const [ax, ay, bx, by] = [ring[b]!, ring[b + 1]!, ring[k]!, ring[k + 1]!];
      if (ay === by) continue;
      const turn = by > ay ? 1 : -1;
      const low = Math.min(ay, by);
      const high = Math.max(ay, by);
      for (let j = Math.max(0, Math.ceil((low - y0) / step)); j < ny; j++) {
        const y = y0 + j * step;
        if (y < low) continue;
        if (y >= high) break;
        rows[j]!.push({ x: ax + ((y - ay) / (by - ay)) * (bx - ax), turn });
      }
    }
  const out = new Uint8Array(nx * ny);
  rows.forEach((crossings, j) => {
    crossings.sort((a, b) => a.x - b.x);
    // from the right: a line that runs up has what is closed on its left
    let turns = 0;
    let next = crossings.length - 1;
    for (let i = nx - 1; i >= 0; i--) {
      const x = x0 + i * step;
      while (next >= 0 && crossings[next]!.x > x) turns += crossings[next--]!.turn;
      if (turns > 0) out[j * nx + i] = 1;
    }
  });
  return out;
}

/** The line along which a field passes a value, in pieces: linear in each square of the grid. */
export function lineAt({ x0, y0, step, nx, ny }: PlanGrid, field: Float32Array, value: number): Pieces {
  const out: number[] = [];
  const ends = new Float64Array(8);
  for (let j = 0; j + 1 < ny; j++)
    for (let i = 0; i + 1 < nx; i++) {
      const o = j * nx + i;
      const a = field[o]! - value;
      const b = field[o + 1]! - value;
      const c = field[o + nx + 1]! - value;
      const d = field[o + nx]! - value;
      const above = (a >= 0 ? 1 : 0) + (b >= 0 ? 1 : 0) + (c >= 0 ? 1 : 0) + (d >= 0 ? 1 : 0);
      if (above === 0 || above === 4) continue;
      let n = 0;
      const put = (u: number, v: number): void => {
        ends[n++] = x0 + (i + u) * step;
        ends[n++] = y0 + (j + v) * step;
      };
      if (a >= 0 !== b >= 0) put(a / (a - b), 0);
      if (b >= 0 !== c >= 0) put(1, b / (b - c));
      if (c >= 0 !== d >= 0) put(d / (d - c), 1);
      if (d >= 0 !== a >= 0) put(0, a / (a - d));
      if (n === 4) out.push(ends[0]!, ends[1]!, ends[2]!, ends[3]!);
      else if (a >= 0 === a + b + c + d >= 0)
        out.push(ends[0]!, ends[1]!, ends[2]!, ends[3]!, ends[4]!, ends[5]!, ends[6]!, ends[7]!);
      else out.push(ends[2]!, ends[3]!, ends[4]!, ends[5]!, ends[6]!, ends[7]!, ends[0]!, ends[1]!);
    }
  return Float64Array.from(out);
}

/** Pieces that meet end to end joined into lines; a closed one ends where it begins. */
export function joined(pieces: Pieces): Float64Array[] {
  const at = new Map<string, number[]>();
  const key = (k: number): string => `${pieces[k]!} ${pieces[k + 1]!}`;
  for (let k = 0; k < pieces.length; k += 2) {
    const ends = at.get(key(k));
    if (ends) ends.push(k);
    else at.set(key(k), [k]);
  }
  const used = new Uint8Array(pieces.length / 4);
  const otherEnd = (k: number): number => (k % 4 === 0 ? k + 2 : k - 2);
  const goOn = (line: number[], from: number): void => {
    for (let end = from; ;) {
      const next = at.get(key(end))!.find((k) => !used[k >> 2]);
      if (next === undefined) return;
      used[next >> 2] = 1;
      end = otherEnd(next);
      line.push(pieces[end]!, pieces[end + 1]!);
    }
  };
  const lines: Float64Array[] = [];
  for (let k = 0; k < pieces.length; k += 4) {
    if (used[k >> 2]) continue;
    used[k >> 2] = 1;
    const line = [pieces[k]!, pieces[k + 1]!, pieces[k + 2]!, pieces[k + 3]!];
    goOn(line, k + 2);
    // an open line goes on before its first piece as well
    const before: number[] = [pieces[k]!, pieces[k + 1]!];
    if (line[0] !== line[line.length - 2] || line[1] !== line[line.length - 1]) goOn(before, k);
    const whole: number[] = [];
    for (let b = before.length - 2; b >= 2; b -= 2) whole.push(before[b]!, before[b + 1]!);
    lines.push(Float64Array.from([...whole, ...line]));
  }
  return lines;
}

/** A part of a grid: where it begins in the whole one. */
export interface Window extends PlanGrid {
  readonly i0: number;
  readonly j0: number;
}

/** The nodes of a grid in a box, all when it reaches that far. */
export function windowOf(grid: PlanGrid, minX: number, minY: number, maxX: number, maxY: number): Window {
  const { x0, y0, step, nx, ny } = grid;
  const i0 = Math.max(0, Math.floor((minX - x0) / step));
  const j0 = Math.max(0, Math.floor((minY - y0) / step));
  const i1 = Math.min(nx - 1, Math.ceil((maxX - x0) / step));
  const j1 = Math.min(ny - 1, Math.ceil((maxY - y0) / step));
  return { x0: x0 + i0 * step, y0: y0 + j0 * step, step, nx: i1 - i0 + 1, ny: j1 - j0 + 1, i0, j0 };
}

/** What a field holds in a window. */
export function cutOut({ nx }: PlanGrid, field: Float32Array, window: Window): Float32Array {
  const out = new Float32Array(window.nx * window.ny);
  for (let j = 0; j < window.ny; j++) {
    const o = (window.j0 + j) * nx + window.i0;
    out.set(field.subarray(o, o + window.nx), j * window.nx);
  }
  return out;
}

/** Puts a window's field back. */
export function putBack({ nx }: PlanGrid, field: Float32Array, window: Window, part: Float32Array): void {
  for (let j = 0; j < window.ny; j++)
    field.set(part.subarray(j * window.nx, (j + 1) * window.nx), (window.j0 + j) * nx + window.i0);
}
