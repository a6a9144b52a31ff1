import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { squarePocket } from '../../test/shapes';
import { EsquisseError } from '../base/errors';
import { volumeOf, weld } from '../geometry/mesh';
import { readObj } from './obj';
import { readPly } from './ply';
import { readStl, writeStl } from './stl';
import { readThreeMf } from './threeMf';
import { readPart } from './read';

const soup = squarePocket(30, 20, 10, -25);
const { mesh } = weld(soup);
const volume = 60 * 60 * 25 - 40 * 40 * 10;
const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const rows = (values: ArrayLike<number>, each: number, write: (row: number[]) => string): string =>
  Array.from({ length: values.length / each }, (_, k) =>
    write(Array.from({ length: each }, (_, c) => values[each * k + c]!)),
  ).join('\n');
const codeOf = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    if (error instanceof EsquisseError) return error.code;
    throw error;
  }
  return 'read';
};

const obj = (corner: (v: number) => string): string =>
  `# made up\n${rows(mesh.positions, 3, (p) => `v ${p.join(' ')}`)}\n${rows(mesh.indices, 3, (t) => `f ${t.map(corner).join(' ')}`)}\n`;

describe('OBJ', () => {
  it('corners by number, from the end, and with texture and normal behind slashes are the same part', () => {
    const count = mesh.positions.length / 3;
    for (const corner of [
      (v: number) => `${v + 1}`,
      (v: number) => `${v - count}`,
      (v: number) => `${v + 1}/1/2`,
      (v: number) => `${v + 1}//7`,
    ])
      expect(volumeOf(readObj(text(obj(corner))).mesh)).toBeCloseTo(volume, 6);
    expect(volumeOf(readObj(text(obj((v) => `${v + 1}`)), 25.4).mesh) / volume).toBeCloseTo(25.4 ** 3, 6);
  });

  it('faces of many corners are cut into triangles, and groups are the part’s faces', () => {
    const cube = `v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\ng under\nf 4 3 2 1\ng top\nf 5 6 7 8\ng round\nf 1 2 6 5\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n`;
    const read = readObj(text(cube));
    expect(volumeOf(read.mesh)).toBeCloseTo(1, 12);
    expect(read.report.openEdges).toBe(0);
    expect(new Set(read.mesh.faceOf).size).toBe(3);
  });

  it('a weight of 1 and a colour are known beside the coordinates; other numbers are doubted', () => {
    const with4 = (more: string): string[] | undefined =>
      readObj(text(obj((v) => `${v + 1}`).replace(/^(v .*)$/gm, `$1${more}`))).doubts;
    for (const more of ['', ' 1', ' 0.2 0.3 0.4', ' 1 0.2 0.3 0.4']) expect(with4(more)).toEqual([]);
    for (const more of [' 0', ' 2', ' 1 1', ' 0 0.2 0.3 0.4', ' x'])
      expect(with4(more)).toEqual([expect.stringContaining(`${mesh.positions.length / 3} vertices`)]);
  });

  it('what is wrong is told with its line, and nothing but faces passes for a part', () => {
    expect(() => readObj(text('v 0 0 0\nv 1 0 zero\n'))).toThrow('Line 2');
    expect(() => readObj(text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n'))).toThrow('"4", but 3 stand before it');
    expect(codeOf(() => readObj(text('v 0 0 0\nv 1 0 0\n')))).toBe('file-kind');
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (s) => {
        expect(codeOf(() => readObj(text(s)))).not.toBe('read');
      }),
      { numRuns: 100, seed: 3 },
    );
  });
});

/** The part as a binary PLY with a property and an element that nobody asked for. */
function binaryPly(little: boolean): Uint8Array {
  const vertices = mesh.positions.length / 3;
  const faces = mesh.indices.length / 3;
  const head = text(
    `ply\nformat binary_${little ? 'little' : 'big'}_endian 1.0\ncomment made up\nelement vertex ${vertices}\nproperty float x\nproperty uchar colour\nproperty double y\nproperty float32 z\nelement face ${faces}\nproperty list uchar int vertex_indices\nelement edge 1\nproperty short a\nend_header\n`,
  );
  const view = new DataView(new ArrayBuffer(vertices * 17 + faces * 13 + 2));
  let o = 0;
  for (let v = 0; v < vertices; v++) {
    view.setFloat32(o, mesh.positions[3 * v]!, little);
    view.setUint8(o + 4, 200);
    view.setFloat64(o + 5, mesh.positions[3 * v + 1]!, little);
    view.setFloat32(o + 13, mesh.positions[3 * v + 2]!, little);
    o += 17;
  }
  for (let t = 0; t < faces; t++) {
    view.setUint8(o, 3);
    for (let c = 0; c < 3; c++) view.setInt32(o + 1 + 4 * c, mesh.indices[3 * t + c]!, little);
    o += 13;
  }
  const out = new Uint8Array(head.length + view.byteLength);
  out.set(head);
  out.set(new Uint8Array(view.buffer), head.length);
  return out;
}

describe('PLY', () => {
  const ascii = text(
    `ply\nformat ascii 1.0\nelement vertex ${mesh.positions.length / 3}\nproperty float x\nproperty float y\nproperty float z\nelement face ${mesh.indices.length / 3}\nproperty list uchar int vertex_index\nend_header\n${rows(mesh.positions, 3, (p) => p.join(' '))}\n${rows(mesh.indices, 3, (t) => `3 ${t.join(' ')}`)}\n`,
  );

  it('text and binary of either byte order are the same part', () => {
    for (const bytes of [ascii, binaryPly(true), binaryPly(false)]) {
      const read = readPly(bytes);
      expect(volumeOf(read.mesh)).toBeCloseTo(volume, 3);
      expect(read.report.openEdges).toBe(0);
    }
  });

  it('cut off anywhere it is refused with a typed error, never read as a smaller part', () => {
    const whole = binaryPly(true);
    fc.assert(
      // the last two bytes belong to an element that is passed over
      fc.property(fc.integer({ min: 0, max: whole.length - 1 }), (length) => {
        expect(['file-kind', 'file-truncated', 'file-unreadable']).toContain(
          codeOf(() => readPly(whole.slice(0, length))),
        );
      }),
      { numRuns: 80, seed: 5 },
    );
    expect(codeOf(() => readPly(ascii.slice(0, ascii.length - 30)))).toBe('file-truncated');
    expect(
      codeOf(() => readPly(text('ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n1\n'))),
    ).toBe('mesh-invalid');
  });

  it('a part is read by its file’s ending', async () => {
    const noStep = () => Promise.reject(new Error('not wanted here'));
    expect(volumeOf((await readPart('A.PLY', binaryPly(false), 'mm', noStep)).mesh)).toBeCloseTo(volume, 3);
    expect(volumeOf((await readPart('b.obj', text(obj((v) => `${v + 1}`)), 'in', noStep)).mesh)).toBeCloseTo(
      volume * 25.4 ** 3,
      0,
    );
    await expect(readPart('c.ply', text('solid'), 'mm', noStep)).rejects.toMatchObject({ code: 'file-kind' });
    // a sheet without thickness, and a closed one that lies on itself
    const sheet = 'v 0 0 0\nv 9 0 0\nv 0 9 0\n';
    await expect(readPart('d.obj', text(`${sheet}f 1 2 3\n`), 'mm', noStep)).rejects.toThrow('no thickness in Z');
    const folded = `${sheet}v 4 4 4\no a\nf 1 2 4\nf 2 3 4\no b\nf 1 4 2\nf 2 4 3\n`;
    await expect(readPart('e.obj', text(folded), 'mm', noStep)).rejects.toThrow('holds no volume');
  });
});

describe('3MF', () => {
  const body = (unit: string, build: string, more = ''): Uint8Array =>
    zipSync({
      '[Content_Types].xml': strToU8('<Types/>'),
      '3D/3dmodel.model': strToU8(
        `<?xml version="1.0"?>\n<model unit="${unit}"><metadata name="Title">a > b</metadata><resources><object id="4" type="model"><mesh><vertices>${rows(mesh.positions, 3, (p) => `<vertex x="${p[0]}" y="${p[1]}" z="${p[2]}"/>`)}</vertices><triangles>${rows(mesh.indices, 3, (t) => `<triangle v1="${t[0]}" v2="${t[1]}" v3="${t[2]}" />`)}</triangles></mesh></object>${more}</resources><build>${build}</build></model>`,
      ),
    });

  it('is read in the unit that it says, wherever its build lays the bodies', () => {
    expect(volumeOf(readThreeMf(body('millimeter', '<item objectid="4"/>')).mesh)).toBeCloseTo(volume, 6);
    expect(volumeOf(readThreeMf(body('inch', '<item objectid="4"/>')).mesh) / volume).toBeCloseTo(25.4 ** 3, 6);
    // a quarter turn about Z and a shift: two bodies, one inside an assembly of its own
    const turned = '0 1 0 -1 0 0 0 0 1 200 0 5';
    const two = readThreeMf(
      body(
        'millimeter',
        `<item objectid="4"/><item objectid="9" transform="${turned}"/>`,
        '<object id="9"><components><component objectid="4" transform="1 0 0 0 1 0 0 0 1 0 50 0"/></components></object>',
      ),
    );
    expect(volumeOf(two.mesh)).toBeCloseTo(2 * volume, 6);
    expect(new Set(two.mesh.faceOf).size).toBe(2);
    let widest = -Infinity;
    for (let v = 0; v < two.mesh.positions.length; v += 3) widest = Math.max(widest, two.mesh.positions[v]!);
    // moved by 50 along Y first, then turned: Y becomes -X
    expect(widest).toBeCloseTo(200 - 50 + 30, 9);
  });

  it('what is wrong is told, a circle of objects does not hang, and no cut-off package passes for a part', () => {
    const good = body('millimeter', '<item objectid="4"/>');
    expect(codeOf(() => readThreeMf(body('cubit', '<item objectid="4"/>')))).toBe('file-unreadable');
    expect(() => readThreeMf(body('millimeter', '<item objectid="5"/>'))).toThrow('object "5"');
    expect(codeOf(() => readThreeMf(body('millimeter', '')))).toBe('mesh-invalid');
    expect(() =>
      readThreeMf(
        body(
          'millimeter',
          '<item objectid="9"/>',
          '<object id="9"><components><component objectid="9"/></components></object>',
        ),
      ),
    ).toThrow('holds itself');
    expect(codeOf(() => readThreeMf(zipSync({ 'job.json': strToU8('{}') })))).toBe('file-kind');
    fc.assert(
      fc.property(fc.integer({ min: 0, max: good.length - 1 }), (length) => {
        expect(codeOf(() => readThreeMf(good.slice(0, length)))).not.toBe('read');
      }),
      { numRuns: 60, seed: 6 },
    );
  });

  it('objects that double from one to the next, tags without end and a model made to fill the memory are refused', () => {
    const doubling = Array.from(
      { length: 31 },
      (_, k) =>
        `<object id="${k + 5}"><components><component objectid="${k + 4}"/><component objectid="${k + 4}"/></components></object>`,
    ).join('');
    expect(() => readThreeMf(body('millimeter', '<item objectid="35"/>', doubling))).toThrow('more than 20000000');
    expect(() => readThreeMf(body('millimeter', '<item objectid="4"/>', '<object id="5">'))).toThrow('no sound XML');
    const bomb = zipSync({ '3D/3dmodel.model': new Uint8Array(80 * 2 ** 20) });
    expect(() => readThreeMf(bomb)).toThrow('made to fill the memory');
  });
});

describe('STL and PLY that say one thing and hold another', () => {
  const facet = (corners: number, number = '1') =>
    `facet normal 0 0 1\nouter loop\n${`vertex 0 0 ${number}\n`.repeat(corners)}endloop\nendfacet\n`;
  const stl = (inner: string) => text(`solid a\n${inner}endsolid a\n`);

  it('a count lower than the data, or data behind it, never drops a body in silence', () => {
    const whole = writeStl(soup);
    const few = whole.slice();
    new DataView(few.buffer).setUint32(80, 4, true);
    expect(() => readStl(few)).toThrow('says that it holds 4 triangles, but');
    const joined = new Uint8Array(whole.length * 2);
    joined.set(whole);
    joined.set(whole, whole.length);
    expect(() => readStl(joined)).toThrow('several files were joined');
    const padded = new Uint8Array(whole.length + 2);
    padded.set(whole);
    expect(readStl(padded).doubts).toEqual(['2 bytes behind the last triangle of the STL file are not read.']);
    expect(readStl(whole).doubts).toEqual([]);
    const ply = (count: number) =>
      text(
        `ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face ${count}\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n9 0 0\n0 9 0\n0 0 9\n3 0 2 1\n3 0 1 3\n3 1 2 3\n3 0 3 2\n`,
      );
    expect(volumeOf(readPly(ply(4)).mesh)).toBeCloseTo(121.5, 9);
    expect(() => readPly(ply(3))).toThrow('goes on with 4 more numbers');
    expect(() => readPly(ply(1e15))).toThrow('more than it can hold');
  });

  it('facets of other than three vertices, words out of place and other than decimal numbers are refused with their line', () => {
    expect(() => readStl(stl(facet(6)))).toThrow('Line 7 of the STL file is the fourth vertex');
    expect(() => readStl(stl(facet(2)))).toThrow('ends a facet of 2 vertices');
    for (const number of ['0x10', '1e', 'Infinity', '1,5', ''])
      expect(() => readStl(stl(facet(3, number)))).toThrow('Line 4 of the STL file is not a vertex');
    expect(() => readStl(text(`solid a\n${facet(3)}endsolid a\nand more\n`))).toThrow('cannot stand behind "endsolid"');
    expect(() => readObj(text('v 0 0 0x1\n'))).toThrow('Line 1');
    expect(() => readObj(text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 0x3\n'))).toThrow('Line 4');
  });

  it('lists of a negative number of values and corners between two vertices are refused', () => {
    const ply = (row: string) =>
      text(
        `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list int float vertex_indices\nend_header\n0 0 0\n9 0 0\n0 9 0\n${row}\n`,
      );
    expect(codeOf(() => readPly(ply('3 0 1 2')))).toBe('read');
    expect(() => readPly(ply('-3 0 1 2'))).toThrow('a list of -3 values');
    expect(() => readPly(ply('3 0 1 1.5'))).toThrow('names vertices 0, 1, 1.5');
    expect(() => readPly(ply('3 0 1 -2'))).toThrow('names vertices 0, 1, -2');
    expect(() => readPly(ply('2 0 1'))).toThrow('has 2 corners');
  });

  it('a text of more than 256 MB is refused by its size', () => {
    const large = new Uint8Array(257 * 2 ** 20).fill(0x20);
    large.set(text('solid a\nfacet normal 0 0 1\n'));
    expect(() => readStl(large)).toThrow('a text of 257 MB; texts of up to 256 MB are read');
  });
});
