import type {
  Body3,
  Box,
  Followed,
  FollowedBound,
  FollowedOutline,
  LaidBoxes,
  LeftoverFigures,
  LoadFigure,
  LoadQuantity,
  MeshReport,
  Release,
  RestRegion,
  RevisionReport,
  StepFigures,
  Toolpath,
} from '@esquisse/core';
import type { DrawnSteel } from './display';
import type { PartDrawing } from './partDrawing';

/** What the page shows of a calculated step; its motions are found by it: see `runs.ts`. */
export interface StepSummary {
  readonly stepId: string;
  readonly figures: StepFigures;
  /** Number of its motions. */
  readonly motions: number;
}

/** The motions of a calculated step and the time at the end of each, s; they lie in shared memory. */
export interface StepRun {
  readonly path: Toolpath;
  readonly times: Float64Array;
  /** Speed of a finishing ball's edge where it touches, percent of that at DC, by motions; undefined for other steps. */
  readonly contact?: Uint8Array | undefined;
}

/** What the planner tells of a calculated step. */
export interface ToldStep extends Omit<StepSummary, 'motions'>, StepRun {
  /** Names the result: what was told under the same name before is the same. */
  readonly name: string;
}

/** A file as it was read: what the page tells of it. */
export interface FileView {
  readonly file: string;
  /** By which a job names what the file holds. */
  readonly hash: string;
  readonly report: MeshReport;
  readonly bodies: readonly Body3[];
  /** In the file's frame, mm. */
  readonly box: Box;
  readonly triangles: number;
}

/** The piece as it is oriented: what the page draws and tells of it. */
export interface PieceView {
  /** Changes with the part's mesh. */
  readonly key: string;
  /** Changes with all that the steel before the first step depends on; empty while the piece cannot be machined. */
  readonly steelKey: string;
  /** In the file's frame. */
  readonly drawing: PartDrawing;
  /** In the oriented frame, mm. */
  readonly boxes: LaidBoxes;
  /** The fixtures' triangles, nine numbers each, in the frame of the work zero. */
  readonly fixtures: Float64Array;
  readonly triangles: number;
  readonly faces: number;
  /** mm³. */
  readonly volume: number;
  /** Of the body that is the blank, mm³. */
  readonly blankVolume?: number;
  readonly bodies: readonly Body3[];
  /** What was put right in the part's file when it was read. */
  readonly report: MeshReport;
  /** What is to be doubted of the part's file, as sentences. */
  readonly doubts: readonly string[];
  /** What changed against the part that was there before, in the oriented frame. */
  readonly revision?: RevisionReport | undefined;
  /** Heights of steps that went with their faces. */
  readonly followed: readonly (Followed | FollowedBound)[];
  /** Their limits in plan view that went with theirs, or could not. */
  readonly outlines: readonly FollowedOutline[];
}

/** What holds of a job's steps, for the job as it was taken with a number. */
export interface PlanState {
  /** Number of the change after which this is told: see {@link Engine.take}. */
  readonly revision: number;
  /** Counts what the planner told: messages overtake one another, and the later one holds. */
  readonly serial: number;
  readonly summaries: readonly StepSummary[];
  /** Steps whose result holds for the job as it is. */
  readonly fresh: readonly string[];
}

/** The same as the planner tells it, with all motions. */
export type ToldState = Omit<PlanState, 'summaries'> & { readonly summaries: readonly ToldStep[] };

/** What the planner tells of a job that it has taken in. */
export interface ToldJob extends ToldState {
  readonly piece?: PieceView | undefined;
  /** What keeps the piece from being machined as it is, as a sentence. */
  readonly problem?: string | undefined;
}

/** What taking a job in gives. */
export interface TakenState extends PlanState {
  /** Whether there is a piece that can be drawn. */
  readonly hasPiece: boolean;
  readonly problem?: string | undefined;
}

/** A program that was posted and proven; the lines of its motions are found by it: see `runs.ts`. */
export type Posted = Omit<Release, 'lines'>;

/** A place on the time line: after motion `motion` of a step, or the blank. */
export interface Moment {
  readonly stepId: string | null;
  readonly motion: number;
}

/** Leftover at a moment, for lens and legend; lengths in mm. */
export interface LeftoverView {
  readonly steel: DrawnSteel;
  readonly figures: LeftoverFigures;
  readonly low: number;
  readonly high: number;
  readonly bins: readonly number[];
}

/** How far a step's cutter has to stand out over the part, mm, for lens and legend; and how far it does. */
export interface ReachView {
  readonly steel: DrawnSteel;
  readonly stickOut: number;
  readonly most: number;
  readonly bins: readonly number[];
  /** Share of the part's plan that its assembly gets down to. */
  readonly reached: number;
}

/** Ridges of a step over the part, each told by its height, mm, or by a mark. */
export interface RidgeView {
  readonly steel: DrawnSteel;
  /** What was asked for, and where the ramp ends, mm. */
  readonly asked: number;
  readonly high: number;
  readonly bins: readonly number[];
  /** Shares of the places that are asked for. */
  readonly missed: number;
  readonly outOfReach: number;
  readonly notCut: number;
}

/** The load of the step at the playhead over the steel that it took. */
export interface LoadView {
  readonly steel: DrawnSteel;
  readonly stepId: string;
  readonly quantity: LoadQuantity;
  /** The same of the whole step, with its limit. */
  readonly figure: LoadFigure;
}

/** Where a step would cut: area (mm²) and volume (mm³) above the allowance, and the steel with 1 where it lies. */
export interface RegionView {
  readonly area: number;
  readonly volume: number;
  readonly threshold: number;
  readonly stairs?: RestRegion['stairs'] | undefined;
  readonly steel: DrawnSteel;
}

/** How work is called off, and who hears how far it has come. */
export type Watched = [cancel: Int32Array, onProgress: (share: number) => void];
