import { toThousandth } from '../base/round';
import type { Flat } from '../survey/features';
import { largestRadius, type Survey } from '../survey/survey';
import type { Crib, Tool } from '../tool/library';
import { leavesMuch } from './reached';
import { ofKind, type Proposal, proposed, type ProposedStep, usable } from './step';

/** What of a part steps are proposed for, lengths in mm. */
export interface MilledPart {
  readonly survey: Pick<
    Survey,
    | 'box'
    | 'area'
    | 'flats'
    | 'holes'
    | 'tightness'
    | 'deepest'
    | 'facesFromFile'
    | 'slopeOf'
    | 'areaOf'
    | 'chamfers'
    | 'corners'
  >;
  /** How far the block stands over the part. */
  readonly above: number;
  /** Height of the part's underside in the frame of the work zero: around the part steel is opened up down to there. */
  readonly underside: number;
}

/** What was found of a part, in words. */
export interface Found {
  readonly name: string;
  readonly told: string;
}

/** A cutter that opens up is no wider than this share of the part's smaller side (common practice, no source). */
const WIDEST_SHARE = 0.5;
/** Each cutter that opens up after another has at most this share of its diameter (common practice, no source). */
const NEXT_SHARE = 0.6;
const MOST_ROUGHERS = 3;
/** Corners are left to a smaller cutter where the largest one is so many times as wide. */
const WIDER = 1.3;
/** And no more: of a place that is too narrow for it, the smaller one covers all along its walls (geometry). */
const MOST_WIDER = 2;
/** Cutters stand out over what they reach by this, mm. */
const ROOM_MM = 1;
/** Steel over the part thinner than this is none, mm. */
const NOTHING_MM = 0.01;
/** Ground that is neither level nor upright by more than this, degrees, and at least so much of it, mm² and share of the surface. */
const LEVEL_DEG = 1;
const FREE_MM2 = 50;
const FREE_SHARE = 0.01;
/** Level faces smaller than this are told as none, mm². */
const SMALL_MM2 = 1;
/** Width by which sharp edges are broken, mm (common practice). */
const BROKEN_MM = 0.2;

/** What of a part is to be milled, by sorts. */
export function foundOn({ survey, above }: MilledPart): Found[] {
  const { flats, corners, chamfers, box } = survey;
  const out: Found[] = [];
  const large = flats.filter((f) => f.area >= SMALL_MM2 && f.z < box.maxZ - NOTHING_MM);
  const pockets = large.filter((f) => f.depth > 0);
  if (above > NOTHING_MM) out.push({ name: 'Steel over the part', told: `${above.toFixed(2)} mm` });
  if (pockets.length > 0) {
    const open = pockets.filter((f) => f.openLength > NOTHING_MM).length;
    out.push({
      name: 'Floors under walls',
      told:
        `${pockets.length}, up to ${Math.max(...pockets.map((f) => f.depth)).toFixed(1)} mm deep, ` +
        `${open} with an open side, ${volumeUnder(pockets).toFixed(1)} cm³`,
    });
  }
  const { round, sharp } = corners;
  if (round) out.push({ name: 'Tightest corner of upright walls', told: `${round.radius.toFixed(2)} mm` });
  if (sharp > 0) out.push({ name: 'Corners that no cutter gets into', told: `${sharp}` });
  const free = freeArea(survey);
  if (free > 0) out.push({ name: 'Ground that is not level', told: `${(free / 100).toFixed(1)} cm²` });
  for (const { angle, area, height } of chamfers)
    out.push({ name: `Chamfers of ${angle}°`, told: `${height.toFixed(2)} mm high, ${(area / 100).toFixed(2)} cm²` });
  return out;
}

/** Steel over floors up to the top of their walls, cm³. */
const volumeUnder = (pockets: readonly Flat[]): number =>
  pockets.reduce((sum, { area, depth }) => sum + (area * depth) / 1000, 0);

/** Area that is neither level, upright, a chamfer nor of a hole, mm²; 0 where that is next to nothing. */
function freeArea({ slopeOf, areaOf, area, holes, chamfers }: MilledPart['survey']): number {
  const inHole = new Set(holes.flatMap((h) => h.triangles));
  let free = -chamfers.reduce((sum, c) => sum + c.area, 0);
  slopeOf.forEach((slope, t) => {
    if (slope > LEVEL_DEG && slope < 90 - LEVEL_DEG && !inHole.has(t)) free += areaOf[t]!;
  });
  return free > Math.max(FREE_MM2, FREE_SHARE * area) ? free : 0;
}

/**
 * Steps that mill a part but for its holes: its block is opened up from large cutters to small ones, then floors, walls and
 * corners are finished, then what is not level, and chamfers.
 */
export function proposeMilling(part: MilledPart, crib: Crib): Proposal {
  const { survey, above } = part;
  const tools = usable(crib);
  const steps: ProposedStep[] = [];
  const missing: string[] = [];
  const depth = survey.deepest.depth + above;
  const reaching = tools.filter(({ assembly }) => assembly.stickOut >= depth + ROOM_MM);
  const { round, sharp } = survey.corners;
  // into a sharp corner the smaller the better
  const radius = round ? largestRadius(round.radius) : sharp > 0 ? 0 : Infinity;

  if (above > NOTHING_MM) {
    const face = widest(ofKind(tools, 'face')) ?? widest(ofKind(tools, 'flat', 'bull'));
    if (face) steps.push(proposed('facing', 'Face the top', face));
  }
  const roughers = roughersFor(survey, reaching);
  if (roughers.length === 0) missing.push(`an end mill that stands out ${Math.ceil(depth + ROOM_MM)} mm or more`);
  for (const [k, tool] of roughers.entries())
    steps.push(
      k === 0
        ? proposed('level-roughing', 'Open up', tool, { bottom: toThousandth(part.underside) })
        : proposed('rest-roughing', `Open up, ⌀ ${tool.cutter.DC}`, tool),
    );
  const flat = ofKind(reaching, 'flat').filter(({ cutter }) => cutter.DC <= (roughers[0]?.cutter.DC ?? Infinity));
  const small = widest(flat.filter(({ cutter }) => cutter.DC / 2 <= radius)) ?? narrowest(flat);
  const isLarge = (DC: number, least: number): boolean => DC >= WIDER * least && DC <= MOST_WIDER * least;
  const large = widest(flat.filter(({ cutter }) => small && isLarge(cutter.DC, small.cutter.DC))) ?? small;
  if (!small || !large) missing.push(`a flat end mill that stands out ${Math.ceil(depth + ROOM_MM)} mm or more`);
  else {
    if (round && small.cutter.DC / 2 > radius)
      missing.push(`a flat end mill of ${toThousandth(2 * radius)} mm or less for inside corners`);
    if (survey.flats.some((f) => f.area >= SMALL_MM2)) steps.push(proposed('flats', 'Floors', large));
    steps.push(proposed('profile', 'Walls', large, { which: 'all' }));
    if (small !== large) {
      const rest = { which: 'all', restOf: large.assembly.id };
      steps.push(proposed('profile', 'Corners', small, rest));
    }
  }
  if (freeArea(survey) > 0) {
    const balls = ofKind(reaching, 'ball');
    const bend = survey.tightness.bends[0];
    const hollow = bend ? largestRadius(bend.value, survey.facesFromFile) : Infinity;
    const ball = widest(balls.filter(({ cutter }) => cutter.DC / 2 <= hollow)) ?? narrowest(balls);
    if (ball) steps.push(proposed('even-scallop', 'Finish what is not level', ball));
    else missing.push(`a ball cutter that stands out ${Math.ceil(depth + ROOM_MM)} mm or more`);
  }
  return { steps, missing };
}

/** Steps that break edges, which come after all others. */
export function proposeEdges({ survey }: MilledPart, crib: Crib): Proposal {
  const pointed = ofKind(usable(crib), 'chamfer', 'spot').sort((a, b) => kindFirst(a) - kindFirst(b));
  const steps: ProposedStep[] = [];
  const missing: string[] = [];
  for (const { angle } of survey.chamfers) {
    const point = 180 - 2 * angle;
    const tool = pointed.find(({ cutter }) => Math.abs(cutter.SIG - point) < 0.5);
    if (tool) steps.push(proposed('chamfering', `Chamfers of ${angle}°`, tool));
    else missing.push(`a chamfer cutter of ${point}°`);
  }
  const breaker = pointed.find(({ cutter }) => cutter.SIG === 90) ?? pointed[0];
  if (breaker && survey.flats.length > 0) {
    const step = proposed('chamfering', 'Break sharp edges', breaker, { edges: 'sharp', width: BROKEN_MM });
    steps.push({ ...step, isExtra: true });
  }
  return { steps, missing };
}

const kindFirst = ({ cutter }: Tool): number => (cutter.kind === 'chamfer' ? 0 : 1);

/** Cutters that open a part up one after another, until one gets into its corners. */
function roughersFor({ box, corners }: MilledPart['survey'], reaching: readonly Tool[]): Tool[] {
  const widestOf = WIDEST_SHARE * Math.min(box.maxX - box.minX, box.maxY - box.minY);
  const all = ofKind(reaching, 'bull', 'flat');
  const fitting = all.filter(({ cutter }) => cutter.DC <= widestOf);
  const row: Tool[] = [];
  for (let next = widest(fitting) ?? narrowest(all); next && row.length < MOST_ROUGHERS;) {
    const { DC } = next.cutter;
    row.push(next);
    next = corners.sections.some((walls) => leavesMuch(walls, DC))
      ? widest(fitting.filter(({ cutter }) => cutter.DC <= NEXT_SHARE * DC))
      : undefined;
  }
  return row;
}

/** The widest cutter; of equal ones that with a rounded corner, which is stronger, then the one that stands out least. */
const widest = (tools: readonly Tool[]): Tool | undefined =>
  tools.toSorted(
    (a, b) => b.cutter.DC - a.cutter.DC || b.cutter.RE - a.cutter.RE || a.assembly.stickOut - b.assembly.stickOut,
  )[0];

const narrowest = (tools: readonly Tool[]): Tool | undefined =>
  tools.toSorted((a, b) => a.cutter.DC - b.cutter.DC || a.assembly.stickOut - b.assembly.stickOut)[0];
