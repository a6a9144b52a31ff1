import type { Profile } from '../tool/profile';
import { type Sweep, TILE } from './sweep';

/** Tiles along the side of a block of tiles, whose highest steel is kept too: as in `kernels/watch.ts`. */
const BLOCK = 8;
/** Bytes of a piece of a stack, of a block or a place whose highest steel is kept, and before a table of places. */
const PIECE_BYTES = 48;
const KEPT_BYTES = 8;
const HEAD_BYTES = 8;
/** Bytes that a piece of the memory may take more than it is asked for. */
const ROUNDED = 16;

/** The part of a map's frame that decides how much is kept of it. */
interface Frame {
  nx: number;
  cell: number;
}

/**
 * Contact of stacks of convex pieces with a band of the steel as it stands, the sweep that lowers it running meanwhile: the
 * same question as `ProfileDrop` asks of a mesh, answered by `kernels/watch.ts` through the highest steel of tiles, of blocks
 * of tiles, and around places.
 */
export class SteelContact {
  private readonly stacks = new Map<Profile, number>();

  /** Bytes beside the steel that stacks need in the memory of a band. */
  static bytes({ nx, cell }: Frame, rows: readonly [number, number], stacks: readonly Profile[]): number {
    let bytes = KEPT_BYTES * blocksOf(nx, rows) + ROUNDED;
    for (const radius of radiiOf(stacks)) bytes += tableBytes({ nx, cell }, rows, radius) + ROUNDED;
    for (const stack of stacks) bytes += PIECE_BYTES * stack.length + ROUNDED;
    return bytes;
  }

  /**
   * @param sweep over a memory with as much room as {@link bytes} says
   * @param stacks those that will be asked for, each its lowest piece first, widening upward
   */
  constructor(
    private readonly sweep: Sweep,
    stacks: readonly Profile[],
  ) {
    const { steel, map, kernel } = sweep;
    const { buffer } = steel.memory;
    const rows = [steel.rowStart, steel.rowEnd] as const;
    kernel.watch(steel.room(KEPT_BYTES * blocksOf(map.nx, rows)));
    const tables = new Map<number, number>();
    for (const radius of radiiOf(stacks)) {
      const at = steel.room(tableBytes(map, rows, radius));
      new Int32Array(buffer, at, 2).set([beyondOf(map.cell, radius), 0]);
      tables.set(radius, at);
    }
    for (const stack of stacks) {
      const at = steel.room(PIECE_BYTES * stack.length);
      const numbers = stack.flatMap((p) => [
        p.z,
        p.flat,
        p.radius,
        ...(p.kind === 'cone' ? [p.slope, 1] : [p.corner, 0]),
        tables.get(p.radius)!,
      ]);
      new Float64Array(buffer, at, numbers.length).set(numbers);
      this.stacks.set(stack, at);
    }
  }

  /** Where in the memory a stack lies. */
  stackAt(stack: Profile): number {
    return this.stacks.get(stack)!;
  }

  /** Tells that another motion has run: what was looked up grows old by it. */
  age(): void {
    this.sweep.kernel.age();
  }

  /** Largest tip height (mm) at which a stack touches the band's steel with its axis at (x, y); -Infinity for none. */
  at(stack: Profile, x: number, y: number): number {
    return this.sweep.kernel.above(this.stackAt(stack), stack.length, x, y, 0, -Infinity);
  }
}

function radiiOf(stacks: readonly Profile[]): Set<number> {
  return new Set(stacks.flatMap((stack) => stack.map((p) => p.radius)));
}

function blocksOf(nx: number, rows: readonly [number, number]): number {
  const side = TILE * BLOCK;
  return Math.ceil(nx / side) * (Math.ceil(rows[1] / side) - Math.floor(rows[0] / side));
}

/** Tiles beside the one of a place that steel within a radius of it may lie in. */
function beyondOf(cell: number, radius: number): number {
  return Math.ceil(radius / (TILE * cell)) + 1;
}

function tableBytes({ nx, cell }: Frame, rows: readonly [number, number], radius: number): number {
  const beside = 2 * beyondOf(cell, radius);
  const across = Math.ceil(nx / TILE) + beside;
  const down = Math.ceil(rows[1] / TILE) - Math.floor(rows[0] / TILE) + beside;
  return HEAD_BYTES + KEPT_BYTES * across * down;
}
