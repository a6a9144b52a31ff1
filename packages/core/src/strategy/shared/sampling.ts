import { type Crew, spansOf } from '../../plan/crew';
import { layFolds } from '../../region/folds';
import type { TipGrid, TipSurfaceSpec } from '../../region/tipSurface';

const PIECES = 24;
/** Share of the time that the nodes take, before valleys and crests between them are looked for. */
const NODES_SHARE = 0.8;

/** Samples a tip surface over a grid, and moves nodes on to its valleys and crests. */
export async function sampleTipSurface(
  grid: TipGrid,
  spec: TipSurfaceSpec,
  crew: Crew,
  progress: (share: number) => void,
): Promise<void> {
  const pieces = spansOf(grid.ny, PIECES).map((rows) => ({ grid, spec, rows }));
  await crew.all('tipRows', pieces, (done) => progress((NODES_SHARE * done) / PIECES));
  const folds = await crew.all('folds', pieces, (done) => progress(NODES_SHARE + ((1 - NODES_SHARE) * done) / PIECES));
  layFolds(grid, folds);
}
