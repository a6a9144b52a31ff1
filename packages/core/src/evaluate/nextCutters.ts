import { feedRate, refusesMilling, type Tool } from '../tool/library';
import { cutterProfile, holderProfile, shankProfile, shapeOf } from '../tool/shape';
import type { ContactMesh } from '../geometry/contactMesh';
import type { HeightMap } from '../steel/heightMap';
import { type Reached, restCells } from '../field/reach';
import { levelHouse } from '../strategy/levelRoughing/fields';
import { reachedTask } from './tasks';
import type { Crew } from '../crew/crew';

/** Cells that cutters are tried on, in turn: a first answer soon, then a better one. */
const ROUNDS = [400, 1500];

/** What a cutter of the crib would take of what is left. */
export interface CutterRow extends Reached {
  assemblyId: string;
}

/** Steel that is to be cleaned up: above the part along its normal, mm, and what of it counts. */
export interface Left {
  stock: HeightMap;
  leftover: Float32Array;
  allowance: number;
  threshold: number;
}

/** Tries all tools that mill on what is left, first roughly, then on more cells; `tell` gets all rows each time. */
export async function tryCutters(
  part: ContactMesh,
  tools: readonly Tool[],
  { stock, leftover, allowance, threshold }: Left,
  crew: Crew,
  tell: (rows: CutterRow[], isLast: boolean) => void,
  onProgress: (share: number) => void = () => undefined,
): Promise<void> {
  const able = tools.filter((t) => !refusesMilling(t.cutter) && !t.assembly.retired);
  for (const [round, most] of ROUNDS.entries()) {
    const { cells, stride } = restCells(stock, leftover, allowance, threshold, most);
    const inputs = able.map((tool) => {
      const shape = shapeOf(tool);
      const { ap, ae } = levelHouse(shape);
      return {
        spec: { mesh: part, piece: cutterProfile(shape), side: allowance, floor: allowance },
        body: [...shankProfile(shape), ...holderProfile(shape)],
        stock,
        leftover,
        cells,
        cellArea: (stride * stock.cell) ** 2,
        allowance,
        threshold,
        ap,
        ae,
        feed: feedRate(tool.assembly.fz, tool.cutter.ZEFP, tool.assembly.n),
      };
    });
    const found = await crew.all(reachedTask, inputs, (done) =>
      onProgress((round + done / inputs.length) / ROUNDS.length),
    );
    const isLast = most === ROUNDS[ROUNDS.length - 1] || stride === 1;
    tell(
      able.map((tool, k) => ({ assemblyId: tool.assembly.id, ...found[k]! })),
      isLast,
    );
    if (isLast) return;
  }
}
