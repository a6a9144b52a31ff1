import { defineTask } from '../crew/task';
import type { HeightMap } from '../steel/heightMap';
import { ProfileDrop } from '../tool/drop';
import type { Profile } from '../tool/profile';
import { type TipSurfaceSpec, TipSurface } from './tipSurface';

interface StandOutAsk {
  readonly spec: TipSurfaceSpec;
  /** What holds the cutter, from its lower end at 0, with the room that it keeps. */
  readonly holder: Profile;
  /** Cells over whose middles the axis stands: every `stride`-th along and across, the others have their value. */
  readonly map: HeightMap;
  readonly stride: number;
  readonly out: Float32Array;
  readonly rows: readonly [number, number];
}

/**
 * How far a cutter has to stand out of its holder over each place of a part, mm, so that it gets down there and the holder clears
 * the part; NaN where there is no part.
 */
export const standOutTask = defineTask('standOut', (ask: StandOutAsk, cancel): void => {
  const { spec, map, stride, out, rows } = ask;
  const surface = new TipSurface(spec);
  const holder = new ProfileDrop(spec.mesh, ask.holder);
  for (let j = rows[0]; j < rows[1]; j += stride) {
    cancel.check();
    for (let i = 0; i < map.nx; i += stride) {
      const x = map.x0 + (i + 0.5) * map.cell;
      const y = map.y0 + (j + 0.5) * map.cell;
      const tip = surface.at(x, y);
      const need = tip > -Infinity ? Math.max(0, holder.at(x, y) - tip) : NaN;
      for (let v = j; v < Math.min(j + stride, rows[1]); v++)
        out.fill(need, v * map.nx + i, v * map.nx + Math.min(map.nx, i + stride));
    }
  }
});
