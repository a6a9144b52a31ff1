/**
 * How much of the sky each cell of a height map sees, for WebAssembly (AssemblyScript: every type is a machine type).
 * `geometry/skyShare.ts` says what it means.
 */

/** Bytes of one place to look at: its offset from a cell in bytes, and one over its distance, mm. */
const PLACE: usize = 8;

/**
 * Shares of the sky of a rectangle of cells, four at a time.
 *
 * @param heights of a grid with a border, `across` cells wide, from the rectangle's first cell
 * @param places `directions` times `perDirection` of them
 * @param shares four bytes a cell, as wide a grid as the heights, from the rectangle's first cell
 */
export function shares(
  heights: usize,
  across: i32,
  columns: i32,
  rows: i32,
  places: usize,
  directions: i32,
  perDirection: i32,
  shares: usize,
): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const each = f32x4.splat(1 / <f32>directions);
  const stride = (<usize>across) << 2;
  const width = (<usize>columns) << 2;
  for (let j = 0; j < rows; j++) {
    for (let o: usize = 0; o < width; o += 16) {
      const at = heights + o;
      const here = v128.load(at);
      let sum = zero;
      let place = places;
      for (let d = 0; d < directions; d++) {
        // tangent of the horizon's height, never below level
        let tangent = zero;
        for (let k = 0; k < perDirection; k++) {
          const there = v128.load(at + <usize>load<i32>(place));
          tangent = f32x4.max(tangent, f32x4.mul(f32x4.sub(there, here), v128.load32_splat(place + 4)));
          place += PLACE;
        }
        sum = f32x4.add(sum, f32x4.div(one, f32x4.add(one, f32x4.mul(tangent, tangent))));
      }
      v128.store(shares + o, f32x4.mul(sum, each));
    }
    heights += stride;
    shares += stride;
  }
}
