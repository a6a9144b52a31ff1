import { EsquisseError } from '../../base/errors';
import { type BrokenEdges, besideEdges } from '../../check/brokenEdge';
import { lengthOf, offsetPolygons, type Polyline, reversed, simplifyLine } from '../../geometry/polygon';
import { sectionAt } from '../../geometry/section';
import { flatsOf } from '../../levels/heights';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import { type Growing, planAround, workspaceOf } from '../../link/workspace';
import { Motion } from '../../path/toolpath';
import type { HeightMap } from '../../steel/heightMap';
import { CutterDrop } from '../../tool/drop';
import { type ProfilePiece, riseOf, slimmer } from '../../tool/profile';
import { cuttingPiece } from '../../tool/shape';
import { chamfersOf, type DrawnChamfer } from '../../survey/chamfers';
import type { ChamferValues } from './values';

type Cone = ProfilePiece & { kind: 'cone' };

/** Sections pass this far beside the heights of vertices, mm. */
const BESIDE_MM = 2e-3;
/** Places along an edge at which it is looked at, mm apart, and how far the line between them may be off. */
const LOOK_MM = 0.2;
const TOLERANCE_MM = 1e-3;
/** Where an edge ends and goes on within this many mm the point goes on as well, if it touches nothing else. */
const BRIDGED_MM = 3;
/** The point may stand this much too deep against what it is to touch, or too high, mm: where it stands higher there is no edge. */
const TOO_DEEP_MM = 0.006;
const TOO_HIGH_MM = 0.03;
/** Steel that stands higher over the tip than this is for other cutters, mm. */
const STANDING_MM = 0.1;
/** Shorter pieces of edges are left, mm. */
const SHORTEST_MM = 0.4;
/** A closed line is cut on beyond its beginning by this, mm (common practice). */
const OVERLAP_MM = 1;
/** Level faces smaller than this have no edges worth breaking, mm². */
const SMALLEST_FACE_MM2 = 0.5;
/** Heights this close are one, mm. */
const SAME_MM = 2e-3;
/** Of a chamfer more than this share is told where it is not made. */
const UNMADE_SHARE = 0.02;

/** Edges at one height. */
interface Row {
  /** Heights of the tip, and of the section along whose outline it goes, mm. */
  readonly tip: number;
  readonly section: number;
  /** From the section's outline to the axis, mm. */
  readonly away: number;
  /** How much higher the point would touch the part, mm. */
  readonly depth: number;
  readonly drawn?: DrawnChamfer;
}

/** @throws EsquisseError `step-impossible` when there is no such edge */
export async function planChamfers(context: StepContext, values: ChamferValues): Promise<StepPlan> {
  const { part, tool, blank } = context;
  const piece = cuttingPiece(tool) as Cone;
  const isDrawn = values.edges === 'drawn';
  const leftOut: LeftOut[] = [];
  const rows = isDrawn ? drawnRows(context, values, piece, leftOut) : sharpRows(context, values, piece);
  if (rows.length === 0)
    throw new EsquisseError(
      'step-impossible',
      leftOut[0]?.why ??
        (isDrawn
          ? `The part has no chamfer of this cutter's ${tool.SIG}°: choose another cutter, or break its sharp edges.`
          : 'The part has no level face there whose edges could be broken.'),
      isDrawn ? 'edges' : 'face',
    );
  const { test, begin } = await workspaceOf(context, planAround(blank, piece.radius));
  const growing = begin();
  const broken: BrokenEdges = { below: values.below, depth: isDrawn ? 0 : rows[0]!.depth };
  // slimmer by what it may be too deep: along an upright wall all of it below the edge touches
  const looks = besideEdges(piece, broken).map((p) => new CutterDrop(part, { ...slimmer(p, TOO_DEEP_MM), z: 0 }));
  const heights = besideEdges(piece, broken).map((p) => p.z);
  const whole = new CutterDrop(part, piece);
  /** Where steel stands beside an edge, and along how much of them, mm. */
  const covered = { x: 0, y: 0, z: 0, length: 0 };
  for (const row of rows) {
    const { tip } = row;
    const lookAt = (x: number, y: number): Look => {
      const touches = whole.at(x, y) - tip - row.depth;
      const isClear =
        touches <= TOO_DEEP_MM &&
        !test.forbids(x, y, tip) &&
        looks.every((look, k) => look.at(x, y) - heights[k]! <= tip + TOO_DEEP_MM);
      if (!isClear) return 'closed';
      if (touches < -TOO_HIGH_MM) return 'clear';
      // the tip would plough through it
      if (steelAt(context.steel, x, y) <= tip + STANDING_MM) return 'edge';
      Object.assign(covered, { x, y, z: tip, length: covered.length + LOOK_MM });
      return 'closed';
    };
    const rings = offsetPolygons(sectionAt(part, row.section), row.away, TOLERANCE_MM);
    const lines = rings.flatMap((ring) => stretchesOf(ring, lookAt));
    for (const line of nearestFirst(lines, growing.path.last))
      cutLine(growing, line, tip, values.direction === 'climb');
    if (row.drawn) tellUnmade(row.drawn, lines, piece, values, leftOut);
  }
  const { length, ...place } = covered;
  if (length >= SHORTEST_MM)
    leftOut.unshift({ ...place, why: `Steel still stands beside ${length.toFixed(0)} mm of edges: mill it off first` });
  if (growing.path.length === 0)
    throw new EsquisseError(
      'step-impossible',
      leftOut[0]?.why ?? 'None of these edges can be reached without touching something else of the part.',
      isDrawn ? 'edges' : 'face',
    );
  const plan = growing.finish(leftOut);
  return isDrawn ? plan : { ...plan, broken };
}

/** Height of the steel at a place, mm; below all where there is none of its map. */
function steelAt({ x0, y0, cell, nx, ny, heights }: HeightMap, x: number, y: number): number {
  const [i, j] = [Math.floor((x - x0) / cell), Math.floor((y - y0) / cell)];
  return i < 0 || j < 0 || i >= nx || j >= ny ? -Infinity : heights[j * nx + i]!;
}

function drawnRows({ part }: StepContext, { below, face }: ChamferValues, piece: Cone, leftOut: LeftOut[]): Row[] {
  return chamfersOf(part, piece.slope).flatMap((drawn): Row[] => {
    if (face !== null && Math.abs(drawn.high - face) > SAME_MM) return [];
    const height = below + drawn.high - drawn.low;
    if (height > riseOf(piece)) {
      const why = `A chamfer is ${(drawn.high - drawn.low).toFixed(2)} mm high: with its tip ${below} mm below, the cutter's edges end at ${riseOf(piece).toFixed(2)} mm`;
      leftOut.push({ why, ...drawn.at });
      return [];
    }
    const tip = drawn.low - below;
    const section = drawn.low + BESIDE_MM;
    return [{ tip, section, away: (section - tip) / piece.slope, depth: 0, drawn }];
  });
}

function sharpRows({ part }: StepContext, { width, below, face }: ChamferValues, piece: Cone): Row[] {
  const depth = width * piece.slope;
  if (below + depth > riseOf(piece))
    throw new EsquisseError(
      'step-impossible',
      `With its tip ${below} mm below, this cutter makes chamfers of ${((riseOf(piece) - below) / piece.slope).toFixed(2)} mm at most.`,
      'width',
    );
  return flatsOf(part, SMALLEST_FACE_MM2)
    .filter((flat) => face === null || Math.abs(flat - face) <= SAME_MM)
    .map((flat): Row => {
      const tip = flat - depth - below;
      return { tip, section: flat - depth - BESIDE_MM, away: below / piece.slope, depth };
    });
}

interface Line {
  readonly points: Polyline;
  readonly closed: boolean;
}

/** What a place is to the point: there is an edge, there is nothing, or something that it must not touch. */
type Look = 'edge' | 'clear' | 'closed';

/** The stretches of a ring along which there is an edge, with the gaps that are bridged. */
function stretchesOf(ring: Polyline, lookAt: (x: number, y: number) => Look): Line[] {
  const dense: number[] = [];
  const n = ring.length / 2;
  for (let k = 0; k < n; k++) {
    const [ax, ay] = [ring[2 * k]!, ring[2 * k + 1]!];
    const [bx, by] = [ring[2 * ((k + 1) % n)]!, ring[2 * ((k + 1) % n) + 1]!];
    const steps = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / LOOK_MM));
    for (let s = 0; s < steps; s++) dense.push(ax + ((bx - ax) * s) / steps, ay + ((by - ay) * s) / steps);
  }
  const count = dense.length / 2;
  const looks = Array.from({ length: count }, (_, k) => lookAt(dense[2 * k]!, dense[2 * k + 1]!));
  const place = (k: number): [number, number] => [dense[2 * (k % count)]!, dense[2 * (k % count) + 1]!];
  const off = looks.findIndex((l) => l !== 'edge');
  if (off < 0) {
    const points = simplifyLine(Float64Array.from([...dense, ...place(0)]), TOLERANCE_MM);
    return [{ points, closed: true }];
  }
  const lines: Line[] = [];
  let points: number[] = [];
  /** Clear places since the last edge. */
  let gap: number[] = [];
  const end = (): void => {
    if (lengthOf(points) >= SHORTEST_MM)
      lines.push({ points: simplifyLine(Float64Array.from(points), TOLERANCE_MM), closed: false });
    points = [];
    gap = [];
  };
  for (let k = off + 1; k <= off + count; k++) {
    const look = looks[k % count]!;
    if (look === 'edge') {
      points.push(...gap, ...place(k));
      gap = [];
    } else if (look === 'closed') end();
    else if (points.length > 0) {
      gap.push(...place(k));
      if (lengthOf(gap) > BRIDGED_MM) end();
    }
  }
  end();
  return lines;
}

/** Lines in an order in which each begins near to where the one before ended. */
function nearestFirst(lines: readonly Line[], from: readonly number[] | undefined): Line[] {
  const open = [...lines];
  const order: Line[] = [];
  let [x, y] = [from?.[0] ?? 0, from?.[1] ?? 0];
  while (open.length > 0) {
    const away = ({ points }: Line): number => Math.hypot(points[0]! - x, points[1]! - y);
    const next = open.reduce((a, b) => (away(b) < away(a) ? b : a));
    open.splice(open.indexOf(next), 1);
    order.push(next);
    [x, y] = [next.points.at(-2)!, next.points.at(-1)!];
  }
  return order;
}

/** Cuts along a line with the solid on its left, turned round where the cutter is to climb. */
function cutLine({ path, travel }: Growing, { points, closed }: Line, z: number, climb: boolean): void {
  const line = climb ? reversed(points) : points;
  const [x, y] = [line[0]!, line[1]!];
  travel.crossTo(x, y, Math.max(z, travel.startHeight(x, y)));
  travel.feed(x, y, z, Motion.entry);
  for (let k = 2; k < line.length; k += 2) travel.feed(line[k]!, line[k + 1]!, z, Motion.cut);
  if (closed) overlap(line, (px, py) => travel.feed(px, py, z, Motion.cut));
  const at = path.last!;
  path.to(at[0], at[1], travel.startHeight(at[0], at[1]), Motion.exit);
}

/** Goes on along a closed line from its beginning for a little. */
function overlap(line: Polyline, go: (x: number, y: number) => void): void {
  let left = OVERLAP_MM;
  for (let k = 2; k < line.length && left > 0; k += 2) {
    const [dx, dy] = [line[k]! - line[k - 2]!, line[k + 1]! - line[k - 1]!];
    const length = Math.hypot(dx, dy);
    const share = length > 0 ? Math.min(1, left / length) : 1;
    go(line[k - 2]! + share * dx, line[k - 1]! + share * dy);
    left -= length;
  }
}

/** Tells of a chamfer that lines do not make whole. */
function tellUnmade(
  { facets, area, at }: DrawnChamfer,
  lines: readonly Line[],
  { slope }: Cone,
  { below }: ChamferValues,
  leftOut: LeftOut[],
): void {
  let unmade = 0;
  let worst = at;
  let largest = 0;
  for (const facet of facets) {
    const away = (below + facet.z - facet.low) / slope;
    if (lines.some(({ points }) => isNear(points, facet.x, facet.y, away + TOO_HIGH_MM))) continue;
    unmade += facet.area;
    if (facet.area > largest) [largest, worst] = [facet.area, facet];
  }
  if (unmade > UNMADE_SHARE * area)
    leftOut.push({
      why: `${unmade.toFixed(1)} mm² of a chamfer are not reached by this cutter`,
      x: worst.x,
      y: worst.y,
      z: worst.z,
    });
}

function isNear(line: Polyline, x: number, y: number, within: number): boolean {
  for (let k = 2; k < line.length; k += 2) {
    const [ax, ay, bx, by] = [line[k - 2]!, line[k - 1]!, line[k]!, line[k + 1]!];
    const l2 = (bx - ax) ** 2 + (by - ay) ** 2;
    const t = l2 > 0 ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l2)) : 0;
    if (Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y) <= within) return true;
  }
  return false;
}
