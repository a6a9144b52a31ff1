import type { TipGrid } from './tipSurface';

/** Cells of a row that are judged together. */
const CELLS = 16;

/** Lowest and highest node of each stretch of cells of a grid, so that heights look only at cells where they may cross. */
export class Stretches {
  private readonly lows: Float64Array;
  private readonly highs: Float64Array;
  private readonly columns: number;
  private readonly across: number;

  constructor({ nx, ny, z }: TipGrid) {
    this.across = nx - 1;
    this.columns = Math.ceil(this.across / CELLS);
    this.lows = new Float64Array(this.columns * (ny - 1)).fill(Infinity);
    this.highs = new Float64Array(this.lows.length).fill(-Infinity);
    for (let j = 0; j + 1 < ny; j++)
      for (let c = 0; c < this.columns; c++) {
        let low = Infinity;
        let high = -Infinity;
        const end = Math.min(this.across, (c + 1) * CELLS);
        for (let i = c * CELLS; i <= end; i++) {
          const near = z[j * nx + i]!;
          const next = z[(j + 1) * nx + i]!;
          if (near < low) low = near;
          if (near > high) high = near;
          if (next < low) low = next;
          if (next > high) high = next;
        }
        this.lows[j * this.columns + c] = low;
        this.highs[j * this.columns + c] = high;
      }
  }

  /** Calls `look` with columns `from` to `to` (exclusive) of cells of row j, some of which have nodes on both sides of z. */
  crossedIn(j: number, z: number, look: (from: number, to: number) => void): void {
    for (let c = 0, s = j * this.columns; c < this.columns; c++, s++)
      if (this.lows[s]! <= z && this.highs[s]! > z) look(c * CELLS, Math.min(this.across, (c + 1) * CELLS));
  }
}
