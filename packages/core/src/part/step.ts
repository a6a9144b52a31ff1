import { strFromU8 } from 'fflate';
import { EsquisseError } from '../base/errors';
import { weldIndexed } from '../geometry/mesh';
import type { Body3 } from './bodies';
import type { ReadMesh } from './stl';
import { refuseLargeText } from './text';

const latin1 = (bytes: Uint8Array): string => strFromU8(bytes, true);

/** Largest distance of the mesh from the solid, mm, and largest turn between neighbouring facets, rad. */
export const STEP_DEFLECTION_MM = 0.01;
const STEP_TURN_RAD = 0.3;

/** What every exchange file begins with, white space and comments aside (ISO 10303-21, clause 5). */
const FIRST_LINE = /^(?:\u00EF\u00BB\u00BF)?(?:\s|\/\*[^]*?\*\/)*ISO-10303-21(?:\s|\/\*[^]*?\*\/)*;/;

/** How finely a solid is turned into triangles. */
export interface StepOptions {
  linearUnit: 'millimeter';
  linearDeflectionType: 'absolute_value';
  linearDeflection: number;
  angularDeflection: number;
}

/** A solid as the STEP reader gives it: a mesh, and the range of triangles of each face. */
export interface StepBodies {
  success: boolean;
  /** How often the reader complained of the file while it read on. */
  faults?: number;
  meshes: {
    name?: string;
    attributes: { position: { array: ArrayLike<number> } };
    index: { array: ArrayLike<number> };
    brep_faces: { first: number; last: number }[];
  }[];
}

/** The STEP reader; the host loads it (it is a WebAssembly module) and may run it elsewhere. */
export type StepReader = (bytes: Uint8Array, options: StepOptions) => Promise<StepBodies>;

/**
 * Reads all bodies of a STEP file (ISO 10303-21) as one mesh, its faces kept.
 *
 * @throws EsquisseError `file-kind`, `file-truncated` or `file-unreadable` with what is wrong
 */
export async function readStep(bytes: Uint8Array, reader: StepReader): Promise<ReadMesh> {
  const head = latin1(bytes.subarray(0, 2000));
  if (!FIRST_LINE.test(head))
    throw new EsquisseError('file-kind', 'This is not a STEP file: it does not begin with ISO-10303-21;', 'byte 0');
  const tail = latin1(bytes.subarray(Math.max(0, bytes.length - 200)));
  if (!tail.includes('END-ISO-10303-21'))
    throw new EsquisseError(
      'file-truncated',
      `The STEP file lacks its last line END-ISO-10303-21: it was cut off at byte ${bytes.length}.`,
      `byte ${bytes.length}`,
    );
  refuseLargeText(bytes.length, 'The STEP file');
  const twice = definedTwice(bytes);
  if (twice !== undefined)
    throw new EsquisseError(
      'file-unreadable',
      `The STEP file defines #${twice} twice, where each name stands for one thing: it is damaged. Export it again.`,
      `#${twice}`,
    );
  const result = await asked(reader, bytes, {
    linearUnit: 'millimeter',
    linearDeflectionType: 'absolute_value',
    linearDeflection: STEP_DEFLECTION_MM,
    angularDeflection: STEP_TURN_RAD,
  });
  const { meshes = [] } = result;
  if (!result.success || meshes.length === 0)
    throw new EsquisseError('file-unreadable', 'The STEP file holds no solid or face that can be read.');
  const isWhole = meshes.every(
    ({ attributes, index }) => attributes.position.array.length > 0 && index.array.length % 3 === 0,
  );
  if (!isWhole)
    throw new EsquisseError('file-unreadable', 'A body of the STEP file came without its surface: export it again.');
  const positions: number[] = [];
  const indices: number[] = [];
  const faces: number[] = [];
  const bodies: Body3[] = [];
  let faceCount = 0;
  for (const body of meshes) {
    const base = positions.length / 3;
    const { array: xyz } = body.attributes.position;
    const { array: corners } = body.index;
    for (let i = 0; i < xyz.length; i++) positions.push(xyz[i]!);
    for (let i = 0; i < corners.length; i++) indices.push(base + corners[i]!);
    const own = new Uint32Array(corners.length / 3);
    body.brep_faces.forEach((face, f) => own.fill(faceCount + f, face.first, face.last + 1));
    for (const f of own) faces.push(f);
    const firstFace = faceCount;
    faceCount += Math.max(1, body.brep_faces.length);
    bodies.push({ name: body.name || `body ${bodies.length + 1}`, firstFace, endFace: faceCount });
  }
  const withSurface = meshes.flatMap((m) => m.brep_faces).filter((f) => f.last >= f.first).length;
  const lost = facesNamed(bytes) - withSurface;
  const doubts: string[] = [];
  if (lost > 0)
    doubts.push(`${lost} of the faces that the STEP file names gave no surface: look for holes, or export it again.`);
  if (result.faults)
    doubts.push('The STEP file has faults that were read over: compare its size and shape, or export it again.');
  return { ...weldIndexed(positions, indices, faces), bodies, doubts };
}

/** What the reader gives. @throws EsquisseError in words for people: its own are those of its inside */
async function asked(reader: StepReader, bytes: Uint8Array, options: StepOptions): Promise<Partial<StepBodies>> {
  try {
    return await reader(bytes, options);
  } catch (error) {
    if (error instanceof EsquisseError) throw error;
    throw new EsquisseError(
      'file-unreadable',
      'The STEP file made its reader fail: it is damaged, or holds something that is not known. Export it again (ISO 10303, AP214 or AP242), or as STL or 3MF.',
    );
  }
}

/**
 * A name that is defined more than once: every instance of a file has a name of its own (ISO 10303-21). Its first
 * definition would be read with the second one's shape, or one body as many.
 */
function definedTwice(bytes: Uint8Array): number | undefined {
  const code = (c: string): number => c.charCodeAt(0);
  const [hash, equals, semicolon, quote, slash, star] = ['#', '=', ';', "'", '/', '*'].map(code) as number[];
  const seen = new Set<number>();
  let isStart = true;
  for (let i = 0; i < bytes.length; i++) {
    const c = bytes[i]!;
    if (c === quote) {
      i = bytes.indexOf(quote, i + 1);
      if (i < 0) return undefined;
    } else if (c === slash && bytes[i + 1] === star) {
      i += 2;
      while (i < bytes.length && !(bytes[i] === star && bytes[i + 1] === slash)) i++;
      i++;
    } else if (c === semicolon) isStart = true;
    else if (c === hash && isStart) {
      let name = 0;
      while (bytes[i + 1]! >= 48 && bytes[i + 1]! <= 57) name = 10 * name + bytes[++i]! - 48;
      while (bytes[i + 1]! <= 32) i++;
      if (bytes[i + 1] === equals) {
        if (seen.has(name)) return name;
        seen.add(name);
      }
      isStart = false;
    } else if (c > 32) isStart = false;
  }
  return undefined;
}

/** Faces that the text of a STEP file names (ISO 10303-42: advanced_face, face_surface). */
function facesNamed(bytes: Uint8Array): number {
  const text = latin1(bytes);
  return text.match(/=\s*(?:ADVANCED_FACE|FACE_SURFACE)\s*\(/g)?.length ?? 0;
}
