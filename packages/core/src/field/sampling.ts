import { type Crew, spansOf } from '../crew/crew';
import { defineTask } from '../crew/task';
import { findFolds, layFolds } from './folds';
import { fillTipGrid, type TipGrid, TipSurface, type TipSurfaceSpec } from './tipSurface';

interface GridRows {
  grid: TipGrid;
  spec: TipSurfaceSpec;
  rows: [number, number];
}

/** Samples rows of a grid. */
export const tipRows = defineTask('tipRows', ({ grid, spec, rows }: GridRows, cancel): void => {
  const surface = new TipSurface(spec);
  for (let j = rows[0]; j < rows[1]; j++) {
    cancel.check();
    fillTipGrid(grid, surface, j, j + 1);
  }
});

/** Looks for valleys and crests between the nodes of rows of a sampled grid. */
export const folds = defineTask('folds', ({ grid, spec, rows }: GridRows, cancel) =>
  findFolds(grid, new TipSurface(spec), rows[0], rows[1], cancel),
);

/** What sampling hands to the crew. */
export const SAMPLING_TASKS = [tipRows, folds] as const;

const PIECES = 24;
/** Share of the time that the nodes take, before valleys and crests between them are looked for. */
const NODES_SHARE = 0.8;

/** Samples a tip surface at the nodes of a grid where they lie by themselves. */
export async function sampleNodes(
  grid: TipGrid,
  spec: TipSurfaceSpec,
  crew: Crew,
  progress: (share: number) => void,
): Promise<void> {
  const pieces = spansOf(grid.ny, PIECES).map((rows) => ({ grid, spec, rows }));
  await crew.all(tipRows, pieces, (done) => progress(done / PIECES));
}

/** Samples a tip surface over a grid, and moves nodes on to its valleys and crests. */
export async function sampleTipSurface(
  grid: TipGrid,
  spec: TipSurfaceSpec,
  crew: Crew,
  progress: (share: number) => void,
): Promise<void> {
  const pieces = spansOf(grid.ny, PIECES).map((rows) => ({ grid, spec, rows }));
  await sampleNodes(grid, spec, crew, (share) => progress(NODES_SHARE * share));
  const found = await crew.all(folds, pieces, (done) => progress(NODES_SHARE + ((1 - NODES_SHARE) * done) / PIECES));
  layFolds(grid, found);
}
