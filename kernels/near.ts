/**
 * Nodes of the tree near a square of the plan, for WebAssembly (AssemblyScript: every type is a machine type). Queries follow one
 * another closely, and each would find its way down the same nodes: for some squares those near are kept side by side.
 */
import {
  BLOCK,
  blocks,
  BOX_SLACK,
  extent,
  FAN,
  FIELD,
  levelCount,
  levels,
  MAX_X,
  MAX_Y,
  MIN_X,
  MIN_Y,
  NEAR,
} from './mesh';

/** No more nodes than this are kept for a square: where more are near, larger ones are. */
const MOST: i32 = 64;
const SLOTS: i32 = 64;
/** Side of a square as a share of the cutter's radius, and the least, mm. */
const SIDE_SHARE: f64 = 0.5;
const LEAST_SIDE_MM: f64 = 1;
/** Where in a slot its square, its mesh, the radius, how many nodes of which level, their numbers and their blocks stand. */
const SQUARE_X: usize = 0;
const SQUARE_Y: usize = 4;
const MESH: usize = 8;
const COUNT: usize = 12;
const LEVEL: usize = 16;
const RADIUS: usize = 24;
const NODES: usize = 32;
const COPIES: usize = NODES + 4 * <usize>MOST;
const SLOT: usize = COPIES + BLOCK * <usize>(MOST / FAN);
/** Nodes while they are gathered, of one level and the next. */
const GATHERED: usize = NEAR + SLOT * <usize>SLOTS;

/** Forgets all squares, as when other meshes come to lie where some did. */
export function forget(): void {
  for (let s = 0; s < SLOTS; s++) store<i32>(NEAR + SLOT * <usize>s, 0, MESH);
}

/** Nodes near the square that (x, y) lies in, as far as a cutter of this radius reaches; 0 for a mesh of too few. */
export function nearTo(x: f64, y: f64, radius: f64): usize {
  if (levelCount < 4) return 0;
  const side = Math.max(LEAST_SIDE_MM, SIDE_SHARE * radius);
  const i = <i32>Math.floor(x / side);
  const j = <i32>Math.floor(y / side);
  const mesh = <i32>blocks;
  const spread = (i * 73856093) ^ (j * 19349663) ^ (<i32>(reinterpret<i64>(radius) >> 40)) ^ (mesh >> 8);
  const slot = NEAR + SLOT * <usize>((spread ^ (spread >>> 12)) & (SLOTS - 1));
  if (
    load<i32>(slot, SQUARE_X) != i ||
    load<i32>(slot, SQUARE_Y) != j ||
    load<i32>(slot, MESH) != mesh ||
    load<f64>(slot, RADIUS) != radius
  ) {
    store<i32>(slot, i, SQUARE_X);
    store<i32>(slot, j, SQUARE_Y);
    store<i32>(slot, mesh, MESH);
    store<f64>(slot, radius, RADIUS);
    gather(slot, (<f64>i + 0.5) * side, (<f64>j + 0.5) * side, 0.5 * side + radius);
  }
  return slot;
}

/** How many blocks of eight nodes a slot holds, of which level they are, and which nodes. */
export function blocksIn(slot: usize): i32 {
  return (load<i32>(slot, COUNT) + FAN - 1) / FAN;
}
export function levelIn(slot: usize): i32 {
  return load<i32>(slot, LEVEL);
}
export function nodeIn(slot: usize, k: i32): i32 {
  return load<i32>(slot + ((<usize>k) << 2), NODES);
}
export function blockIn(slot: usize, b: i32): usize {
  return slot + COPIES + BLOCK * <usize>b;
}

/** Goes down level by level as long as no more nodes are near than a slot holds. */
function gather(slot: usize, x: f64, y: f64, reach: f64): void {
  const far = <f32>(reach + BOX_SLACK * (Math.abs(x) + Math.abs(y) + reach + extent));
  const minX = f32x4.splat(<f32>x - far);
  const maxX = f32x4.splat(<f32>x + far);
  const minY = f32x4.splat(<f32>y - far);
  const maxY = f32x4.splat(<f32>y + far);
  let level = levelCount - 2;
  let from = GATHERED;
  let to = GATHERED + 4 * <usize>MOST;
  let count = 1;
  store<i32>(from, load<i32>(levels + ((<usize>level) << 2)));
  while (level > 1) {
    let next = 0;
    for (let n = 0; n < count && next <= MOST; n++) {
      const node = load<i32>(from + ((<usize>n) << 2));
      const block = blockOf(node);
      const first = firstChild(node, level);
      let near = meeting(block, minX, maxX, minY, maxY) | (meeting(block + 16, minX, maxX, minY, maxY) << 4);
      while (near != 0) {
        if (next < MOST) store<i32>(to + ((<usize>next) << 2), first + <i32>ctz(near));
        next++;
        near &= near - 1;
      }
    }
    if (next > MOST) break;
    count = next;
    const other = from;
    from = to;
    to = other;
    level--;
  }
  keep(slot, from, count, level);
}

/** The block of a node's children. */
function blockOf(node: i32): usize {
  return blocks + <usize>(node - load<i32>(levels + 4)) * BLOCK;
}

function firstChild(node: i32, level: i32): i32 {
  const own = levels + ((<usize>level) << 2);
  return load<i32>(own - 4) + (node - load<i32>(own)) * FAN;
}

/** Which of four boxes meet a square, a bit each. */
function meeting(o: usize, minX: v128, maxX: v128, minY: v128, maxY: v128): i32 {
  return i32x4.bitmask(
    v128.and(
      v128.and(f32x4.le(v128.load(o, MIN_X), maxX), f32x4.ge(v128.load(o, MAX_X), minX)),
      v128.and(f32x4.le(v128.load(o, MIN_Y), maxY), f32x4.ge(v128.load(o, MAX_Y), minY)),
    ),
  );
}

/** Copies what blocks tell of nodes of a level into a slot; where a block is not full, nothing is near. */
function keep(slot: usize, nodes: usize, count: i32, level: i32): void {
  store<i32>(slot, count, COUNT);
  store<i32>(slot, level, LEVEL);
  memory.copy(slot + NODES, nodes, (<usize>count) << 2);
  const own = load<i32>(levels + ((<usize>level) << 2));
  const above = load<i32>(levels + ((<usize>(level + 1)) << 2));
  const end = blocksIn(slot) * FAN;
  for (let k = 0; k < end; k++) {
    const to = blockIn(slot, k / FAN) + ((<usize>(k % FAN)) << 2);
    if (k < count) {
      const place = nodeIn(slot, k) - own;
      const from = blockOf(above + place / FAN) + ((<usize>(place % FAN)) << 2);
      for (let field: usize = 0; field < BLOCK; field += FIELD) store<f32>(to + field, load<f32>(from + field));
    } else for (let field: usize = 0; field < BLOCK; field += FIELD) store<f32>(to + field, Infinity);
  }
}
