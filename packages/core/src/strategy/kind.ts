import type { z } from 'zod';
import type { Tool } from '../cutter/library';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Toolpath } from '../path/toolpath';
import type { Crew } from '../plan/crew';
import type { Limit } from '../region/bounds';
import type { HeightMap } from '../stock/heightMap';
import type { RestRegion } from '../stock/restRegion';

export type StepGroup = 'open up' | 'clean up' | 'even out' | 'finish' | 'prismatic';
/** The folding parts of the step sheet that a value can stand in, in the order of a person's decisions. */
export type SheetSection = 'aim' | 'limits' | 'passes' | 'travel';
export type Value = number | string | boolean | null;

/** How a value is shown and typed. */
export interface Field {
  key: string;
  label: string;
  section: SheetSection;
  unit?: 'mm' | 'mm²' | '°' | '%';
  /** A height in the frame of the work zero: it follows the face that it was taken from. */
  height?: true;
  /** When it matters, by the step's other values; always when left out. */
  onlyWhen?: (values: Readonly<Record<string, Value>>) => boolean;
  /** The value names an assembly of the crib: its result depends on that too. */
  assembly?: true;
  /** Words for the choices of a value that is one of a few. */
  choices?: readonly { value: string; label: string }[];
  /** Shown when the value is empty: what then holds. */
  whenEmpty?: string;
  /** Why the house value is what it is: formula and source. */
  why?: string;
}

/** What a step of this kind may look at. Everything is in the frame of the work zero, mm. */
export interface StepContext {
  part: ContactMesh;
  tool: Tool;
  /** Steel before the step; not to be changed. */
  stock: HeightMap;
  /** Steel above the part along its normal before the step, for each cell of the stock, mm; NaN where there is no part. */
  leftover: () => Promise<Float32Array>;
  /** The same for another state of the stock. */
  leftoverOf: (map: HeightMap) => Promise<Float32Array>;
  /** Largest tolerance of the paths of the steps before, mm. */
  toleranceBefore: number;
  /** Steel that the steps before leave on purpose at most, allowance and stairs together, mm; 0 when none of them tells. */
  promisedBefore: number;
  /** An assembly of the crib. */
  toolOf: (assemblyId: string) => Tool | undefined;
  /** Where the step is held in plan. */
  limits: readonly Limit[];
  /** What holds the block: nothing of the tool may come near it. */
  fixtures: ContactMesh | undefined;
  /** Holes that were drilled before: ways into closed steel. */
  drilled: readonly { x: number; y: number; diameter: number; bottom: number }[];
  /** Height at which the cutter crosses freely. */
  safeZ: number;
  crew: Crew;
  /** Reports 0 to 1. */
  progress: (share: number) => void;
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

export interface StepPlan {
  path: Toolpath;
  leftOut: LeftOut[];
}

/** A kind of step: everything that the sheet, the chooser, the evaluation and the post need to know of it. */
export interface StepKind<V extends Record<string, Value> = Record<string, Value>> {
  id: string;
  name: string;
  group: StepGroup;
  /** One line for the chooser. */
  about: string;
  schema: z.ZodType<V>;
  fields: readonly Field[];
  /** Why a tool cannot do this kind of step, or undefined when it can. */
  refuses: (tool: Tool) => string | undefined;
  /** House values for a tool. */
  house: (tool: Tool) => V;
  /** The step in one sentence; `{key}` stands for a value that can be jumped to. */
  sentence: (values: V, toolTitle: string) => string;
  /** What the step leaves on the part on purpose, mm: least and most along the normal. */
  leaves: (values: V) => { least: number; most: number };
  /** Thickest stairs that it leaves on purpose above that, mm, for kinds that cut in levels. */
  stairs?: (values: V) => number;
  /** Distance between neighbouring passes along the surface, mm, for kinds whose ridges the steel is to show. */
  sideStep?: (values: V, tool: Tool) => number;
  plan: (context: StepContext, values: V) => Promise<StepPlan>;
  /** Where the step would cut, for kinds that look for that themselves. */
  region?: (context: StepContext, values: V) => Promise<RestRegion>;
}
