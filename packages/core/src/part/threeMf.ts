import { strFromU8 } from 'fflate';
import { EsquisseError } from '../base/errors';
import { weldIndexed } from '../geometry/mesh';
import type { ReadMesh } from './stl';
import { MOST_TEXT_BYTES, numberOf, refuseTooMany } from './text';
import { eachElement } from '../base/xml';
import { Zip } from './zip';

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
  const objects = new Map<string, ModelObject>();
  const build: { objectId: string; transform: Transform }[] = [];
  let scale = 1;
  let object: ModelObject | undefined;
  let triangles = 0;
  eachElement(modelOf(bytes), 'The model in the 3MF file', ({ name, attributes }) => {
    const number = (key: string): number => {
      const value = numberOf(attributes[key]);
      if (!Number.isFinite(value))
        throw new EsquisseError(
          'file-unreadable',
          `A ${name} of the 3MF file has no number "${key}": "${attributes[key] ?? ''}".`,
          name,
        );
      return value;
    };
    if (name === 'model') {
      const unit = attributes['unit'] ?? 'millimeter';
      if (UNITS[unit] === undefined)
        throw new EsquisseError('file-unreadable', `The 3MF file is in an unknown unit "${unit}".`, 'unit');
      scale = UNITS[unit];
    } else if (name === 'object') {
      const id = attributes['id'] ?? '';
      if (objects.has(id)) throw new EsquisseError('file-unreadable', `The 3MF file holds two objects "${id}".`, id);
      object = { positions: [], indices: [], components: [] };
      objects.set(id, object);
    } else if (name === 'vertex') object?.positions.push(number('x'), number('y'), number('z'));
    else if (name === 'triangle') {
      refuseTooMany(++triangles, '3MF');
      object?.indices.push(number('v1'), number('v2'), number('v3'));
    } else if (name === 'component' || name === 'item') {
      const place = { objectId: attributes['objectid'] ?? '', transform: transformOf(attributes['transform']) };
      if (name === 'item') build.push(place);
      else object?.components.push(place);
    }
  });
  const soup = { positions: [] as number[], indices: [] as number[], faceOf: [] as number[] };
  let bodies = 0;
  // objects of objects that double from one to the next come to any number: counted before any of them is built
  const counted = new Map<string, number>();
  const countOf = (objectId: string): number => {
    const known = counted.get(objectId);
    if (known !== undefined) return known;
    // an object that holds itself is told of where it is built
    counted.set(objectId, 0);
    const body = objects.get(objectId);
    const inside = (body?.components ?? []).reduce((sum, part) => sum + countOf(part.objectId), 0);
    const count = Math.min(Number.MAX_SAFE_INTEGER, 1 + (body?.indices.length ?? 0) / 3 + inside);
    counted.set(objectId, count);
    return count;
  };
  let all = 0;
  for (const item of build) refuseTooMany((all += countOf(item.objectId)), '3MF', item.objectId);
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
    refuseTooMany(soup.faceOf.length + body.indices.length / 3, '3MF', objectId);
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
  const zip = new Zip(bytes, 'The 3MF package');
  const main = '3D/3dmodel.model';
  const path = zip.paths.includes(main) ? main : zip.paths.find((p) => /\.model$/i.test(p));
  const model = path === undefined ? undefined : zip.read(path);
  if (!model) throw new EsquisseError('file-kind', 'This zip package holds no 3MF model.', '3D/3dmodel.model');
  if (model.length > MOST_TEXT_BYTES)
    throw new EsquisseError(
      'memory',
      `The model in the 3MF file is a text of ${Math.round(model.length / 2 ** 20)} MB.`,
      path,
    );
  return strFromU8(model);
}

function transformOf(text: string | undefined): Transform {
  if (text === undefined) return SAME;
  const m = text.trim().split(/\s+/).map(numberOf);
  if (m.length !== 12 || m.some((v) => !Number.isFinite(v)))
    throw new EsquisseError(
      'file-unreadable',
      `The 3MF file has a transform that is not twelve numbers: "${text}".`,
      'transform',
    );
  return m;
}
