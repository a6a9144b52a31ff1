import { spansOf } from '../crew/crew';
import { defineTask } from '../crew/task';
import type { StepContext } from '../link/context';
import type { Box } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import { type Between, type ScanInput, type ScanLine, scanLines, type ScanRun } from './scan';

/** Passes in one piece of work: small enough to call off within 0.2 s. */
const LINES_A_TASK = 6;
/** How often the distance of passes is halved at most: that holds ridges up to 75° (1 / cos 75° = 3.9). */
export const MOST_HALVINGS = 2;
/** A line on the part's border stays inside by this, where the part is still below it, mm. */
const INSIDE_MM = 1e-3;
/** Angles that are tried for the best one, degrees apart. */
const ANGLE_STEP = 5;

export const scanTask = defineTask('scanLines', scanLines);

/** How slopes across the passes are dealt with: not at all, by passes between, or by a second set across the first. */
export const EXTRA_PASSES = ['none', 'between', 'across'] as const;
export type ExtraPasses = (typeof EXTRA_PASSES)[number];

export interface ParallelLayout {
  /** Direction of the passes to X, rad. */
  readonly angle: number;
  /** Distance between them in plan, mm. */
  readonly step: number;
  readonly extra: ExtraPasses;
  /** Lines in the opposite order: the second beside the first on its other side. */
  readonly isReversed?: boolean;
}

/** Parallel passes over the part's plan, those between others only where slopes want them. */
export async function parallelRuns(
  { part: { box }, tool, crew }: StepContext,
  layout: ParallelLayout,
  scan: Omit<ScanInput, 'lines'>,
  onDone: (share: number) => void,
): Promise<ScanRun[]> {
  const lines = linesOver(box, tool.DC / 2, layout);
  const spans = spansOf(lines.length, Math.ceil(lines.length / LINES_A_TASK));
  const found = await crew.all(
    scanTask,
    spans.map(([from, to]) => ({ ...scan, lines: lines.slice(from, to) })),
    (done) => onDone(done / spans.length),
  );
  return found.flat();
}

/** The lines of a layout over a box and `margin` around it: where ground falls outward the axis stands beside it. */
export function linesOver(box: Box, margin: number, layout: ParallelLayout): ScanLine[] {
  const { angle, extra, isReversed } = layout;
  const first = family(
    box,
    margin,
    layout,
    extra === 'none' ? 0 : extra === 'between' ? MOST_HALVINGS : 0,
    undefined,
    0,
  );
  const across =
    extra === 'across'
      ? family(
          box,
          margin,
          { ...layout, angle: angle + Math.PI / 2 },
          MOST_HALVINGS,
          { ...sideways(angle), apart: first.spacing, most: 2 ** (MOST_HALVINGS + 1) },
          first.lines.length,
        ).lines
      : [];
  const lines = [...first.lines, ...across];
  if (!isReversed) return lines;
  const last = lines.length - 1;
  return lines.map((line) => ({ ...line, number: last - line.number })).reverse();
}

/** The unit vector square to lines at an angle. */
const sideways = (angle: number): Pick<Between, 'ux' | 'uy'> => ({ ux: -Math.sin(angle), uy: Math.cos(angle) });

function family(
  box: Box,
  margin: number,
  { angle, step }: ParallelLayout,
  halvings: number,
  poor: Between | undefined,
  numbersFrom: number,
): { lines: ScanLine[]; spacing: number } {
  const ux = Math.cos(angle);
  const uy = Math.sin(angle);
  const corners = [
    [box.minX, box.minY],
    [box.maxX, box.minY],
    [box.maxX, box.maxY],
    [box.minX, box.maxY],
  ] as const;
  const across = corners.map(([x, y]) => y * ux - x * uy);
  const along = corners.map(([x, y]) => x * ux + y * uy);
  const low = Math.min(...across);
  const high = Math.max(...across);
  const count = Math.max(1, Math.ceil((high - low) / step));
  const spacing = (high - low) / count;
  // one on either border, and beside it as far as the axis may stand off what it touches
  const beside = Math.ceil(margin / spacing);
  const from = Math.min(...along) - margin;
  const length = Math.max(...along) + margin - from;
  const parts = 2 ** halvings;
  const onBorder = (v: number): number =>
    Math.abs(v - low) < INSIDE_MM ? INSIDE_MM : Math.abs(v - high) < INSIDE_MM ? -INSIDE_MM : 0;
  const lines = Array.from({ length: (count + 2 * beside) * parts + 1 }, (_, k): ScanLine => {
    const even = low + (k / parts - beside) * spacing;
    const v = even + onBorder(even);
    let rank = halvings;
    for (let i = k; rank > 0 && i % 2 === 0; i /= 2) rank--;
    const between: Between[] = poor ? [poor] : [];
    if (rank > 0) between.push({ ...sideways(angle), apart: spacing / 2 ** rank, most: 2 ** (halvings - rank + 1) });
    return {
      number: numbersFrom + k,
      x: from * ux - v * uy,
      y: from * uy + v * ux,
      ux,
      uy,
      length,
      ...(between.length > 0 && { onlyBetween: between }),
    };
  });
  return { lines, spacing };
}

/** Direction of passes, rad: as it is given, degrees, or the best one for ground up to a slope, degrees. */
export const angleOf = (part: ContactMesh, angleDeg: number | null, steepestDeg: number): number =>
  ((angleDeg ?? bestAngle(part, (steepestDeg * Math.PI) / 180)) * Math.PI) / 180;

/**
 * The angle to X, degrees, at which passes of one distance in plan lie nearest to it on the surface, taken over the surface
 * that looks up: on a plane that rises by gu along the passes and gv across them they lie √(1 + gv² / (1 + gu²)) times as far
 * apart.
 */
export function bestAngle({ planes, triangles, count }: ContactMesh, steepest: number): number {
  let best = 0;
  let least = Infinity;
  for (let deg = 0; deg < 180; deg += ANGLE_STEP) {
    const [ux, uy] = [Math.cos((deg * Math.PI) / 180), Math.sin((deg * Math.PI) / 180)];
    let sum = 0;
    for (let i = 0; i < count; i++) {
      const [nx, ny, nz] = [planes[4 * i]!, planes[4 * i + 1]!, planes[4 * i + 2]!];
      if (nz <= 1e-6 || nz < Math.cos(steepest)) continue;
      const [gu, gv] = [(nx * ux + ny * uy) / nz, (ny * ux - nx * uy) / nz];
      const t = triangles;
      const o = 9 * i;
      const plan = Math.abs(
        (t[o + 3]! - t[o]!) * (t[o + 7]! - t[o + 1]!) - (t[o + 6]! - t[o]!) * (t[o + 4]! - t[o + 1]!),
      );
      sum += plan * Math.sqrt(1 + (gv * gv) / (1 + gu * gu));
    }
    if (sum < least * (1 - 1e-9)) {
      least = sum;
      best = deg;
    }
  }
  return best;
}
