/** The part of WebAssembly's interface that is used; the same in browsers and under Node. */
export interface WasmMemory {
  readonly buffer: ArrayBuffer;
  grow(pages: number): number;
}
declare const WebAssembly: {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
  Memory: new (limits: { initial: number; maximum: number }) => WasmMemory;
};

/** Bytes of a page of memory, and the most pages there may be. */
export const PAGE = 65_536;
const MOST_PAGES = 65_536;
/** Below this lie what a kernel's calls write and constants of the compiler, bytes. */
export const FREE = 8192;

/** Compiles a kernel from its code as hexadecimal text. */
export function compiled(hex: string): object {
  return new WebAssembly.Module(
    Uint8Array.from({ length: hex.length / 2 }, (_, i) => parseInt(hex.slice(2 * i, 2 * i + 2), 16)),
  );
}

/** Memory for kernels, of at least so many bytes. */
export function wasmMemory(bytes: number): WasmMemory {
  return new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE), maximum: MOST_PAGES });
}

/** An instance of a compiled kernel over a memory. */
export function instanceOf<Exports>(module: object, memory: WasmMemory): Exports {
  return new WebAssembly.Instance(module, { env: { memory } }).exports as Exports;
}
