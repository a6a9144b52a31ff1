/**
 * Where a mesh lies in the memory of the kernels (AssemblyScript: every type is a machine type), and what they share.
 * `geometry/kernel.ts` lays it there.
 *
 * Memory: what is found at {@link FOUND}, nodes that wait, constants of the compiler, and behind `FREE` of `geometry/wasm.ts` the mesh.
 */

/** Where nodes near squares of the plan are kept. */
export const NEAR: usize = 8192;
/** Numbers (f64) and behind them triangle and edge (i32) of the last answer. */
export const FOUND: usize = 0;
export const FOUND_TRIANGLE: usize = 32;
/** What nodes that wait promise (f64), then their numbers and levels (i32 each). */
export const PROMISE: usize = 64;
export const STACK: usize = PROMISE + 8 * 256;
/** What each of eight children promises (f32). */
export const BOUND: usize = STACK + 8 * 256;

export const LEAF: i32 = 1;
export const FAN: i32 = 8;
/** Bytes of a triangle, of a facet's plane, and of the boxes and roofs of eight children. */
export const TRIANGLE: usize = 72;
export const FACET: usize = 40;
export const BLOCK: usize = 384;
/** Bytes of eight numbers of one kind in a block. */
export const FIELD: usize = 32;
/** Where in a block the eight numbers of each kind lie. */
export const TOP: usize = 0;
export const MIN_X: usize = 32;
export const MIN_Y: usize = 64;
export const MAX_X: usize = 96;
export const MAX_Y: usize = 128;
export const A: usize = 160;
export const B: usize = 192;
export const C: usize = 224;
export const SECANT: usize = 256;
export const LEAN: usize = 288;
export const NZ: usize = 320;
export const BOTTOM: usize = 352;

/** What single precision may take from the distance to a box, as a share of the coordinates. */
export const BOX_SLACK: f64 = 5e-7;

export let triangles: usize = 0;
export let facets: usize = 0;
export let edges: usize = 0;
export let blocks: usize = 0;
export let levels: usize = 0;
export let levelCount: i32 = 0;
export let count: i32 = 0;
export let extent: f64 = 0;

/** Says where the mesh's arrays lie: `levels` are the first nodes of each level and the number of nodes behind the last. */
export function place(
  trianglesAt: usize,
  facetsAt: usize,
  edgesAt: usize,
  blocksAt: usize,
  levelsAt: usize,
  levelsLength: i32,
  triangleCount: i32,
  largestCoordinate: f64,
): void {
  triangles = trianglesAt;
  facets = facetsAt;
  edges = edgesAt;
  blocks = blocksAt;
  levels = levelsAt;
  levelCount = levelsLength;
  count = triangleCount;
  extent = largestCoordinate;
}
