import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { strToU8, unzipSync, zipSync } from 'fflate';
import { squarePocket, testCrib, testJob } from '../packages/core/test/shapes';
import { boxOfPositions } from '../packages/core/src/geometry/box';
import { type TriangleMesh, volumeOf, weld } from '../packages/core/src/geometry/mesh';
import { readOutlines } from '../packages/core/src/drawing/outlines';
import { openBundle, packBundle, parseJson } from '../packages/core/src/job/bundle';
import { readPart } from '../packages/core/src/part/read';
import { writeStl } from '../packages/core/src/part/stl';
import { writeThreeMf } from '../packages/core/src/part/threeMfWriter';
import { cribSchema } from '../packages/core/src/tool/library';
import { cribToCsv, csvIntoCrib } from '../packages/core/src/tool/table';
import { readStepFile } from '../packages/cli/src/stepReader';

/** What was read, in figures that can be compared, and whether a doubt was told with it. */
export interface Reading {
  readonly figures: readonly number[];
  readonly isDoubted: boolean;
}

/** A kind of file that is damaged on purpose. */
export interface FuzzedFormat {
  readonly name: string;
  readonly ending: string;
  /** Whether it is text, in which words and lines can be exchanged. */
  readonly isText: boolean;
  /** A zip file, whose entries can be damaged before they are packed. */
  readonly isZip?: boolean;
  /** Whether a sound reader sees that a file ends too early or lacks a stretch. */
  readonly seesLoss: boolean;
  /** Corners are told by numbers, so that a coordinate that lost a digit is another part, as whole as the first. */
  readonly isIndexed?: boolean;
  readonly seed: () => Uint8Array;
  readonly read: (bytes: Uint8Array) => Promise<Reading>;
}

/** Two bodies beside each other: a reader that drops one of them gives a whole body still. */
const pocket = squarePocket(30, 20, 10, -25);
const soup = [...pocket, ...pocket.map((v, k) => (k % 3 === 0 ? v + 100 : v))];
const { mesh } = weld(soup);
const rows = (values: ArrayLike<number>, write: (row: number[]) => string): string =>
  Array.from({ length: values.length / 3 }, (_, k) =>
    write([values[3 * k]!, values[3 * k + 1]!, values[3 * k + 2]!]),
  ).join('\n');
const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

const part = (
  name: string,
  ending: string,
  seed: () => Uint8Array,
  more: Partial<FuzzedFormat> = {},
): FuzzedFormat => ({
  name,
  ending,
  isText: false,
  seesLoss: true,
  seed,
  read: async (bytes) => {
    const read = await readPart(`a.${ending}`, bytes, 'mm', readStepFile);
    const { openEdges, degenerate, duplicate, turned } = read.report;
    const isDoubted = openEdges + degenerate + duplicate + turned > 0 || (read.doubts ?? []).length > 0;
    return { figures: figuresOf(read.mesh), isDoubted };
  },
  ...more,
});

function figuresOf(read: TriangleMesh): number[] {
  const box = boxOfPositions(read.positions);
  return [
    read.indices.length / 3,
    box.minX,
    box.minY,
    box.minZ,
    box.maxX,
    box.maxY,
    box.maxZ,
    Math.abs(volumeOf(read)),
  ];
}

const drawing = (ending: string, seed: string): FuzzedFormat => ({
  name: ending.toUpperCase(),
  ending,
  isText: true,
  seesLoss: false,
  seed: () => strToU8(seed),
  read: (bytes) => {
    const { outlines, notes } = readOutlines(`a.${ending}`, text(bytes));
    const box = boxOfPositions(outlines[0].points.flatMap(([x, y]) => [x, y, 0]));
    const figures = [outlines.length, outlines[0].area, box.minX, box.minY, box.maxX, box.maxY];
    return Promise.resolve({ figures, isDoubted: notes.length > 0 });
  },
});

const facets = rows(
  mesh.indices,
  (t) =>
    `facet normal 0 0 1\nouter loop\n${t.map((v) => `vertex ${[0, 1, 2].map((c) => mesh.positions[3 * v + c]).join(' ')}`).join('\n')}\nendloop\nendfacet`,
);
const dxf = [
  ...['0', 'SECTION', '2', 'HEADER', '9', '$INSUNITS', '70', '4', '0', 'ENDSEC'],
  ...[
    '0',
    'SECTION',
    '2',
    'BLOCKS',
    '0',
    'BLOCK',
    '2',
    'hole',
    '10',
    '0',
    '20',
    '0',
    '0',
    'CIRCLE',
    '10',
    '0',
    '20',
    '0',
    '40',
    '3',
    '0',
    'ENDBLK',
    '0',
    'ENDSEC',
  ],
  ...['0', 'SECTION', '2', 'ENTITIES'],
  ...[
    '0',
    'LWPOLYLINE',
    '8',
    '0',
    '90',
    '4',
    '70',
    '1',
    '10',
    '0',
    '20',
    '0',
    '10',
    '80',
    '20',
    '0',
    '42',
    '0.5',
    '10',
    '80',
    '20',
    '50',
    '10',
    '0',
    '20',
    '50',
  ],
  ...[
    '0',
    'ARC',
    '10',
    '20',
    '20',
    '20',
    '40',
    '5',
    '50',
    '0',
    '51',
    '180',
    '0',
    'LINE',
    '10',
    '15',
    '20',
    '20',
    '11',
    '25',
    '21',
    '20',
  ],
  ...['0', 'ELLIPSE', '10', '50', '20', '25', '11', '8', '21', '0', '40', '0.5', '41', '0', '42', '6.283185307179586'],
  ...[
    '0',
    'SPLINE',
    '71',
    '2',
    '40',
    '0',
    '40',
    '0',
    '40',
    '0',
    '40',
    '1',
    '40',
    '1',
    '40',
    '1',
    '10',
    '1',
    '20',
    '1',
    '10',
    '2',
    '20',
    '3',
    '10',
    '3',
    '20',
    '1',
  ],
  ...[
    '0',
    'INSERT',
    '2',
    'hole',
    '10',
    '60',
    '20',
    '40',
    '41',
    '2',
    '42',
    '2',
    '50',
    '30',
    '70',
    '2',
    '71',
    '1',
    '44',
    '10',
  ],
  ...['0', 'TEXT', '10', '0', '20', '0', '1', 'plate', '0', 'ENDSEC', '0', 'EOF'],
].join('\n');
const svg = `<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="90mm" viewBox="0 0 120 90">
<defs><rect id="r" width="10" height="10" rx="2"/></defs>
<g transform="translate(5 5) rotate(10)"><rect x="0" y="0" width="80" height="60" rx="5"/><use href="#r" x="20" y="20"/></g>
<path d="M 60 40 c 5 0 5 10 0 10 s -5 -10 0 -10 z m 10 10 a 5 5 0 1 0 5 5 q 3 -8 -5 -5 z"/>
<!-- a note --><circle cx="30" cy="30" r="4mm"/><polygon points="1,1 5,1 5,5"/><text>plate</text></svg>`;
const job = testJob([{ kind: 'parallel-passes', assemblyId: 't3' }]);
const packed = packBundle({ job, files: new Map([['part.stl', writeStl(soup)]]) });
const crib = testCrib();
const demo = join(dirname(fileURLToPath(import.meta.url)), '../demo/parts/corner-check.step');

/** All kinds. A new format of the application is an entry here. */
export const FORMATS: readonly FuzzedFormat[] = [
  part('STL', 'stl', () => writeStl(soup)),
  part('STL as text', 'stl', () => strToU8(`solid a\n${facets}\nendsolid a\n`), { isText: true }),
  part(
    'OBJ',
    'obj',
    () =>
      strToU8(
        `# made up\n${rows(mesh.positions, (p) => `v ${p.join(' ')}`)}\ng a\n${rows(mesh.indices, (t) => `f ${t.map((v) => `${v + 1}//1`).join(' ')}`)}\n`,
      ),
    // the format has no end and no counts: faces that lack are seen by the hole only
    { isText: true, isIndexed: true },
  ),
  part(
    'PLY as text',
    'ply',
    () =>
      strToU8(
        `ply\nformat ascii 1.0\ncomment made up\nelement vertex ${mesh.positions.length / 3}\nproperty float x\nproperty float y\nproperty float z\nelement face ${mesh.indices.length / 3}\nproperty list uchar int vertex_indices\nend_header\n${rows(mesh.positions, (p) => p.join(' '))}\n${rows(mesh.indices, (t) => `3 ${t.join(' ')}`)}\n`,
      ),
    { isText: true, isIndexed: true },
  ),
  part('PLY', 'ply', () => binaryPly()),
  part('3MF', '3mf', () => writeThreeMf(soup), { isZip: true }),
  part('STEP', 'step', () => new Uint8Array(readFileSync(demo)), { isText: true }),
  drawing('dxf', dxf),
  drawing('svg', svg),
  {
    name: 'job',
    ending: 'zip',
    isText: false,
    isZip: true,
    seesLoss: false,
    seed: () => packed,
    read: async (bytes) => {
      const opened = openBundle(bytes, 'a.zip');
      const own = opened.files.get(opened.job.part!.file)!;
      const read = await readPart(opened.job.part!.file, own, 'mm', readStepFile);
      const { openEdges, degenerate, duplicate, turned } = read.report;
      return { figures: figuresOf(read.mesh), isDoubted: openEdges + degenerate + duplicate + turned > 0 };
    },
  },
  {
    name: 'crib table',
    ending: 'csv',
    isText: true,
    seesLoss: false,
    seed: () => strToU8(cribToCsv(crib)),
    read: (bytes) => {
      const { crib: next, report } = csvIntoCrib(text(bytes), crib, 'a.csv');
      cribSchema.parse(next);
      return Promise.resolve({
        figures: [report.added, report.changed, report.changes.length],
        isDoubted: report.problems.length + report.changes.length > 0,
      });
    },
  },
  {
    name: 'crib',
    ending: 'json',
    isText: true,
    seesLoss: false,
    seed: () => strToU8(JSON.stringify(crib, null, 1)),
    read: (bytes) => {
      const read = cribSchema.safeParse(parseJson(text(bytes), 'a.json'));
      if (!read.success) return Promise.resolve({ figures: [0], isDoubted: true });
      return Promise.resolve({ figures: [read.data.assemblies.length], isDoubted: false });
    },
  },
];

function binaryPly(): Uint8Array {
  const count = mesh.positions.length / 3;
  const head = strToU8(
    `ply\nformat binary_little_endian 1.0\nelement vertex ${count}\nproperty double x\nproperty double y\nproperty double z\nelement face ${mesh.indices.length / 3}\nproperty list uchar int vertex_indices\nend_header\n`,
  );
  const bytes = new Uint8Array(head.length + 8 * mesh.positions.length + (13 * mesh.indices.length) / 3);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  let at = head.length;
  for (const v of mesh.positions) {
    view.setFloat64(at, v, true);
    at += 8;
  }
  for (let t = 0; t < mesh.indices.length; t += 3) {
    view.setUint8(at++, 3);
    for (let c = 0; c < 3; c++) {
      view.setInt32(at, mesh.indices[t + c]!, true);
      at += 4;
    }
  }
  return bytes;
}

/** The entries of a zip file with one of them changed, packed again with sums that fit. */
export function withEntry(bytes: Uint8Array, which: number, change: (content: Uint8Array) => Uint8Array): Uint8Array {
  const entries = unzipSync(bytes);
  const names = Object.keys(entries).sort();
  const name = names[which % names.length]!;
  return zipSync({ ...entries, [name]: change(entries[name]!) });
}
