import { EsquisseError } from '../base/errors';
import type { ContactMesh } from './contactMesh';
import { KERNEL_CODE } from './kernelCode';
import { compiled, FREE, instanceOf, PAGE, type WasmMemory, wasmMemory } from '../base/wasm';

/** Meshes that stay laid in memory: part, fixtures, blank and what is tried beside them. */
const RESIDENT = 6;
/** No more meshes stay beside one another when they fill this, bytes. */
const RESIDENT_BYTES = 400e6;

/** Behind what every kernel has below its data, nodes near squares of the plan are kept, bytes. */
const MESHES = FREE + 300_000;

interface Exports {
  forget(): void;
  place(
    triangles: number,
    facets: number,
    edges: number,
    blocks: number,
    levels: number,
    levelsLength: number,
    count: number,
    largestCoordinate: number,
  ): void;
  drop(
    kind: number,
    flat: number,
    corner: number,
    radius: number,
    slope: number,
    x: number,
    y: number,
    atLeast: number,
    last: number,
    any: number,
  ): number;
  closest(x: number, y: number, z: number, atMost2: number, first: number): number;
}

/** Where in memory answers stand: numbers, and triangle and edge. */
const FOUND_NUMBERS = 0;
const FOUND_TRIANGLE = 32;

/** Where a mesh lies in memory: what the kernel's `place` wants. */
type Placement = Parameters<Exports['place']>;

/** The kernels of a thread, with the meshes that they were asked about last in their memory. */
class MeshKernel {
  readonly drop: Exports['drop'];
  readonly closest: Exports['closest'];
  /** What the last call found: along the edge or the nearest place, and triangle and edge. */
  numbers = new Float64Array();
  found = new Int32Array();
  private readonly exports: Exports;
  private readonly memory: WasmMemory;
  private readonly placed = new Map<number, Placement>();
  private current = NaN;
  private free = MESHES;

  constructor() {
    this.memory = wasmMemory(MESHES);
    this.exports = instanceOf(compiled(KERNEL_CODE), this.memory);
    this.drop = this.exports.drop;
    this.closest = this.exports.closest;
    this.look();
  }

  /** Has the next calls look at a mesh. */
  use(mesh: ContactMesh): void {
    if (mesh.id === this.current) return;
    let placement = this.placed.get(mesh.id);
    if (!placement) {
      placement = this.lay(mesh);
      this.placed.set(mesh.id, placement);
    }
    this.exports.place(...placement);
    this.current = mesh.id;
  }

  private lay(mesh: ContactMesh): Placement {
    if (this.placed.size >= RESIDENT || this.free > RESIDENT_BYTES) {
      this.placed.clear();
      this.free = MESHES;
      this.exports.forget();
    }
    const { triangles, facets, edges, levels, blocks, count } = mesh;
    const at = {
      triangles: this.take(triangles.byteLength),
      facets: this.take(facets.byteLength),
      edges: this.take(edges.byteLength),
      blocks: this.take(blocks.byteLength),
      levels: this.take(levels.byteLength),
    };
    const { buffer } = this.memory;
    new Float64Array(buffer, at.triangles, triangles.length).set(triangles);
    new Float64Array(buffer, at.facets, facets.length).set(facets);
    new Uint8Array(buffer, at.edges, edges.length).set(edges);
    new Uint32Array(buffer, at.levels, levels.length).set(levels);
    new Float32Array(buffer, at.blocks, blocks.length).set(blocks);
    const { minX, minY, minZ, maxX, maxY, maxZ } = mesh.box;
    const largest = Math.max(...[minX, minY, minZ, maxX, maxY, maxZ].map(Math.abs));
    return [at.triangles, at.facets, at.edges, at.blocks, at.levels, levels.length, count, largest];
  }

  /** Sets bytes of the memory aside, which grows as it must. */
  private take(bytes: number): number {
    const at = this.free;
    this.free = Math.ceil((at + bytes) / 16) * 16;
    const lacking = this.free - this.memory.buffer.byteLength;
    if (lacking > 0) {
      this.grow(Math.ceil(lacking / PAGE));
      this.look();
    }
    return at;
  }

  private grow(pages: number): void {
    try {
      this.memory.grow(pages);
    } catch {
      throw new EsquisseError('memory', 'The part has too many triangles for the memory of this machine.', 'part');
    }
  }

  private look(): void {
    this.numbers = new Float64Array(this.memory.buffer, FOUND_NUMBERS, 3);
    this.found = new Int32Array(this.memory.buffer, FOUND_TRIANGLE, 2);
  }
}

let kernel: MeshKernel | undefined;

/** This thread's kernels. */
export function meshKernel(): MeshKernel {
  return (kernel ??= new MeshKernel());
}
