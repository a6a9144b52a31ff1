import { defineTask, taskTable } from '../crew/task';
import { contactSpeeds, type SpeedAsk } from '../check/contactSpeed';
import { fixtureContacts } from '../check/fixtures';
import { gougesAlong } from '../check/gouge';
import { type ReachAsk, reachAlong } from '../check/reachAlong';
import { type RidgeAsk, ridgePlaces } from '../check/ridges';
import { type Asked, overCells } from '../check/unfinished';
import { fitTask } from '../field/fit';
import { reachedBy } from '../field/reach';
import { standOutTask } from '../field/standOut';
import { type ContactMesh, contactMesh } from '../geometry/contactMesh';
import type { TriangleMesh } from '../geometry/mesh';
import type { Motions } from '../path/toolpath';
import type { Body } from '../simulate/body';
import { machineTask } from '../simulate/runOver';
import type { HeightMap } from '../steel/heightMap';
import { leftoverRows } from '../steel/leftover';
import { STEP_KINDS } from '../strategy/registry';
import { surfaceOf } from '../survey/surface';
import { type RidgeFieldAsk, ridgeRows } from '../check/ridgeField';
import { surveyOf } from '../survey/survey';
import { zonesOf } from '../steel/zones';
import type { ProfilePiece } from '../tool/profile';

export const leftoverTask = defineTask(
  'leftover',
  (
    input: {
      part: ContactMesh;
      partMap: HeightMap;
      stock: HeightMap;
      out: Float32Array;
      before?: { heights: Float32Array; leftover: Float32Array } | undefined;
      rows: [number, number];
    },
    cancel,
  ): void => leftoverRows(input.part, input.partMap, input.stock, input.out, input.rows, input.before, cancel),
);

export const fixturesTask = defineTask(
  'fixtures',
  (input: { fixtures: ContactMesh; body: Body; path: Motions; span: [number, number] }, cancel) =>
    fixtureContacts(input.fixtures, input.body, input.path, input.span, cancel),
);

export const gougesTask = defineTask(
  'gouges',
  (
    input: { part: ContactMesh; piece: ProfilePiece; path: Motions; span: [number, number]; tolerance: number },
    cancel,
  ) => gougesAlong(input.part, input.piece, input.path, input.span, input.tolerance, cancel),
);

export const unfinishedTask = defineTask(
  'unfinished',
  (
    input: {
      part: ContactMesh;
      partMap: HeightMap;
      steel: HeightMap;
      leftover: Float32Array;
      asked: Asked;
      rows: [number, number];
    },
    cancel,
  ) => overCells(input.part, input.partMap, input.steel, input.leftover, input.asked, input.rows, cancel),
);

/** Measures ridges at places of the part. */
export const ridgesTask = defineTask('ridges', ({ ask, rows }: { ask: RidgeAsk; rows: [number, number] }, cancel) =>
  ridgePlaces(ask, rows, cancel),
);

/** Measures them over the cells of a map. */
export const ridgeFieldTask = defineTask(
  'ridgeField',
  ({ ask, rows }: { ask: RidgeFieldAsk; rows: readonly [number, number] }, cancel): void =>
    ridgeRows(ask, rows, cancel),
);

/** How far the cutter has to stand out along a path. */
export const reachTask = defineTask('reachAlong', (ask: ReachAsk, cancel) => reachAlong(ask, cancel));

/** How fast a finishing ball cuts where it touches. */
export const contactSpeedTask = defineTask('contactSpeed', (ask: SpeedAsk, cancel) => contactSpeeds(ask, cancel));

/** Tries a cutter on what is left. */
export const reachedTask = defineTask('reachedBy', reachedBy);

export const surveyTask = defineTask('survey', ({ mesh }: { mesh: TriangleMesh }, cancel) =>
  surveyOf(surfaceOf(mesh), contactMesh(mesh), cancel),
);

/** Zones of steel that are to be removed before the part is there. */
export const zonesTask = defineTask(
  'zones',
  ({ steel, tops, underside }: { steel: HeightMap; tops: HeightMap; underside: number }) =>
    zonesOf(steel, tops, underside),
);

/** All that a worker can do: what calculating needs, and what each kind of step brings. */
export const TASKS = taskTable([
  machineTask,
  leftoverTask,
  fixturesTask,
  gougesTask,
  ridgeFieldTask,
  unfinishedTask,
  ridgesTask,
  contactSpeedTask,
  reachTask,
  reachedTask,
  fitTask,
  standOutTask,
  surveyTask,
  zonesTask,
  ...STEP_KINDS.flatMap((kind) => kind.tasks),
]);
