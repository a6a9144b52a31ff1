import { sharedFloat32 } from '../base/shared';
import { type Crew, spansOf } from '../crew/crew';
import type { HeightMap } from '../steel/heightMap';
import { ridgeAskOf } from './calculate';
import type { Piece } from './piece';
import type { StepResult } from './result';
import type { SnapshotStep } from './snapshot';
import { ridgeFieldTask } from './tasks';

/** Places that are looked at, and the pieces in which that is done: each looks the whole path up. */
const PLACES = 120_000;
const PIECES = 4;

/** Ridges that a step leaves over the cells of a map: see `check/ridgeField.ts`. */
export interface RidgeField {
  readonly map: HeightMap;
  readonly field: Float32Array;
  /** What was asked for, mm. */
  readonly asked: number;
}

/** Measures a calculated step's ridges as they are seen from above; undefined for steps that do not finish with a ball. */
export async function ridgeField(
  piece: Piece,
  at: SnapshotStep,
  result: StepResult,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<RidgeField | undefined> {
  const where = ridgeAskOf(piece, at, result.motions);
  if (!where) return undefined;
  const map = piece.topsOn(piece.cell);
  const field = sharedFloat32(map.heights.length);
  const stride = Math.max(1, Math.round(Math.sqrt((map.nx * map.ny) / PLACES)));
  const ask = { ...where, map, stride, out: field };
  const blocks = spansOf(Math.ceil(map.ny / stride), PIECES);
  await crew.all(
    ridgeFieldTask,
    blocks.map(([from, to]) => ({ ask, rows: [from * stride, Math.min(map.ny, to * stride)] as const })),
    (done) => onDone(done / blocks.length),
  );
  return { map, field, asked: at.bound.ridges! };
}
