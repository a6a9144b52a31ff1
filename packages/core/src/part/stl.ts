import { EsquisseError } from '../base/errors';
import { type MeshReport, type TriangleMesh, weld } from '../geometry/mesh';
import type { Body3 } from './bodies';
import { eachLine, MOST_TRIANGLES, numberOf, refuseTooMany, textOf, wordsOf } from './text';

const latin1 = (bytes: Uint8Array): string => textOf(bytes, 'STL');
const HEADER = 80;
const RECORD = 50;

export interface ReadMesh {
  mesh: TriangleMesh;
  report: MeshReport;
  /** Doubts about the file that its triangles do not show, as sentences. */
  doubts?: string[];
  /** The file's bodies, where it holds several. */
  bodies?: Body3[];
}

/**
 * Reads an STL file, binary or ASCII.
 *
 * @param scale mm per unit of the file
 * @throws EsquisseError `file-kind`, `file-truncated`, `file-unreadable` or `mesh-invalid`, naming byte or line
 */
export function readStl(bytes: Uint8Array, scale = 1): ReadMesh {
  if (bytes.length === 0) throw new EsquisseError('file-unreadable', 'The STL file is empty.', 'byte 0');
  const isText = isAscii(bytes);
  const soup = isText ? readAscii(latin1(bytes)) : readBinary(bytes);
  if (scale !== 1) for (let i = 0; i < soup.length; i++) soup[i]! *= scale;
  const behind = bytes.length - HEADER - 4 - (RECORD / 9) * soup.length;
  const doubts =
    !isText && behind > 0 ? [`${behind} bytes behind the last triangle of the STL file are not read.`] : [];
  return { ...weld(soup), doubts };
}

/** A binary file may also begin with "solid": it counts as text only when its length does not fit its triangle count. */
function isAscii(bytes: Uint8Array): boolean {
  const head = latin1(bytes.subarray(0, 512)).trimStart();
  if (!head.toLowerCase().startsWith('solid')) return false;
  if (bytes.length >= HEADER + 4) {
    const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(HEADER, true);
    if (bytes.length === HEADER + 4 + RECORD * count) return false;
  }
  return /facet|endsolid/i.test(latin1(bytes.subarray(0, 4096)));
}

function readBinary(bytes: Uint8Array): Float64Array {
  if (bytes.length < HEADER + 4)
    throw new EsquisseError(
      'file-kind',
      `This is not an STL file: it has ${bytes.length} bytes, and a binary STL begins with ${HEADER + 4}.`,
      `byte ${bytes.length}`,
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = view.getUint32(HEADER, true);
  const wanted = HEADER + 4 + RECORD * count;
  if (count > MOST_TRIANGLES && wanted !== bytes.length)
    throw new EsquisseError(
      'file-kind',
      'This is not an STL file: it neither begins with "solid" nor holds the triangle count of a binary STL.',
      `byte ${HEADER}`,
    );
  refuseTooMany(count, 'STL', `byte ${HEADER}`);
  if (bytes.length < wanted)
    throw new EsquisseError(
      'file-truncated',
      `The STL file promises ${count} triangles but ends after ${Math.floor((bytes.length - HEADER - 4) / RECORD)}: it was cut off at byte ${bytes.length} of ${wanted}.`,
      `byte ${bytes.length}`,
    );
  if (count === 0)
    throw new EsquisseError('file-kind', 'This is not an STL file of a part: it holds no triangle.', `byte ${HEADER}`);
  if (bytes.length >= wanted + RECORD)
    throw new EsquisseError(
      'file-unreadable',
      `The STL file says that it holds ${count} triangles, but ${bytes.length - wanted} bytes follow behind them: it is damaged, or several files were joined.`,
      `byte ${wanted}`,
    );
  const soup = new Float64Array(count * 9);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 9; k++) soup[9 * t + k] = view.getFloat32(HEADER + 4 + RECORD * t + 12 + 4 * k, true);
  return soup;
}

/** Words that a line begins with, and what may follow each of them. */
const FOLLOWS: Readonly<Record<string, readonly string[]>> = {
  '': ['solid'],
  solid: ['facet', 'endsolid'],
  facet: ['outer'],
  outer: ['vertex'],
  vertex: ['vertex', 'endloop'],
  endloop: ['endfacet'],
  endfacet: ['facet', 'endsolid'],
  endsolid: ['solid'],
};

function readAscii(text: string): Float64Array {
  const soup: number[] = [];
  let before = '';
  let corners = 0;
  let last = 0;
  eachLine(text, (raw, line, isLast) => {
    const words = wordsOf(raw);
    if (words.length === 0) return;
    const first = words[0]!.toLowerCase();
    last = line;
    const wrong = (what: string): EsquisseError =>
      new EsquisseError(
        // the line that a text was cut off in is seldom a whole one
        isLast ? 'file-truncated' : 'file-unreadable',
        `${isLast ? `The STL file was cut off: line ${line}` : `Line ${line} of the STL file`} ${what}: "${raw.trim().slice(0, 60)}".`,
        `line ${line}`,
      );
    if (!FOLLOWS[before]!.includes(first))
      throw wrong(before === '' ? 'is no solid' : `cannot stand behind "${before}"`);
    before = first;
    if (first === 'facet') corners = 0;
    else if (first === 'vertex') {
      if (words.length !== 4) throw wrong('is not a vertex');
      for (let c = 1; c < 4; c++) {
        const value = numberOf(words[c]);
        if (!Number.isFinite(value)) throw wrong('is not a vertex');
        soup.push(value);
      }
      if (++corners > 3) throw wrong('is the fourth vertex of its facet');
    } else if (first === 'endloop' && corners !== 3) throw wrong(`ends a facet of ${corners} vertices`);
  });
  if (before !== 'endsolid')
    throw new EsquisseError(
      'file-truncated',
      `The STL file has no "endsolid": it was cut off after line ${last}.`,
      `line ${last}`,
    );
  return Float64Array.from(soup);
}

/** A mesh as binary STL. `soup`: nine coordinates a triangle, mm. */
export function writeStl(soup: ArrayLike<number>): Uint8Array {
  const count = soup.length / 9;
  const view = new DataView(new ArrayBuffer(HEADER + 4 + RECORD * count));
  view.setUint32(HEADER, count, true);
  for (let t = 0; t < count; t++) {
    const at = (k: number): number => soup[9 * t + k]!;
    const u = [at(3) - at(0), at(4) - at(1), at(5) - at(2)] as const;
    const v = [at(6) - at(0), at(7) - at(1), at(8) - at(2)] as const;
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]] as const;
    const length = Math.hypot(...n) || 1;
    const o = HEADER + 4 + RECORD * t;
    for (let k = 0; k < 3; k++) view.setFloat32(o + 4 * k, n[k]! / length, true);
    for (let k = 0; k < 9; k++) view.setFloat32(o + 12 + 4 * k, at(k), true);
  }
  return new Uint8Array(view.buffer);
}
