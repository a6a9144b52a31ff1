import type { Crew } from '../crew/crew';
import type { BrokenEdges } from '../check/brokenEdge';
import type { Limit } from '../field/bounds';
import type { FaceLimits } from '../field/faceLimits';
import type { Box } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Motions } from '../path/toolpath';
import type { HeightMap } from '../steel/heightMap';
import type { Hole } from '../survey/features';
import type { ToolShape } from '../tool/shape';
import type { TravelRoom } from './stepTravel';

/**
 * What a step may look at while it is planned, in the frame of the work zero, mm. A path depends on this and on the step's
 * values alone: speeds, feeds and numbers are no part of it, so a change of those plans nothing again.
 */
export interface StepContext {
  readonly part: ContactMesh;
  readonly tool: ToolShape;
  /** What is kept free around the tool on its way. */
  readonly room: TravelRoom;
  /** Steel before the step; not to be changed. */
  readonly steel: HeightMap;
  /** Steel above the part along its normal before the step, for each cell, mm; NaN where there is no part. */
  readonly leftover: () => Promise<Float32Array>;
  /** The same for another state of the steel. */
  readonly leftoverOf: (steel: HeightMap) => Promise<Float32Array>;
  /** Largest tolerance of the paths of the steps before, mm. */
  readonly toleranceBefore: number;
  /** Steel that the steps before leave on purpose at most, allowance and stairs together, mm; 0 when none of them says so. */
  readonly promisedBefore: number;
  /** The shape of an assembly that the step's values name. */
  readonly shapeNamed: (assemblyId: string) => ToolShape | undefined;
  /** Where the step is held in plan view. */
  readonly limits: readonly Limit[];
  /** Faces of the part by which it is held. */
  readonly faces: FaceLimits | undefined;
  /** What holds the blank: nothing of the tool may come near it. */
  readonly fixtures: ContactMesh | undefined;
  /** Holes that were drilled before: ways into closed steel. */
  readonly drilled: readonly { x: number; y: number; diameter: number; bottom: number }[];
  /** Upright holes of the part. */
  readonly holes: () => readonly Hole[];
  /** Height at which the tool crosses freely while the step is planned; the setup's own height takes its place later. */
  readonly safeZ: number;
  /** Box of the blank as it came. */
  readonly blank: Box;
  /** Height of the blank's top as it came. */
  readonly rawTop: number;
  readonly crew: Crew;
  /** Reports 0 to 1. */
  readonly progress: (share: number) => void;
}

/** A place that a step left out, and why. */
export interface LeftOut {
  why: string;
  x: number;
  y: number;
  z: number;
  /** mm³, where it is known. */
  volume?: number;
}

/** What planning a step gives. */
export interface StepPlan {
  readonly path: Motions;
  readonly leftOut: readonly LeftOut[];
  /** Places where it does what was asked for, and a person should look; none when left out. */
  readonly notes?: readonly LeftOut[];
  /**
   * How far facets of round walls that the cutter just fits lie inside their circles, mm: no gouge where it goes into them; 0 when
   * left out.
   */
  readonly facetDepth?: number;
  /** Edges that it breaks on purpose; none when left out. */
  readonly broken?: BrokenEdges;
}
