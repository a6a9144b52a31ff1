import type { Motions } from '../path/toolpath';
import type { Body, Mishap, MishapKind } from './body';
import { type BandLoad, LOAD_BYTES, LoadWriter, MOST_LOADS, stretchOf } from './engagement';
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
const NEEDED = 2;

/** Motions of a toolpath in the memory of a band, where `kernels/machine.ts` runs them one batch after another. */
export class Batch {
  static readonly MOST = MOST;
  /** Bytes beside the steel that it needs in the memory of a band. */
  static readonly BYTES =
    8 * 3 * PLACES + PLACES + 4 * MOST + TOLD_BYTES * MOST_TOLD * MOST + LOAD_BYTES * MOST_LOADS * MOST + 7 * 16;

  /** Volume taken off by each motion of the batch that was run last, mm³. */
  readonly volumes: Float32Array;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly z: Float64Array;
  private readonly kinds: Uint8Array;
  private readonly told: DataView;
  private readonly records: Uint32Array;
  private readonly load = new LoadWriter();
  private last = 0;

  /**
   * @param near stretch of y from which the tool reaches over the band, mm
   * @param isLoadWanted whether it is looked at how much of the cutter is in steel
   */
  constructor(
    private readonly sweep: Sweep,
    private readonly path: Motions,
    near: readonly [number, number],
    body: Body,
    isLoadWanted: boolean,
  ) {
    const { steel, kernel } = sweep;
    const { buffer } = steel.memory;
    this.x = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.y = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.z = new Float64Array(buffer, steel.room(8 * PLACES), PLACES);
    this.kinds = new Uint8Array(buffer, steel.room(PLACES), PLACES);
    this.volumes = new Float32Array(buffer, steel.room(4 * MOST), MOST);
    const told = TOLD_BYTES * MOST_TOLD * MOST;
    this.told = new DataView(buffer, steel.room(told), told);
    const [x, y, z, kinds, volumes, toldAt] = [this.x, this.y, this.z, this.kinds, this.volumes, this.told].map(
      (part) => part.byteOffset,
    ) as [number, number, number, number, number, number];
    const cuts = body.centreCutting ? 1 : 0;
    kernel.begin(x, y, z, kinds, volumes, toldAt, ...near, cuts);
    const most = isLoadWanted ? MOST_LOADS * MOST : 0;
    const records = LOAD_BYTES * most;
    this.records = new Uint32Array(buffer, steel.room(records), records / 4);
    const { length, strips, skim } = stretchOf(body.piece, sweep.map.cell);
    kernel.tellLoad(this.records.byteOffset, most, length, strips, skim);
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
    this.addLoads(from);
    this.last = end;
    for (let k = 0; k < count; k++) {
      const at = k * TOLD_BYTES;
      const motion = from + this.told.getInt32(at + 4, true);
      out.push({ kind: KINDS[this.told.getInt32(at, true)]!, motion, amount: this.told.getFloat64(at + 8, true) });
    }
  }

  /** How much of the cutter was in steel, when all is run. */
  finishLoad(): BandLoad {
    if (this.last > 0) {
      this.sweep.kernel.endLoad();
      this.addLoads(this.last - 1);
    }
    return this.load.finish();
  }

  private addLoads(from: number): void {
    this.load.add(this.records.subarray(0, (this.sweep.kernel.loadsTold() * LOAD_BYTES) / 4), from);
  }

  /** Smallest stick-out that would have kept the holder clear so far, mm. */
  get neededStickOut(): number {
    return this.sweep.numbers[NEEDED]!;
  }
}
