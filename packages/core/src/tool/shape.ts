import {
  type Crib,
  type Cutter,
  type Extension,
  type Holder,
  measuredStickOut,
  shankStack,
  type Tool,
  toolOf,
} from './library';
import {
  type Frustum,
  pointedProfile,
  type Profile,
  type ProfilePiece,
  roundProfile,
  type RoundPiece,
  stackProfile,
  withClearance,
} from './profile';

/**
 * What of a tool its paths and the steel depend on: sizes of the cutter (ISO 13399, mm), how far it stands out, and what
 * clamps it. It holds no speed, feed, number or name, so a path cannot come to depend on one.
 */
export interface ToolShape extends Pick<Cutter, 'kind' | 'DC' | 'RE' | 'APMX' | 'SIG' | 'TP' | 'centreCutting'> {
  /** What the cutter bears, mm and degrees, as {@link Cutter} has it; left out where the crib does not tell. */
  readonly RMPX?: number | undefined;
  readonly DMIN?: number | undefined;
  readonly mostAp?: number | undefined;
  readonly mostAe?: number | undefined;
  /** Neck, cone and shank, from the end of the flutes up to whatever clamps the cutter. */
  readonly shank: readonly Frustum[];
  /** From the tip to the lower end of whatever clamps the cutter, mm. */
  readonly stickOut: number;
  /** Extensions, then the holder, from the cutter's side up. */
  readonly clamping: readonly Frustum[];
}

export function shapeOf(tool: Tool): ToolShape {
  const { kind, APMX, SIG, TP, centreCutting } = tool.cutter;
  const { DC, RE, stickOut } = sizesOf(tool);
  const shank = upTo(shankStack(tool.cutter), stickOut - APMX);
  return {
    ...{ kind, DC, RE, APMX, SIG, TP, centreCutting, stickOut, shank, clamping: clampingStack(tool) },
    ...Object.fromEntries(BORNE.flatMap((key) => (tool.cutter[key] === null ? [] : [[key, tool.cutter[key]]]))),
  };
}

/** The sizes that paths are for, mm. */
interface Sizes {
  readonly DC: number;
  readonly RE: number;
  readonly stickOut: number;
}

/** Nominal sizes, or the measured ones where the assembly is to be taken so: longer by as much as it is longer to the gauge line. */
export function sizesOf(tool: Tool): Sizes {
  const { DC, RE } = tool.cutter;
  const { stickOut, asMeasured } = tool.assembly;
  return asMeasured ? measuredSizes(tool) : { DC, RE, stickOut };
}

/** Sizes as they were measured; nominal where they were not. */
export function measuredSizes(tool: Tool): Sizes {
  const { kind, DC, RE } = tool.cutter;
  const { stickOut, measuredDiameter, measuredRadius } = tool.assembly;
  const diameter = measuredDiameter ?? DC;
  // a ball's radius is half its diameter, and no corner is larger than that
  const radius = kind === 'ball' ? diameter / 2 : Math.min(measuredRadius ?? RE, diameter / 2);
  const measured = measuredStickOut(tool.assembly, tool.extensions, tool.holder);
  return { DC: diameter, RE: radius, stickOut: measured ?? stickOut };
}

/** Bounds of a cutter that its paths keep to. */
const BORNE = ['RMPX', 'DMIN', 'mostAp', 'mostAe'] as const;

/** Slope of a way down into steel: as a step asks, but no steeper than the cutter may go. */
export function slopeDown(degrees: number, { RMPX = 90 }: Pick<ToolShape, 'RMPX'>): number {
  return Math.tan((Math.min(degrees, RMPX) * Math.PI) / 180);
}

/** The shape of an assembly of the crib; undefined when it is not there. */
export function shapeInCrib(crib: Crib, assemblyId: string): ToolShape | undefined {
  const tool = toolOf(crib, assemblyId);
  return tool && shapeOf(tool);
}

/** All that stands above the cutter, from its side up: extensions, then the holder. */
export function clampingStack(tool: { extensions: readonly Extension[]; holder: Holder }): Frustum[] {
  return [...tool.extensions.flatMap((e) => e.stack), ...tool.holder.stack];
}

/**
 * Underside of the edges of any cutter: a point with its angle, of a tap what its crests leave of the hole that was drilled for it
 * (DC less the pitch, as in ISO 2306, from memory), of a reamer or boring bar the hole that it makes, of others the end that mills.
 */
export function cuttingPiece(shape: Pick<ToolShape, 'kind' | 'DC' | 'RE' | 'SIG' | 'TP'>): ProfilePiece {
  const { kind, DC, SIG, TP } = shape;
  const isPointed = (kind === 'drill' || kind === 'spot' || kind === 'chamfer') && SIG > 0 && SIG < 180;
  if (isPointed) return pointedProfile(0, DC / 2, SIG)[0]!;
  if (kind === 'tap') return roundProfile(Math.max(DC - TP, DC / 2), 0);
  return cutterProfile(shape);
}

/** Underside of the end of a cutter that mills. */
export function cutterProfile({ DC, RE }: Pick<ToolShape, 'DC' | 'RE'>): RoundPiece {
  return roundProfile(DC, RE);
}

/** Underside of neck and shank, from the end of the flutes up. */
export function shankProfile({ APMX, shank }: Pick<ToolShape, 'APMX' | 'shank'>): Profile {
  return stackProfile(shank, APMX);
}

/** The lower part of a stack, `length` mm of it. */
export function upTo(stack: readonly Frustum[], length: number): Frustum[] {
  const out: Frustum[] = [];
  let left = length;
  for (const { bottomDiameter, topDiameter, length: whole } of stack) {
    if (left <= 1e-9) break;
    const part = Math.min(left, whole);
    out.push({
      bottomDiameter,
      topDiameter: bottomDiameter + ((topDiameter - bottomDiameter) * part) / whole,
      length: part,
    });
    left -= part;
  }
  return out;
}

/** Underside of extensions and holder, with the lower end of what clamps the cutter at `bottom`, mm. */
export function holderProfile(
  { clamping, stickOut }: Pick<ToolShape, 'clamping' | 'stickOut'>,
  bottom = stickOut,
): Profile {
  return stackProfile(clamping, bottom);
}

/** How far the cutter with its extensions stands out of the holder, mm. */
export function overhangOf(tool: Pick<Tool, 'assembly' | 'extensions'>): number {
  return tool.extensions.reduce((sum, e) => sum + stackLength(e.stack), tool.assembly.stickOut);
}

/** Nominal length from the tip to the holder's upper end, the spindle's gauge line, mm. */
export function gaugeLength(tool: Tool): number {
  return tool.assembly.stickOut + stackLength(clampingStack(tool));
}

const stackLength = (stack: readonly Frustum[]): number => stack.reduce((sum, f) => sum + f.length, 0);

/** What is no wider than the edges stands this far within them, mm: rounding would have it in the wall that they cut. */
const WITHIN_MM = 0.02;

/** Room around what stands above the edges, mm. */
export interface BodyRoom {
  readonly shank: number;
  readonly holder: number;
}

/** Kept around the shank, and around the holder, while cutting: common practice, no source. */
export const HOUSE_BODY_ROOM: BodyRoom = { shank: 0.5, holder: 1 };

/**
 * What stands above the edges, with room around it, mm: beside and below alike. What is no wider than the edges goes where they
 * went, and gets none.
 */
export function bodyWithRoom(shape: ToolShape, room: BodyRoom): Profile {
  const radius = shape.DC / 2;
  const shank = shankProfile(shape).flatMap((piece) =>
    piece.radius > radius + WITHIN_MM
      ? withClearance([piece], room.shank, room.shank)
      : withClearance([piece], -Math.min(WITHIN_MM, piece.flat), 0),
  );
  return [...shank, ...withClearance(holderProfile(shape), room.holder, room.holder)];
}
