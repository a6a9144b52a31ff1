import type { TipGrid } from '../../field/tipSurface';
import { flatsOf, levelsOf } from '../../levels/heights';
import type { LevelValues } from '../../levels/values';
import type { HeightMap } from '../../steel/heightMap';
import type { Expected, ExpectContext } from '../expected';

/** A flat is worth a level of its own from this share of DC squared. */
const SMALLEST_FLAT = 0.25;

/** How many levels there will be, and how far apart. */
export async function levelsExpected(context: ExpectContext, values: LevelValues): Promise<Expected | undefined> {
  const { steel, part, tool } = context;
  if (!steel) return undefined;
  const grid = await context.tips({ side: values.sideAllowance, floor: values.floorAllowance });
  const stands = highestAround(grid, steel, tool.DC / 2);
  const { highest, lowest } = rangeOf(grid, stands);
  const top = Math.min(values.top ?? Infinity, highest);
  const bottom = Math.max(values.bottom ?? -Infinity, lowest, steel.floor);
  if (!(bottom < top)) return undefined;
  const flats = flatsOf(part, SMALLEST_FLAT * tool.DC ** 2).map((flat) => ({ z: flat + values.floorAllowance, flat }));
  const levels = levelsOf(top, bottom, values.ap, flats, values.flats).filter(({ flat }) => flat === undefined);
  return { levels: { count: levels.length, apart: Math.max(...levels.map(({ z, above }) => above - z)) } };
}

/** Highest steel that a cutter meets about each node of a grid, mm. */
function highestAround({ x0, y0, step, nx, ny }: TipGrid, steel: HeightMap, radius: number): Float32Array {
  const out = new Float32Array(nx * ny).fill(-Infinity);
  const around: [number, number][] = [[0, 0]];
  for (const share of [0.5, 0.95])
    for (let k = 0; k < 8; k++) {
      const a = (k * Math.PI) / 4;
      around.push([share * radius * Math.cos(a), share * radius * Math.sin(a)]);
    }
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++)
      for (const [dx, dy] of around) {
        const u = Math.floor((x0 + i * step + dx - steel.x0) / steel.cell);
        const v = Math.floor((y0 + j * step + dy - steel.y0) / steel.cell);
        if (u < 0 || v < 0 || u >= steel.nx || v >= steel.ny) continue;
        const o = j * nx + i;
        out[o] = Math.max(out[o]!, steel.heights[v * steel.nx + u]!);
      }
  return out;
}

/** The highest steel, and the lowest that the tip comes to beside it. */
function rangeOf({ z }: TipGrid, stands: Float32Array): { highest: number; lowest: number } {
  let [highest, lowest] = [-Infinity, Infinity];
  for (let o = 0; o < z.length; o++) {
    if (stands[o] === -Infinity) continue;
    highest = Math.max(highest, stands[o]!);
    if (z[o]! > -Infinity) lowest = Math.min(lowest, z[o]!);
  }
  return { highest, lowest };
}
