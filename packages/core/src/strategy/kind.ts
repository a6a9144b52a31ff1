import type { z } from 'zod';
import type { AnyTask } from '../crew/task';
import type { CutOf } from '../tool/cuts';
import type { StepContext, StepPlan } from '../link/context';
import type { Expected, ExpectContext } from './expected';
import type { RestOf } from '../field/wanted';
import type { RestRegion } from '../steel/restRegion';
import type { CutterKind } from '../tool/library';
import type { ToolShape } from '../tool/shape';

export type StepGroup = 'open up' | 'clean up' | 'even out' | 'finish' | 'prismatic';
/** The folding parts of the step sheet that a value can stand in, in the order of a person's decisions. */
export type SheetSection = 'aim' | 'limits' | 'passes' | 'travel';
export type Value = number | string | boolean | null;
/** Values of a step by their keys; never changed once they are made. */
export type Values = Readonly<Record<string, Value>>;

/** How a value is shown and typed. */
export interface Field {
  key: string;
  label: string;
  section: SheetSection;
  unit?: 'mm' | 'mm²' | '°' | '%';
  /** What it is in all kinds of step that have it, under whatever key. */
  means?: 'side allowance';
  /** What of the cutter bounds it: largest depth, largest width, or steepest way down. */
  boundBy?: 'mostAp' | 'mostAe' | 'RMPX';
  /** It is chosen for this kind of step: a step that becomes one, or another, takes the house value of its new kind. */
  own?: true;
  /** A height in the frame of the work zero: it follows the face that it was taken from. */
  height?: true;
  /** When it is asked for, by the step's other values, and by its cutter where that is known; always when left out. */
  onlyWhen?: (values: Values, tool?: ToolShape) => boolean;
  /** The value names an assembly of the crib: its result depends on that too. */
  assembly?: true;
  /** Words for the choices of a value that is one of a few. */
  choices?: readonly { value: string; label: string }[];
  /** Shown when the value is empty: what then holds. */
  whenEmpty?: string;
  /** Why the house value is what it is: formula and source. */
  why?: string;
  /** Other figures that tell the same value for a tool, read and typed as well. */
  also?: readonly OtherFigure[];
}

/** A figure from which a value follows, and which follows from it: such as the side step of a scallop height. */
export interface OtherFigure {
  label: string;
  unit: 'mm' | '°';
  of: (value: number, tool: ToolShape) => number;
  from: (figure: number, tool: ToolShape) => number;
}

/** What is wrong with a value: its key, and a sentence. */
export interface ValueProblem {
  readonly key: string;
  readonly message: string;
}

/** What a kind of step declares of itself; `V` are its values. */
export interface StepDefinition<V extends Values> {
  id: string;
  name: string;
  group: StepGroup;
  /** One line for the chooser. */
  about: string;
  schema: z.ZodType<V>;
  fields: readonly Field[];
  /** Pieces of work that its planning hands to the crew. */
  tasks: readonly AnyTask[];
  /** Why a tool cannot do this kind of step, or undefined when it can. */
  refuses: (tool: ToolShape) => string | undefined;
  /** House values for a tool. */
  house: (tool: ToolShape) => V;
  /** The step in one sentence, with its cutter's title and kind; `{key|text}` stands for a value that can be jumped to. */
  sentence: (values: V, toolTitle: string, tool: CutterKind) => string;
  /** What the step leaves on the part on purpose, mm: least and most along the normal. */
  leaves: (values: V) => { least: number; most: number };
  /** Steel above its allowance that is thinner than a threshold of its own and stays for that, mm; undefined where none was set. */
  staysUnder?: (values: V) => { readonly allowance: number; readonly threshold: number } | undefined;
  /** Thickest stairs that it leaves on purpose above that, mm, for kinds that cut in levels. */
  stairs?: (values: V) => number | undefined;
  /** Height of the ridges that it leaves on purpose above that, mm, for kinds that cut in passes. */
  ridges?: (values: V) => number;
  /** Nothing of the part below this is finished, mm, for kinds that cut in passes; all of it when left out. */
  lowest?: (values: V) => number;
  /** Nor where its tip would stand above this, mm. */
  highest?: (values: V) => number;
  /** Only slopes from the first to the second are finished, degrees, for kinds that leave others alone; all when left out. */
  slopes?: (values: V) => readonly [number, number];
  /** Only where an earlier cutter did not reach is finished. */
  rest?: (values: V) => RestOf | undefined;
  /** It can be held to picked faces of the part. */
  byFaces?: true;
  /** What it will come to can be told with other cutters, and in other patterns, of those that have a scallop. */
  isCompared?: true;
  /** The kind that does the same in another way, which a step can be compared with by its id. */
  rival?: string;
  /** Distance between neighbouring passes along the surface, mm, for kinds whose ridges the steel is to show. */
  sideStep?: (values: V, tool: ToolShape) => number;
  /** The cut that speeds and feeds follow from. */
  cut: (values: V, tool: ToolShape) => CutOf;
  /** How far the path may be off, mm. */
  tolerance?: (values: V) => number;
  plan: (context: StepContext, values: V) => Promise<StepPlan>;
  /** What it will come to, told before it is planned, for kinds that can; undefined where it depends on steel that is not known. */
  expect?: (context: ExpectContext, values: V) => Promise<Expected | undefined>;
  /** Where the step would cut, for kinds that look for that themselves. */
  region?: (context: StepContext, values: V) => Promise<RestRegion>;
}

/** A step of a kind with its values: all that can be asked of it. Lengths in mm. */
export interface BoundStep {
  readonly sentence: (toolTitle: string, tool: CutterKind) => string;
  readonly leaves: { readonly least: number; readonly most: number };
  readonly staysUnder: { readonly allowance: number; readonly threshold: number } | undefined;
  readonly stairs: number | undefined;
  readonly ridges: number | undefined;
  readonly lowest: number;
  readonly highest: number;
  /** Degrees. */
  readonly slopes: readonly [number, number];
  readonly rest: RestOf | undefined;
  readonly tolerance: number;
  readonly sideStep: (tool: ToolShape) => number | undefined;
  readonly cut: (tool: ToolShape) => CutOf;
  readonly plan: (context: StepContext) => Promise<StepPlan>;
  /** Undefined for kinds that cannot tell. */
  readonly expect: ((context: ExpectContext) => Promise<Expected | undefined>) | undefined;
  /** Undefined for kinds that cut wherever their limits let them. */
  readonly region: ((context: StepContext) => Promise<RestRegion>) | undefined;
}

/** A kind of step, its values' type closed in: everything that sheet, chooser, evaluation and post need to know of it. */
export interface StepKind extends Pick<
  StepDefinition<Values>,
  'id' | 'name' | 'group' | 'about' | 'fields' | 'tasks' | 'refuses' | 'house' | 'rival'
> {
  /** Whether its steps look for a region of their own. */
  readonly hasRegion: boolean;
  /** Whether its steps can be held to picked faces of the part. */
  readonly byFaces: boolean;
  /** Whether what it will come to with other cutters and patterns can be told before. */
  readonly isCompared: boolean;
  /** Values as they hold, with those filled in that older jobs do not have; or what is wrong with them. */
  check(values: unknown): { readonly values: Values } | { readonly problems: readonly ValueProblem[] };
  /** @throws ZodError when the values are not of this kind: a job's are checked when it is read */
  bind(values: Values): BoundStep;
}

export function defineStep<V extends Values>(definition: StepDefinition<V>): StepKind {
  const { schema } = definition;
  const bound = new WeakMap<Values, BoundStep>();
  const bindTo = (values: V): BoundStep => ({
    sentence: (toolTitle, tool) => definition.sentence(values, toolTitle, tool),
    leaves: definition.leaves(values),
    staysUnder: definition.staysUnder?.(values),
    stairs: definition.stairs?.(values),
    ridges: definition.ridges?.(values),
    lowest: definition.lowest?.(values) ?? -Infinity,
    highest: definition.highest?.(values) ?? Infinity,
    slopes: definition.slopes?.(values) ?? [0, 90],
    rest: definition.rest?.(values),
    tolerance: definition.tolerance?.(values) ?? 0,
    sideStep: (tool) => definition.sideStep?.(values, tool),
    cut: (tool) => definition.cut(values, tool),
    plan: (context) => definition.plan(context, values),
    expect: definition.expect && ((context) => definition.expect!(context, values)),
    region: definition.region && ((context) => definition.region!(context, values)),
  });
  const { id, name, group, about, fields, tasks, refuses, house, rival } = definition;
  return {
    id,
    name,
    group,
    about,
    fields,
    tasks,
    refuses,
    house,
    ...(rival === undefined ? {} : { rival }),
    hasRegion: definition.region !== undefined,
    byFaces: definition.byFaces ?? false,
    isCompared: definition.isCompared !== undefined && definition.expect !== undefined,
    check(values) {
      const parsed = schema.safeParse(values);
      if (parsed.success) return { values: parsed.data };
      return { problems: parsed.error.issues.map((i) => ({ key: i.path.join('.'), message: i.message })) };
    },
    bind(values) {
      const known = bound.get(values);
      if (known) return known;
      const step = bindTo(schema.parse(values));
      bound.set(values, step);
      return step;
    },
  };
}
