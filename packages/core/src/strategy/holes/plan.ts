import { EsquisseError } from '../../base/errors';
import { toThousandth } from '../../base/round';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import type { Travel } from '../../link/travel';
import { planAround, workspaceOf } from '../../link/workspace';
import { type Cycle, type CycleSpan, movesOf } from '../../path/cycles';
import { Motion, type PathBuilder } from '../../path/toolpath';
import type { HeightMap } from '../../steel/heightMap';
import type { Hole } from '../../survey/features';
import { CutterDrop } from '../../tool/drop';
import { type ProfilePiece, riseOf, slimmer } from '../../tool/profile';
import { cuttingPiece, type ToolShape } from '../../tool/shape';
import { choiceWords, isMeant } from './choice';
import { holeOrder } from './order';
import type { HoleValues } from './values';

/** A cutter that fits a hole is no wider than it by more than this, mm: what sizes are rounded to. */
const FITS_MM = 0.02;
/** Deeper than so many diameters a drill clears its chips by pecks (check of common practice: from about 3 DC on, no source). */
const PECKS_FROM_DC = 3;
/** A spot is as wide as this share of its cutter at most: its corners are not to rub. */
const SPOT_SHARE = 0.9;
/** Less air than this over a hole is fed through: a rapid down and up again takes longer, mm (common practice: R plane 2 mm over the face). */
const FED_THROUGH_AIR_MM = 2;
/** Steel within this share of its radius is not for a reamer, boring bar or tap: it has no edges there. */
const DRILLED_SHARE = 0.9;
/** A drill runs off on steel that leans by more, degrees (common practice: up to about 5° to 8° without a level seat). */
const STEEPEST_DEG = 6;
/** Depths less than this are none, mm. */
const NOTHING_MM = 1e-3;

/** A hole as a cutter makes it. */
interface Wanted {
  readonly hole: Hole;
  /** Lowest height of the tip, mm. */
  readonly to: number;
}

/** @throws EsquisseError `step-impossible` when no hole can be made */
export async function planHoles(context: StepContext, values: HoleValues): Promise<StepPlan> {
  const { tool, blank } = context;
  const meant = context.holes().filter((hole) => isMeant(hole, values));
  if (meant.length === 0)
    throw new EsquisseError(
      'step-impossible',
      `The part has no upright hole ${choiceWords(values)}: change the diameters, or which holes are meant.`,
      'diameterFrom',
    );
  const { test, begin } = await workspaceOf(context, planAround(blank, tool.DC / 2));
  const { path, travel, finish } = begin();
  const leftOut: LeftOut[] = [];
  const wanted = meant.flatMap((hole): Wanted[] => {
    const depth = depthInSteel(context, hole, depthOf(context, hole, values));
    const why = typeof depth === 'string' ? depth : undefined;
    const to = typeof depth === 'string' ? hole.top : depth;
    const kept = why ?? (test.forbids(hole.x, hole.y, to) ? 'it is kept clear of there' : undefined);
    if (kept === undefined) return [{ hole, to }];
    leftOut.push({ why: `A hole of ⌀ ${hole.diameter.toFixed(2)} mm is not made: ${kept}`, ...placeOf(hole) });
    return [];
  });
  const cycles: CycleSpan[] = [];
  const notes: LeftOut[] = [];
  let facetDepth = 0;
  for (const k of holeOrder(wanted.map(({ hole }) => hole))) {
    const { hole } = wanted[k]!;
    const cut = make(path, travel, wanted[k]!, context, values);
    if (typeof cut === 'string') {
      leftOut.push({ why: cut, ...placeOf(hole) });
      continue;
    }
    cycles.push(cut);
    notes.push(...notesOn(hole, context));
    facetDepth = Math.max(facetDepth, hole.facetDepth);
  }
  if (cycles.length === 0)
    throw new EsquisseError('step-impossible', `No hole is made. ${leftOut[0]?.why ?? ''}.`, 'diameterFrom');
  const plan = finish(leftOut);
  return { ...plan, notes, path: { ...plan.path, cycles }, facetDepth };
}

const placeOf = ({ x, y, top }: Hole): { x: number; y: number; z: number } => ({ x, y, z: top });

/** What a drill may run off at: steel that leans where it begins, and a wall that is open. */
function notesOn(hole: Hole, { tool, steel }: Pick<StepContext, 'tool' | 'steel'>): LeftOut[] {
  if (tool.kind !== 'drill') return [];
  const size = `A hole of ⌀ ${hole.diameter.toFixed(2)} mm`;
  const lean = leanOf(steel, hole.x, hole.y, tool.DC / 2);
  const out: LeftOut[] = [];
  if (lean > STEEPEST_DEG)
    out.push({ why: `${size} begins on steel that leans by ${lean.toFixed(0)}°: level it first`, ...placeOf(hole) });
  if (hole.open)
    out.push({
      why: `The wall of ${size.toLowerCase()} is open: another hole crosses it, or it lies at a border`,
      ...placeOf(hole),
    });
  return out;
}

/** How much steel leans around a place, degrees: by the plane that is nearest to its cells. A spot or a hole around it does not. */
function leanOf({ x0, y0, cell, nx, ny, heights, floor }: HeightMap, x: number, y: number, radius: number): number {
  const reach = Math.ceil(radius / cell);
  const [mi, mj] = [Math.floor((x - x0) / cell), Math.floor((y - y0) / cell)];
  const cells: [di: number, dj: number, h: number][] = [];
  for (let dj = -reach; dj <= reach; dj++)
    for (let di = -reach; di <= reach; di++) {
      const [i, j] = [mi + di, mj + dj];
      if (i < 0 || j < 0 || i >= nx || j >= ny || Math.hypot(di, dj) * cell > radius) continue;
      const h = heights[j * nx + i]!;
      if (h > floor) cells.push([di, dj, h]);
    }
  const mean = cells.reduce((sum, [, , h]) => sum + h, 0) / Math.max(1, cells.length);
  let [along, across, squares] = [0, 0, 0];
  for (const [di, dj, h] of cells) {
    along += di * (h - mean);
    across += dj * (h - mean);
    squares += di * di;
  }
  // over a disc about the place the slopes of the plane are its moments over those of the disc
  return squares > 0 ? (Math.atan(Math.hypot(along, across) / (squares * cell)) * 180) / Math.PI : 0;
}

/** How deep the tip goes into a hole, mm, never into the part; or why it cannot be made. */
function depthOf({ part, tool }: StepContext, hole: Hole, values: HoleValues): number | string {
  const piece = cuttingPiece(tool);
  if (tool.kind === 'spot' && values.mark !== null && values.mark > 2 * piece.radius)
    return `a spot drill of ⌀ ${(2 * piece.radius).toFixed(2)} mm marks no ${values.mark} mm`;
  if (tool.kind !== 'spot' && 2 * piece.radius > hole.diameter + FITS_MM)
    return `the cutter makes ⌀ ${(2 * piece.radius).toFixed(2)} mm, which is wider`;
  // what fits the hole stands on the facets of its wall
  const slim = slimmer(piece, hole.facetDepth + FITS_MM / 2);
  const to = Math.max(endOf(piece, tool, hole, values), new CutterDrop(part, slim).at(hole.x, hole.y, -Infinity));
  return hole.top - to > NOTHING_MM ? to : 'nothing of its depth is left to make';
}

/** Height at which the tip is to end, mm, wherever the part is. */
function endOf(piece: ProfilePiece, { kind }: ToolShape, hole: Hole, values: HoleValues): number {
  if (kind === 'spot') return hole.top - spotDepth(piece, values.mark ?? hole.diameter);
  const end =
    values.depth !== null
      ? hole.top - values.depth
      : hole.through
        ? hole.bottom - values.beyond
        : hole.bottom + values.short;
  return end - riseOf(piece);
}

/**
 * The same for a cutter that only widens or threads what was drilled: no deeper than its middle finds none.
 *
 * @param depth how deep it would go, mm; or why it cannot be made
 */
function depthInSteel({ steel, tool }: StepContext, hole: Hole, depth: number | string): number | string {
  if (typeof depth === 'string' || tool.kind === 'spot' || tool.kind === 'drill') return depth;
  const standing = topOf(steel, hole.x, hole.y, DRILLED_SHARE * cuttingPiece(tool).radius);
  if (standing > hole.top - NOTHING_MM) return 'it is not drilled yet';
  return Math.max(depth, standing);
}

/** Highest steel of cells with their middle within a radius, mm. */
function topOf({ x0, y0, cell, nx, ny, heights, floor }: HeightMap, x: number, y: number, radius: number): number {
  let top = floor;
  const [i0, i1] = [Math.floor((x - radius - x0) / cell), Math.ceil((x + radius - x0) / cell)];
  const [j0, j1] = [Math.floor((y - radius - y0) / cell), Math.ceil((y + radius - y0) / cell)];
  for (let j = Math.max(0, j0); j <= Math.min(ny - 1, j1); j++)
    for (let i = Math.max(0, i0); i <= Math.min(nx - 1, i1); i++)
      if (Math.hypot(x0 + (i + 0.5) * cell - x, y0 + (j + 0.5) * cell - y) <= radius)
        top = Math.max(top, heights[j * nx + i]!);
  return top;
}

/** How deep the tip of a spot drill goes for a mark of a diameter, mm. */
function spotDepth(piece: ProfilePiece, mark: number): number {
  const radius = Math.min(mark / 2, SPOT_SHARE * piece.radius);
  return piece.kind === 'cone' ? piece.slope * Math.max(0, radius - piece.flat) : 0;
}

/** Makes a hole; or says why it is not made. */
function make(
  path: PathBuilder,
  travel: Travel,
  { hole: { x, y, diameter }, to }: Wanted,
  { tool, safeZ }: Pick<StepContext, 'tool' | 'safeZ'>,
  values: HoleValues,
): CycleSpan | string {
  const start = Math.max(travel.startHeight(x, y), to + NOTHING_MM);
  const pass = travel.passHeight(x, y);
  // the height of crossing is another one in the program: no cycle begins there
  const isNear = pass > start && pass - start <= FED_THROUGH_AIR_MM && toTenth(pass) < safeZ;
  const from = toTenth(isNear ? pass : start);
  const under = travel.topWithin(x, y, tool.DC / 2) - to;
  if (under > tool.APMX && (tool.kind === 'drill' || tool.kind === 'spot'))
    return `A hole of ⌀ ${diameter.toFixed(2)} mm is not made: its end is ${under.toFixed(1)} mm under the steel, and the flutes are ${tool.APMX} mm long`;
  travel.crossTo(x, y, from);
  const cycle = cycleOf(tool, under, values);
  const peck = cycle === 'peck' || cycle === 'break' ? toThousandth(values.peckDepth ?? tool.DC) : 0;
  const first = path.length;
  const cut = { cycle, from, to: toWritten(to), peck };
  for (const { z, kind } of movesOf(cut))
    if (kind === Motion.rapid) path.to(x, y, z, kind);
    else travel.feed(x, y, z, kind);
  return { ...cut, first, end: path.length };
}

/** The next higher tenth: holes on one face begin at one height, though cells of the steel differ. */
const toTenth = (z: number): number => Math.ceil(z * 10 - 1e-6) / 10;
/** The next higher height that a program can say, mm: a control counts pecks from what it reads. */
const toWritten = (z: number): number => Math.ceil(z * 1000 - 1e-6) / 1000;

function cycleOf({ kind, DC }: ToolShape, deep: number, { peck }: HoleValues): Cycle {
  if (kind === 'tap') return 'tap';
  if (kind === 'reamer' || kind === 'bore') return 'ream';
  if (kind === 'spot' || peck === 'none') return 'drill';
  if (peck === 'break') return 'break';
  return peck === 'full' || deep > PECKS_FROM_DC * DC ? 'peck' : 'drill';
}
