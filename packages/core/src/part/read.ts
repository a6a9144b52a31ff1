import { EsquisseError } from '../base/errors';
import { sizeOf } from '../geometry/box';
import { boxOf, type MeshReport, volumeOf } from '../geometry/mesh';
import { readObj } from './obj';
import { readPly } from './ply';
import { readStep, type StepReader } from './step';
import { type ReadMesh, readStl } from './stl';
import { readThreeMf } from './threeMf';
import { type LengthUnit, UNITS } from './unit';

/** A format that parts are read from. */
export interface PartFormat {
  id: string;
  name: string;
  endings: readonly string[];
  /** Whether the file says its unit. */
  hasUnit: boolean;
  read: (bytes: Uint8Array, scale: number, step: StepReader) => Promise<ReadMesh>;
}

/** All formats. A new one is a file and an entry here. */
export const PART_FORMATS: readonly PartFormat[] = [
  {
    id: 'step',
    name: 'STEP',
    endings: ['step', 'stp'],
    hasUnit: true,
    read: (bytes, _, step) => readStep(bytes, step),
  },
  {
    id: 'stl',
    name: 'STL',
    endings: ['stl'],
    hasUnit: false,
    read: (bytes, scale) => Promise.resolve(readStl(bytes, scale)),
  },
  {
    id: '3mf',
    name: '3MF',
    endings: ['3mf'],
    hasUnit: true,
    read: (bytes) => Promise.resolve(readThreeMf(bytes)),
  },
  {
    id: 'obj',
    name: 'OBJ',
    endings: ['obj'],
    hasUnit: false,
    read: (bytes, scale) => Promise.resolve(readObj(bytes, scale)),
  },
  {
    id: 'ply',
    name: 'PLY',
    endings: ['ply'],
    hasUnit: false,
    read: (bytes, scale) => Promise.resolve(readPly(bytes, scale)),
  },
];

/** @throws EsquisseError `file-kind` when no format has the file's ending */
export function formatOf(fileName: string): PartFormat {
  const ending = fileName.split('.').pop()?.toLowerCase() ?? '';
  const format = PART_FORMATS.find((f) => f.endings.includes(ending));
  if (!format)
    throw new EsquisseError(
      'file-kind',
      `"${fileName}" is of a kind that is not read; parts come as ${PART_FORMATS.map((f) => f.name).join(', ')}.`,
      fileName,
    );
  return format;
}

/** Reads a part's file by its ending. @throws EsquisseError saying what is wrong with it and where */
export async function readPart(
  fileName: string,
  bytes: Uint8Array,
  unit: LengthUnit,
  step: StepReader,
): Promise<ReadMesh> {
  const format = formatOf(fileName);
  const read = await format.read(bytes, format.hasUnit ? 1 : UNITS[unit], step);
  refuseFlat(fileName, read);
  return read;
}

/** A body thinner than this has nothing to machine, mm. */
const FLAT_MM = 1e-3;

function refuseFlat(fileName: string, { mesh, report }: ReadMesh): void {
  const size = sizeOf(boxOf(mesh));
  const flat = size.findIndex((s) => s < FLAT_MM);
  if (flat >= 0)
    throw new EsquisseError(
      'mesh-invalid',
      `"${fileName}" is flat: it has no thickness in ${'XYZ'[flat]}, so there is nothing to machine. Export the solid, or the whole surface of the mould.`,
      fileName,
    );
  const least = FLAT_MM * Math.min(size[0] * size[1], size[1] * size[2], size[2] * size[0]);
  if (report.openEdges === 0 && Math.abs(volumeOf(mesh)) < least)
    throw new EsquisseError(
      'mesh-invalid',
      `"${fileName}" is closed but holds no volume: its surface lies on itself. Export the solid, or one side of the surface.`,
      fileName,
    );
}

/** What was put right while a part was read, and what of it needs a look, as sentences. */
export function reportSentences({ degenerate, duplicate, openEdges, turned }: MeshReport): string[] {
  const out: string[] = [];
  const many = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;
  if (openEdges > 0)
    out.push(
      `The surface is open along ${many(openEdges, 'edge')}: what is cut follows the surface, but its volume and what lies behind it are not known.`,
    );
  if (turned > 0) out.push(`${many(turned, 'triangle')} looked into the body and were turned.`);
  if (degenerate + duplicate > 0)
    out.push(`${many(degenerate + duplicate, 'triangle')} without area or twice there were left out.`);
  return out;
}
