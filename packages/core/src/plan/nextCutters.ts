import { cutterProfile, holderProfile, refusesMilling, shankProfile, type Tool } from '../cutter/library';
import type { ContactMesh } from '../geometry/contactMesh';
import { feedsOf } from '../path/forTool';
import type { HeightMap } from '../stock/heightMap';
import { type Reached, restCells } from '../region/reach';
import { levelHouse } from '../strategy/levelRoughing/values';
import type { Crew } from './crew';

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
): Promise<void> {
  const able = tools.filter((t) => !refusesMilling(t.cutter) && !t.assembly.retired);
  for (const most of ROUNDS) {
    const { cells, stride } = restCells(stock, leftover, allowance, threshold, most);
    const inputs = able.map((tool) => {
      const { ap, ae } = levelHouse(tool);
      return {
        spec: { mesh: part, piece: cutterProfile(tool.cutter), side: allowance, floor: allowance },
        body: [...shankProfile(tool), ...holderProfile(tool)],
        stock,
        leftover,
        cells,
        cellArea: (stride * stock.cell) ** 2,
        allowance,
        threshold,
        ap,
        ae,
        feed: feedsOf(tool).cut,
      };
    });
    const found = await crew.all('reachedBy', inputs);
    const isLast = most === ROUNDS[ROUNDS.length - 1] || stride === 1;
    tell(
      able.map((tool, k) => ({ assemblyId: tool.assembly.id, ...found[k]! })),
      isLast,
    );
    if (isLast) return;
  }
}
