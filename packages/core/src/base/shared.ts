/** True where memory can be shared between threads; without it every array is copied to the workers. */
export const CAN_SHARE = typeof SharedArrayBuffer !== 'undefined';

function bufferOf(bytes: number): ArrayBufferLike {
  return CAN_SHARE ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes);
}

/** Typed arrays on memory that all workers see, so that handing them over copies nothing. */
export function sharedFloat64(length: number): Float64Array {
  return new Float64Array(bufferOf(length * 8)) as Float64Array;
}
export function sharedFloat32(length: number): Float32Array {
  return new Float32Array(bufferOf(length * 4)) as Float32Array;
}
export function sharedUint32(length: number): Uint32Array {
  return new Uint32Array(bufferOf(length * 4)) as Uint32Array;
}
export function sharedUint8(length: number): Uint8Array {
  return new Uint8Array(bufferOf(length)) as Uint8Array;
}
