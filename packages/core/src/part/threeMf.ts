import { strFromU8 } from 'fflate';
import { EsquisseError } from '../base/errors';
import { weldIndexed } from '../geometry/mesh';
import type { ReadMesh } from './stl';
import { unzipChecked } from './zip';

/** mm per unit that a model may be in (3MF core specification; millimetres when it does not say). */
const UNITS: Readonly<Record<string, number>> = {
  micron: 0.001,
  millimeter: 1,
  centimeter: 10,
  inch: 25.4,
  foot: 304.8,
  meter: 1000,
};
/** Objects within objects deeper than this are a circle. */
const DEEPEST = 32;

/** Rows of an affine map as the format writes it: x' = x m[0] + y m[3] + z m[6] + m[9], and so on. */
type Transform = readonly number[];
const SAME: Transform = [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0];

interface ModelObject {
  positions: number[];
  indices: number[];
  components: { objectId: string; transform: Transform }[];
}

/**
 * Reads a 3MF package: the meshes of all objects that its build names, laid where it lays them, in millimetres. Each becomes
 * a face of the part, so that bodies can be told apart.
 *
 * @throws EsquisseError `file-kind`, `file-unreadable`, `file-truncated` or `mesh-invalid`
 */
export function readThreeMf(bytes: Uint8Array): ReadMesh {
  const text = modelOf(bytes);
  const objects = new Map<string, ModelObject>();
  const build: { objectId: string; transform: Transform }[] = [];
  let scale = 1;
  let object: ModelObject | undefined;
  let closed = false;
  for (const [, end, name, rest] of text.matchAll(/<(\/?)(?:[\w-]+:)?([\w-]+)((?:[^>"']|"[^"]*"|'[^']*')*)>/g)) {
    if (end) {
      closed ||= name === 'model';
      continue;
    }
    const attribute = (key: string): string | undefined =>
      new RegExp(`\\s${key}\\s*=\\s*["']([^"']*)["']`).exec(rest!)?.[1];
    const number = (key: string): number => {
      const value = Number(attribute(key) ?? NaN);
      if (!Number.isFinite(value))
        throw new EsquisseError(
          'file-unreadable',
          `A ${name} of the 3MF file has no number "${key}": <${name}${rest}>.`,
          name,
        );
      return value;
    };
    if (name === 'model') {
      const unit = attribute('unit') ?? 'millimeter';
      if (UNITS[unit] === undefined)
        throw new EsquisseError('file-unreadable', `The 3MF file is in an unknown unit "${unit}".`, 'unit');
      scale = UNITS[unit];
    } else if (name === 'object') {
      object = { positions: [], indices: [], components: [] };
      objects.set(attribute('id') ?? '', object);
    } else if (name === 'vertex') object?.positions.push(number('x'), number('y'), number('z'));
    else if (name === 'triangle') object?.indices.push(number('v1'), number('v2'), number('v3'));
    else if (name === 'component' || name === 'item') {
      const place = { objectId: attribute('objectid') ?? '', transform: transformOf(attribute('transform')) };
      if (name === 'item') build.push(place);
      else object?.components.push(place);
    }
  }
  if (!closed)
    throw new EsquisseError('file-truncated', 'The model in the 3MF file has no end: it was cut off.', 'model');
  const soup = { positions: [] as number[], indices: [] as number[], faceOf: [] as number[] };
  let bodies = 0;
  const add = (objectId: string, way: readonly Transform[]): void => {
    const body = objects.get(objectId);
    if (!body)
      throw new EsquisseError(
        'file-unreadable',
        `The 3MF file names an object "${objectId}" that it does not hold.`,
        objectId,
      );
    if (way.length > DEEPEST)
      throw new EsquisseError('file-unreadable', `The 3MF file's object "${objectId}" holds itself.`, objectId);
    const first = soup.positions.length / 3;
    const count = body.positions.length / 3;
    for (let v = 0; v < count; v++) {
      let p = body.positions.slice(3 * v, 3 * v + 3);
      for (const m of way) p = [0, 1, 2].map((c) => p[0]! * m[c]! + p[1]! * m[3 + c]! + p[2]! * m[6 + c]! + m[9 + c]!);
      soup.positions.push(p[0]! * scale, p[1]! * scale, p[2]! * scale);
    }
    body.indices.forEach((v, k) => {
      if (!Number.isInteger(v) || v < 0 || v >= count)
        throw new EsquisseError(
          'mesh-invalid',
          `Triangle ${Math.floor(k / 3) + 1} of object "${objectId}" names vertex ${v}, but it has ${count}.`,
          objectId,
        );
      soup.indices.push(first + v);
      if (k % 3 === 0) soup.faceOf.push(bodies);
    });
    if (body.indices.length > 0) bodies++;
    for (const part of body.components) add(part.objectId, [part.transform, ...way]);
  };
  for (const item of build) add(item.objectId, [item.transform]);
  if (soup.indices.length === 0)
    throw new EsquisseError(
      'mesh-invalid',
      'The 3MF file builds nothing: no object with triangles is named in its build.',
      'build',
    );
  return {
    ...weldIndexed(soup.positions, soup.indices, soup.faceOf),
    bodies: Array.from({ length: bodies }, (_, k) => ({ name: `body ${k + 1}`, firstFace: k, endFace: k + 1 })),
  };
}

function modelOf(bytes: Uint8Array): string {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b)
    throw new EsquisseError('file-kind', 'This is not a 3MF file: it is no zip package.', 'byte 0');
  let model: Uint8Array | undefined;
  try {
    const entries = unzipChecked(bytes, (path) => /\.model$/i.test(path));
    model = entries['3D/3dmodel.model'] ?? Object.values(entries)[0];
  } catch {
    throw new EsquisseError(
      'file-truncated',
      'The 3MF package cannot be unpacked: it is damaged or was cut off.',
      `byte ${bytes.length}`,
    );
  }
  if (!model) throw new EsquisseError('file-kind', 'This zip package holds no 3MF model.', '3D/3dmodel.model');
  return strFromU8(model);
}

function transformOf(text: string | undefined): Transform {
  if (text === undefined) return SAME;
  const m = text.trim().split(/\s+/).map(Number);
  if (m.length !== 12 || m.some((v) => !Number.isFinite(v)))
    throw new EsquisseError(
      'file-unreadable',
      `The 3MF file has a transform that is not twelve numbers: "${text}".`,
      'transform',
    );
  return m;
}
