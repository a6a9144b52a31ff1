import type { BoundsTest } from '../../field/bounds';
import type { Buried } from '../../field/buried';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import { type Place, Rolling } from './rolling';

/** Ways over the surface are looked at this often, mm. */
const LOOK_MM = 0.5;

/** Ways of the tip over the surface, where neither limits nor thick steel are in the way. */
export class SurfaceLink {
  private readonly rolling: Rolling;
  private readonly rise: number;

  /** @param buried where more steel stands than the cutter may meet */
  constructor(
    spec: TipSurfaceSpec,
    tolerance: number,
    private readonly bounds: BoundsTest,
    private readonly buried: Buried,
  ) {
    this.rolling = new Rolling(spec, tolerance, bounds);
    this.rise = spec.piece.corner;
  }

  /** Places from one of the tip to another, without the first; undefined where the cutter cannot or may not go so. */
  over(a: Place, b: Place): Place[] | undefined {
    const { rise } = this;
    const way = this.rolling.over([a[0], a[1], a[2] + rise], [b[0], b[1], b[2] + rise]);
    // the last place is exactly the one that was asked for
    const tips = way?.slice(0, -1).map(([x, y, z]): Place => [x, y, z - rise]);
    return tips && this.isOpen([a, ...tips, b]) ? [...tips, b] : undefined;
  }

  /** Whether the tip may go along a way, between its places too. */
  isOpen(way: readonly Place[]): boolean {
    for (let k = 1; k < way.length; k++) {
      const [from, to] = [way[k - 1]!, way[k]!];
      const n = Math.max(1, Math.ceil(Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]) / LOOK_MM));
      for (let s = 1; s <= n; s++) {
        const [x, y, z] = from.map((v, axis) => v + (s / n) * (to[axis]! - v)) as [number, number, number];
        if (this.bounds.forbids(x, y, z) || this.buried.at(x, y, z)) return false;
      }
    }
    return true;
  }
}
