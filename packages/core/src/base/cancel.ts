import { EsquisseError } from './errors';

/** What long work asks now and then whether it is to go on. */
export interface Cancel {
  /** @throws EsquisseError `cancelled` once the work was called off */
  check(): void;
}

/** A flag in shared memory by which work that has begun is called off, in whatever thread it runs. */
export class CancelFlag implements Cancel {
  readonly cell: Int32Array;

  constructor(cell?: Int32Array) {
    this.cell = cell ?? new Int32Array(new SharedArrayBuffer(4));
  }

  cancel(): void {
    Atomics.store(this.cell, 0, 1);
  }

  get cancelled(): boolean {
    return Atomics.load(this.cell, 0) !== 0;
  }

  check(): void {
    if (this.cancelled) throw new EsquisseError('cancelled', 'Called off.');
  }
}
