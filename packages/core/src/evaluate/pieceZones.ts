import type { Crew } from '../crew/crew';
import type { Zone } from '../steel/zones';
import type { Piece } from './piece';
import { zonesTask } from './tasks';

/** Volumes are told to a thousandth with so many cells, and in a fraction of a second. */
const MOST_CELLS = 1_000_000;

/** Zones of steel that are to be removed before the part is there, the largest first; heights from the work zero. */
export async function zonesIn(piece: Piece, crew: Crew): Promise<readonly Zone[]> {
  const cell = piece.coarserCell(MOST_CELLS);
  const ask = { steel: piece.steelOn(cell), tops: piece.topsOn(cell), underside: piece.part.box.minZ };
  const [zones] = await crew.all(zonesTask, [ask]);
  return zones!;
}
