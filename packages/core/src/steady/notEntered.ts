import type { TipGrid } from '../field/tipSurface';
import { distanceTo, type PlanGrid } from './planGrid';

/** Heights this near to each other are one, mm. */
const SAME_MM = 1e-3;
/** Steel left in a place that is smaller than this share of the radius squared is not told. */
const TOLD_SHARE = 0.5;

/** A place that was left, and the steel in it, mm³; undefined where the wall kept the cutter off at the end of a pass. */
export interface SteadyLeft {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly volume: number | undefined;
}

/**
 * Keeps account of where the axis could stand over steel that nothing was cut in, slab by slab from a level up: openings too
 * narrow for a way in.
 */
export class NotEntered {
  /** How deep the steel over each node was found standing, mm, and the lowest height at which it was. */
  private readonly depths: Float32Array;
  private readonly floors: Float32Array;

  /**
   * @param open signed distance of where the axis may be at the highest height, mm
   * @param tips height of the tip over each node, mm
   * @param radius of the cutter, mm
   */
  constructor(
    private readonly grid: PlanGrid,
    private readonly open: Float32Array,
    private readonly tips: Float32Array,
    private readonly radius: number,
  ) {
    this.depths = new Float32Array(open.length);
    this.floors = new Float32Array(open.length).fill(Infinity);
  }

  /**
   * After a height was cut: what stands still between it and the next one.
   *
   * @param standing signed distance of what stands, mm
   */
  after(height: number, next: number, standing: Float32Array): void {
    const { open, tips, depths, floors } = this;
    for (let o = 0; o < open.length; o++) {
      if (!(open[o]! >= 0 && standing[o]! > 0 && tips[o]! <= height + SAME_MM)) continue;
      depths[o]! += next - height;
      floors[o] = Math.min(floors[o]!, height);
    }
  }

  /** The places, those deeper than stairs are, with the steel in them. */
  places(highestStair: number): SteadyLeft[] {
    const { grid, depths, floors, radius } = this;
    const middles: number[] = [];
    const isDeep = (o: number): boolean => depths[o]! > highestStair;
    depths.forEach((_, o) => {
      if (isDeep(o)) middles.push(...placeOf(grid, o), ...placeOf(grid, o));
    });
    // nodes stand for what lies half a step around them
    const reach = radius + grid.step / 2;
    const isLeft = Uint8Array.from(distanceTo(grid, Float64Array.from(middles), 2 * radius), (d) =>
      d < reach ? 1 : 0,
    );
    const left: SteadyLeft[] = [];
    for (const nodes of together(grid, isLeft)) {
      const area = nodes.length * grid.step ** 2;
      if (area < TOLD_SHARE * radius ** 2) continue;
      const deep = nodes.filter(isDeep);
      const mean = (of: (o: number) => number): number => deep.reduce((sum, o) => sum + of(o), 0) / deep.length;
      const [x, y] = [mean((o) => placeOf(grid, o)[0]), mean((o) => placeOf(grid, o)[1])];
      const z = deep.reduce((low, o) => Math.min(low, floors[o]!), Infinity);
      left.push({ x, y, z, volume: area * mean((o) => depths[o]!) });
    }
    return left;
  }
}

/** Marked nodes that hang together by their sides; their marks are taken away. */
function together({ nx }: PlanGrid, marks: Uint8Array): number[][] {
  const groups: number[][] = [];
  for (let first = 0; first < marks.length; first++) {
    if (!marks[first]) continue;
    const nodes = [first];
    marks[first] = 0;
    for (let k = 0; k < nodes.length; k++)
      for (const next of [nodes[k]! - 1, nodes[k]! + 1, nodes[k]! - nx, nodes[k]! + nx])
        if (marks[next]) {
          marks[next] = 0;
          nodes.push(next);
        }
    groups.push(nodes);
  }
  return groups;
}

function placeOf({ x0, y0, step, nx }: PlanGrid, o: number): [number, number] {
  const i = o % nx;
  return [x0 + i * step, y0 + ((o - i) / nx) * step];
}

/** Height of the tip over each node of a grid, to a step of the tips' own, mm; -Infinity where nothing of the part lies below. */
export function tipsOver(grid: PlanGrid, { x0, y0, step, nx, ny, z }: TipGrid): Float32Array {
  return Float32Array.from({ length: grid.nx * grid.ny }, (_, o) => {
    const [x, y] = placeOf(grid, o);
    const i = Math.round((x - x0) / step);
    const j = Math.round((y - y0) / step);
    return i < 0 || j < 0 || i >= nx || j >= ny ? -Infinity : z[j * nx + i]!;
  });
}
