import type { Motions } from '../path/toolpath';
import type { Body, Mishap, MishapKind } from './body';
import { refuseOwed, type Sweep } from '../steel/sweep';

/** Motions that the kernel runs at once. */
const MOST = 256;
/** Places of a batch: where it begins, where its motions end, and where the one behind them does. */
const PLACES = MOST + 2;
/** What is told of a motion: at most this often, in this many bytes, and of these kinds by their number. */
const MOST_TOLD = 4;
const TOLD_BYTES = 16;
const KINDS: readonly (MishapKind | undefined)[] = [undefined, 'shank', 'holder', 'plunge'];
/** Place, among the numbers of a sweep, of the smallest stick-out that would have kept the holder clear. */
const NEEDED = 3;

/** Motions of a toolpath in the memory of a band, where `kernels/machine.ts` runs them one batch after another. */
export class Batch {
  static readonly MOST = MOST;
  /** Bytes beside the steel that it needs in the memory of a band. */
  static readonly BYTES = 8 * 3 * PLACES + PLACES + 4 * 2 * MOST + TOLD_BYTES * MOST_TOLD * MOST + 7 * 16;

  /** Volume taken off by each motion of the batch that was run last, mm³, and highest steel above the tip that it took, mm. */
  readonly volumes: Float32Array;
  readonly depths: Float32Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly z: Float64Array;
  private readonly kinds: Uint8Array;
  private readonly told: DataView;

  /** @param near stretch of y from which the tool reaches over the band, mm */
  constructor(
    private readonly sweep: Sweep,
    private readonly path: Motions,
    near: readonly [number, number],
    body: Body,
  ) {
    const { steel, kernel } = sweep;
    const { buffer } = steel.memory;
    this.x = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.y = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.z = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.kinds = new Uint8Array(buffer, steel.room(PLACES), PLACES);
    this.volumes = new Float32Array(buffer, steel.room(4 * MOST), MOST);
    this.depths = new Float32Array(buffer, steel.room(4 * MOST), MOST);
    const told = TOLD_BYTES * MOST_TOLD * MOST;
    this.told = new DataView(buffer, steel.room(told), told);
    const [x, y, z, kinds, volumes, depths, toldAt] = [
      this.x,
      this.y,
      this.z,
      this.kinds,
      this.volumes,
      this.depths,
      this.told,
    ].map((part) => part.byteOffset) as [number, number, number, number, number, number, number];
    const cuts = body.centreCutting ? 1 : 0;
    kernel.begin(x, y, z, kinds, volumes, depths, toldAt, ...near, cuts);
  }

  /**
   * Runs motions `from` to `end` (exclusive), at most {@link MOST}.
   *
   * @param leads whether motion `end` comes next, so that what the last one leaves at its end may be left to it
   * @param out what must not happen is added here
   */
  run(from: number, end: number, leads: boolean, out: Mishap[]): void {
    const { x, y, z, kind } = this.path;
    this.x.set(x.subarray(from - 1, end + 1));
    this.y.set(y.subarray(from - 1, end + 1));
    this.z.set(z.subarray(from - 1, end + 1));
    this.kinds.set(kind.subarray(from - 1, end + 1));
    const count = this.sweep.kernel.runThrough(end - from, leads ? 1 : 0);
    if (count < 0) refuseOwed();
    for (let k = 0; k < count; k++) {
      const at = k * TOLD_BYTES;
      const motion = from + this.told.getInt32(at + 4, true);
      out.push({ kind: KINDS[this.told.getInt32(at, true)]!, motion, amount: this.told.getFloat64(at + 8, true) });
    }
  }

  /** Smallest stick-out that would have kept the holder clear so far, mm. */
  get neededStickOut(): number {
    return this.sweep.numbers[NEEDED]!;
  }
}
