import type { ProfilePiece } from '../cutter/profile';
import { fixtureContacts } from '../check/fixtures';
import { gougesAlong, type Gouge } from '../check/gouge';
import { contactMesh, type ContactMesh } from '../geometry/contactMesh';
import type { TriangleMesh } from '../geometry/mesh';
import { type Survey, surveyOf } from '../survey/survey';
import { surfaceOf } from '../survey/surface';
import type { Toolpath } from '../path/toolpath';
import { findFolds } from '../region/folds';
import { fillTipGrid, type TipGrid, TipSurface, type TipSurfaceSpec } from '../region/tipSurface';
import type { HeightMap } from '../stock/heightMap';
import { leftoverRows } from '../stock/leftover';
import { type BandReport, type Body, machineBand, type Mishap } from '../stock/machining';
import { lowerToReach, type Reached, reachedBy, type ReachInput } from '../region/reach';
import { type LevelLoops, levelLoops, type LevelLoopsInput } from '../strategy/levelRoughing/loops';
import { type ScanInput, type ScanRun, scanLines } from '../strategy/parallelPasses/scan';
import type { CancelFlag } from './crew';

/** Pieces of heavy work that can be done by any worker. Inputs are plain data on shared memory. */
export const TASKS = {
  tipRows(input: { grid: TipGrid; spec: TipSurfaceSpec; rows: [number, number] }, cancel: CancelFlag): void {
    const surface = new TipSurface(input.spec);
    for (let j = input.rows[0]; j < input.rows[1]; j++) {
      cancel.check();
      fillTipGrid(input.grid, surface, j, j + 1);
    }
  },

  folds(input: { grid: TipGrid; spec: TipSurfaceSpec; rows: [number, number] }, cancel: CancelFlag): Float64Array {
    return findFolds(input.grid, new TipSurface(input.spec), input.rows[0], input.rows[1], cancel);
  },

  levelLoops(input: LevelLoopsInput, cancel: CancelFlag): LevelLoops[] {
    return levelLoops(input, cancel);
  },

  lowerToReach(input: { map: HeightMap; spec: TipSurfaceSpec; rows: [number, number] }, cancel: CancelFlag): void {
    lowerToReach(input.map, input.spec, input.rows, cancel);
  },

  reachedBy(input: ReachInput, cancel: CancelFlag): Reached {
    return reachedBy(input, cancel);
  },

  scanLines(input: ScanInput, cancel: CancelFlag): ScanRun[] {
    return scanLines(input, cancel);
  },

  machine(
    input: {
      map: HeightMap;
      rows: [number, number];
      body: Body;
      path: Toolpath;
      marks: Uint32Array;
    },
    cancel: CancelFlag,
  ): BandReport {
    return machineBand(input.map, input.rows, input.body, input.path, [0, input.path.x.length], input.marks, cancel);
  },

  leftover(
    input: {
      part: ContactMesh;
      partMap: HeightMap;
      stock: HeightMap;
      out: Float32Array;
      before?: { heights: Float32Array; leftover: Float32Array };
      rows: [number, number];
    },
    cancel: CancelFlag,
  ): void {
    leftoverRows(input.part, input.partMap, input.stock, input.out, input.rows, input.before, cancel);
  },

  fixtures(
    input: { fixtures: ContactMesh; body: Body; path: Toolpath; span: [number, number] },
    cancel: CancelFlag,
  ): Mishap[] {
    return fixtureContacts(input.fixtures, input.body, input.path, input.span, cancel);
  },

  survey(input: { mesh: TriangleMesh }): Survey {
    return surveyOf(surfaceOf(input.mesh), contactMesh(input.mesh));
  },

  gouges(
    input: {
      part: ContactMesh;
      piece: ProfilePiece & { kind: 'round' };
      path: Toolpath;
      span: [number, number];
      tolerance: number;
    },
    cancel: CancelFlag,
  ): Gouge[] {
    return gougesAlong(input.part, input.piece, input.path, input.span, input.tolerance, cancel);
  },
};

export type TaskName = keyof typeof TASKS;
export type TaskInput<K extends TaskName> = Parameters<(typeof TASKS)[K]>[0];
export type TaskOutput<K extends TaskName> = ReturnType<(typeof TASKS)[K]>;
