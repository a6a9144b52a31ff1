import { strFromU8, unzipSync } from 'fflate';
import { EsquisseError } from '../base/errors';

const CENTRAL_ENTRY = 0x02014b50;
const END = 0x06054b50;
/** Bytes of one entry at most when unpacked: more than any part's file has. */
const LARGEST_ENTRY = 2 ** 30;
/** Entries larger than this are refused when they are packed more tightly than parts' files ever are. */
const LARGE_ENTRY = 64 * 2 ** 20;
const TIGHTEST = 200;
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

/** What the directory of a zip file says of an entry. */
interface ZipEntry {
  readonly sum: number;
  readonly size: number;
  readonly packed: number;
  readonly isLocked: boolean;
}

/** A zip file whose directory was read; nothing is unpacked before it is asked for. */
export class Zip {
  private readonly entries: ReadonlyMap<string, ZipEntry>;

  /**
   * @param what the file, as a sentence begins with it
   * @throws EsquisseError `file-truncated` or `file-unreadable`
   */
  constructor(
    private readonly bytes: Uint8Array,
    private readonly what: string,
  ) {
    this.entries = directory(bytes, what);
  }

  get paths(): string[] {
    return [...this.entries.keys()];
  }

  /**
   * The content of an entry, held against its check sum: what was damaged on its way is never taken for what was saved. What
   * it is said to unpack to is looked at before it is unpacked. Undefined when there is no such entry.
   *
   * @throws EsquisseError `file-truncated`, `file-unreadable`, `memory`
   */
  read(path: string, most = LARGEST_ENTRY): Uint8Array | undefined {
    const entry = this.entries.get(path);
    if (!entry) return undefined;
    if (entry.isLocked)
      throw new EsquisseError(
        'file-unreadable',
        `${this.what} is locked by a password: pack it again without one.`,
        path,
      );
    const isBomb = entry.size > LARGE_ENTRY && entry.size > TIGHTEST * entry.packed;
    if (entry.size > most || isBomb)
      throw new EsquisseError(
        'memory',
        `"${path}" in ${this.what} would unpack to ${Math.round(entry.size / 2 ** 20)} MB${isBomb ? `, ${Math.round(entry.size / Math.max(1, entry.packed))} times its size: it is damaged, or made to fill the memory` : `, more than the ${Math.round(most / 2 ** 20)} MB that are read`}.`,
        path,
      );
    let content: Uint8Array | undefined;
    try {
      content = unzipSync(this.bytes, { filter: ({ name }) => name === path })[path];
    } catch (error) {
      throw this.damaged(path, error instanceof Error ? error.message : String(error));
    }
    if (!content || content.length !== entry.size) throw this.damaged(path, 'its size does not fit');
    if (entry.sum !== crc32(content)) throw this.damaged(path, 'its check sum does not fit');
    return content;
  }

  private damaged(path: string, why: string): EsquisseError {
    return new EsquisseError(
      'file-truncated',
      `${this.what} is damaged at "${path}" (${why}). Save or copy it again.`,
      path,
    );
  }
}

/** Entries by path, from the directory at the file's end. */
function directory(bytes: Uint8Array, what: string): Map<string, ZipEntry> {
  const cut = (why: string): EsquisseError =>
    new EsquisseError(
      'file-truncated',
      `${what} is damaged or was cut off at byte ${bytes.length} (${why}). Save or copy it again.`,
      `byte ${bytes.length}`,
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  // the directory's end is followed by a comment of 65,535 bytes at most
  const first = Math.max(0, bytes.length - 22 - 0xffff);
  let end = bytes.length - 22;
  while (end >= first && view.getUint32(end, true) !== END) end--;
  if (end < first) throw cut('its end is missing');
  const count = view.getUint16(end + 10, true);
  const entries = new Map<string, ZipEntry>();
  let at = view.getUint32(end + 16, true);
  while (at + 46 <= bytes.length && view.getUint32(at, true) === CENTRAL_ENTRY) {
    const nameLength = view.getUint16(at + 28, true);
    const flags = view.getUint16(at + 8, true);
    const name = strFromU8(bytes.subarray(at + 46, at + 46 + nameLength), (flags & 0x800) === 0);
    if (entries.has(name)) throw new EsquisseError('file-unreadable', `${what} holds "${name}" twice.`, name);
    entries.set(name, {
      sum: view.getUint32(at + 16, true),
      packed: view.getUint32(at + 20, true),
      size: view.getUint32(at + 24, true),
      isLocked: (flags & 1) === 1,
    });
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  if (entries.size !== count) throw cut('its directory is not whole');
  return entries;
}
