import { sharedFloat32 } from '../base/shared';
import { type Crew, spansOf } from '../crew/crew';
import { standOutTask } from '../field/standOut';
import type { HeightMap } from '../steel/heightMap';
import { bodyWithRoom, cutterProfile, HOUSE_BODY_ROOM } from '../tool/shape';
import type { Piece } from './piece';
import type { SnapshotStep } from './snapshot';

/** Places over which it is looked how far a cutter has to stand out, and the pieces in which that is done. */
const PLACES = 40_000;
const PIECES = 16;

/** How far a cutter has to stand out over the cells of a part's map, and how far it does, mm. */
export interface StandOut {
  readonly map: HeightMap;
  readonly field: Float32Array;
  readonly stickOut: number;
}

/** Puts a step's cutter down on the part, with the room that its holder keeps. */
export async function standOutOver(
  piece: Piece,
  { shape, room }: SnapshotStep,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<StandOut> {
  const map = piece.topsOn(piece.cell);
  const field = sharedFloat32(map.heights.length);
  const stride = Math.max(1, Math.round(Math.sqrt((map.nx * map.ny) / PLACES)));
  const ask = {
    spec: { mesh: piece.part, piece: cutterProfile(shape), side: 0, floor: 0 },
    holder: bodyWithRoom({ ...shape, shank: [], stickOut: 0 }, room.safe ?? HOUSE_BODY_ROOM),
    map,
    stride,
    out: field,
  };
  const blocks = spansOf(Math.ceil(map.ny / stride), PIECES);
  await crew.all(
    standOutTask,
    blocks.map(([from, to]) => ({ ...ask, rows: [from * stride, Math.min(map.ny, to * stride)] as const })),
    (done) => onDone(done / blocks.length),
  );
  return { map, field, stickOut: shape.stickOut };
}
