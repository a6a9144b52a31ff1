import { strFromU8 } from 'fflate';
import { EsquisseError } from '../base/errors';
import { weldIndexed } from '../geometry/mesh';
import type { ReadMesh } from './stl';
import { MOST_TRIANGLES, numberOf, refuseTooMany, textOf } from './text';

/** Bytes of the header looked at for its end. */
const LONGEST_HEADER = 65_536;

type Reader = (view: DataView, at: number, little: boolean) => number;
/** Number types of the format: size in bytes, and how a DataView reads them. */
const TYPES: Readonly<Record<string, readonly [number, Reader]>> = {
  char: [1, (v, o) => v.getInt8(o)],
  uchar: [1, (v, o) => v.getUint8(o)],
  short: [2, (v, o, e) => v.getInt16(o, e)],
  ushort: [2, (v, o, e) => v.getUint16(o, e)],
  int: [4, (v, o, e) => v.getInt32(o, e)],
  uint: [4, (v, o, e) => v.getUint32(o, e)],
  float: [4, (v, o, e) => v.getFloat32(o, e)],
  double: [8, (v, o, e) => v.getFloat64(o, e)],
};
const SAME: Readonly<Record<string, string>> = {
  int8: 'char',
  uint8: 'uchar',
  int16: 'short',
  uint16: 'ushort',
  int32: 'int',
  uint32: 'uint',
  float32: 'float',
  float64: 'double',
};

interface Property {
  name: string;
  type: string;
  /** Type of the count of a list. */
  count?: string;
}
interface Element {
  name: string;
  size: number;
  properties: Property[];
}

/**
 * Reads a PLY file, text or binary of either byte order: element `vertex` with x, y, z and element `face` with a list of
 * corners. Other elements and properties are passed over; faces of more than three corners are cut into a fan.
 *
 * @param scale mm per unit of the file
 * @throws EsquisseError `file-kind`, `file-truncated`, `file-unreadable` or `mesh-invalid`, naming byte or value
 */
export function readPly(bytes: Uint8Array, scale = 1): ReadMesh {
  const { format, elements, body } = header(bytes);
  const next = format === 'ascii' ? textNumbers(bytes, body) : binaryNumbers(bytes, body, format.includes('little'));
  const positions: number[] = [];
  const indices: number[] = [];
  for (const element of elements) {
    if (element.properties.length === 0) continue;
    // every value takes a byte at least: a count beyond that is damage, whatever memory there is
    if (element.size > bytes.length - body)
      throw new EsquisseError(
        'file-truncated',
        `The PLY file promises ${element.size} of "${element.name}", more than it can hold: it was cut off or is damaged.`,
        element.name,
      );
    for (let k = 0; k < element.size; k++) {
      const xyz = [NaN, NaN, NaN];
      for (const property of element.properties) {
        const axis = element.name === 'vertex' ? ['x', 'y', 'z'].indexOf(property.name) : -1;
        if (property.count === undefined) {
          const value = next(property.type);
          if (axis >= 0) xyz[axis] = value * scale;
          continue;
        }
        const length = next(property.count);
        if (!Number.isInteger(length) || length < 0 || length > bytes.length)
          throw new EsquisseError(
            'file-unreadable',
            `Number ${k + 1} of "${element.name}" in the PLY file has a list of ${length} values.`,
            `${element.name} ${k + 1}`,
          );
        const corners: number[] = [];
        for (let c = 0; c < length; c++) corners.push(next(property.type));
        if (element.name !== 'face' || !/^vertex_(index|indices)$/.test(property.name)) continue;
        if (corners.some((v) => !Number.isInteger(v) || v < 0))
          throw new EsquisseError(
            'mesh-invalid',
            `Face ${k + 1} of the PLY file names vertices ${corners.slice(0, 4).join(', ')}: they are counted from 0.`,
            `face ${k + 1}`,
          );
        if (corners.length < 3)
          throw new EsquisseError(
            'mesh-invalid',
            `Face ${k + 1} of the PLY file has ${corners.length} corners.`,
            `face ${k + 1}`,
          );
        if (indices.length > 3 * MOST_TRIANGLES) refuseTooMany(indices.length / 3, 'PLY');
        for (let c = 1; c + 1 < corners.length; c++) indices.push(corners[0]!, corners[c]!, corners[c + 1]!);
      }
      if (element.name === 'vertex') positions.push(...xyz);
    }
  }
  if (next.left() > 0)
    throw new EsquisseError(
      'file-unreadable',
      `Behind all that its header promises, the PLY file goes on with ${next.left()} more ${format === 'ascii' ? 'numbers' : 'bytes'}: its counts are wrong.`,
      'end',
    );
  if (indices.length === 0)
    throw new EsquisseError('mesh-invalid', 'The PLY file holds no faces: it is a cloud of points, not a part.');
  return weldIndexed(positions, indices);
}

function header(bytes: Uint8Array): { format: string; elements: Element[]; body: number } {
  const text = strFromU8(bytes.subarray(0, LONGEST_HEADER), true);
  if (!/^ply\s/.test(text))
    throw new EsquisseError('file-kind', 'This is not a PLY file: it does not begin with "ply".', 'byte 0');
  const end = /\nend_header[^\n]*\n/.exec(text);
  if (!end)
    throw new EsquisseError(
      'file-truncated',
      'The PLY file has no "end_header": it was cut off.',
      `byte ${bytes.length}`,
    );
  const elements: Element[] = [];
  let format = '';
  text
    .slice(0, end.index + 1)
    .split('\n')
    .forEach((raw, line) => {
      const words = raw.trim().split(/\s+/);
      const wrong = (what: string): EsquisseError =>
        new EsquisseError(
          'file-unreadable',
          `Line ${line + 1} of the PLY file ${what}: "${raw.trim()}".`,
          `line ${line + 1}`,
        );
      const typed = (word: string | undefined): string => {
        const type = SAME[word ?? ''] ?? word ?? '';
        if (!TYPES[type]) throw wrong('names an unknown type of number');
        return type;
      };
      if (words[0] === 'format') format = words[1] ?? '';
      if (words[0] === 'element') {
        const size = numberOf(words[2]);
        if (!Number.isInteger(size) || size < 0) throw wrong('does not say how many');
        elements.push({ name: words[1] ?? '', size, properties: [] });
      }
      if (words[0] === 'property') {
        const element = elements[elements.length - 1];
        if (!element) throw wrong('stands before any element');
        if (words[1] === 'list')
          element.properties.push({ name: words[4] ?? '', type: typed(words[3]), count: typed(words[2]) });
        else element.properties.push({ name: words[2] ?? '', type: typed(words[1]) });
      }
    });
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    throw new EsquisseError('file-unreadable', `The PLY file is of an unknown format "${format}".`, 'format');
  return { format, elements, body: end.index + end[0].length };
}

/** Gives the values of a body one after another. */
interface Values {
  (type: string): number;
  /** How much of the body was not asked for. */
  left: () => number;
}

function textNumbers(bytes: Uint8Array, from: number): Values {
  const words = textOf(bytes.subarray(from), 'PLY').split(/\s+/).filter(Boolean);
  let n = 0;
  const next = (): number => {
    const word = words[n++];
    if (word === undefined)
      throw new EsquisseError(
        'file-truncated',
        `The PLY file ends after ${words.length} numbers: it was cut off.`,
        `value ${n}`,
      );
    const value = numberOf(word);
    if (!Number.isFinite(value))
      throw new EsquisseError(
        'file-unreadable',
        `Value ${n} of the PLY file is not a number: "${word}".`,
        `value ${n}`,
      );
    return value;
  };
  return Object.assign(next, { left: () => words.length - n });
}

function binaryNumbers(bytes: Uint8Array, from: number, little: boolean): Values {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = from;
  const next = (type: string): number => {
    const [size, read] = TYPES[type]!;
    if (at + size > bytes.length)
      throw new EsquisseError(
        'file-truncated',
        `The PLY file was cut off at byte ${bytes.length}.`,
        `byte ${bytes.length}`,
      );
    const value = read(view, at, little);
    at += size;
    return value;
  };
  return Object.assign(next, { left: () => bytes.length - at });
}
