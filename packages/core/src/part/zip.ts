import { strFromU8, unzipSync } from 'fflate';

const CENTRAL_ENTRY = 0x02014b50;
/** CRC-32 of a byte alone, polynomial 0xEDB88320 (ISO 3309, as zip files use it). */
const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let c = byte;
  for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  return c;
});

/** Check sum of a zip entry (CRC-32, ISO 3309). */
export function crc32(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (let i = 0; i < bytes.length; i++) c = TABLE[(c ^ bytes[i]!) & 0xff]! ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

/**
 * The entries of a zip file by their path, each held against its check sum: what was damaged on its way is never taken for
 * what was saved.
 *
 * @param wanted which entries are read; all when left out
 * @throws Error with what is wrong
 */
export function unzipChecked(bytes: Uint8Array, wanted?: (path: string) => boolean): Record<string, Uint8Array> {
  const entries = unzipSync(bytes, wanted && { filter: (entry) => wanted(entry.name) });
  const sums = sumsOf(bytes);
  for (const [path, content] of Object.entries(entries))
    if (sums.get(path) !== crc32(content)) throw new Error(`the check sum of ${path} does not fit`);
  return entries;
}

/** Check sums by path, from the central directory at the file's end. */
function sumsOf(bytes: Uint8Array): Map<string, number> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const sums = new Map<string, number>();
  let end = bytes.length - 22;
  while (end >= 0 && view.getUint32(end, true) !== 0x06054b50) end--;
  if (end < 0) throw new Error('its end is missing');
  let at = view.getUint32(end + 16, true);
  while (at + 46 <= bytes.length && view.getUint32(at, true) === CENTRAL_ENTRY) {
    const nameLength = view.getUint16(at + 28, true);
    const latin = (view.getUint16(at + 8, true) & 0x800) === 0;
    const name = strFromU8(bytes.subarray(at + 46, at + 46 + nameLength), latin);
    sums.set(name, view.getUint32(at + 16, true));
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  return sums;
}
