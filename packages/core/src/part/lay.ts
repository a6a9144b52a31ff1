import { z } from 'zod';
import type { TriangleMesh } from '../geometry/mesh';
import { along, cross, dot, unit, type Vec3 } from '../geometry/vector';

const direction = z.tuple([z.number(), z.number(), z.number()]);
/** Directions of a lay may miss length 1 and the right angle by this: rounding of a file's numbers. */
const SQUARE = 1e-6;
/** A component this near to a whole number is that number: turns by right angles stay exact. */
const WHOLE = 1e-12;

/** How the piece lies on the machine: the directions, in its file's frame, that become the machine's X and Z (ISO 841). */
export const laySchema = z
  .object({ x: direction, z: direction })
  .refine(
    (lay) =>
      Math.abs(dot(lay.x, lay.x) - 1) < SQUARE &&
      Math.abs(dot(lay.z, lay.z) - 1) < SQUARE &&
      Math.abs(dot(lay.x, lay.z)) < SQUARE,
    'The directions of X and Z must have length 1 and stand square to each other.',
  );
export type Lay = z.infer<typeof laySchema>;

/** As the file has it. */
export const AS_DRAWN: Lay = { x: [1, 0, 0], z: [0, 0, 1] };

const clean = (v: Vec3): Vec3 =>
  v.map((c) => (Math.abs(c - Math.round(c)) < WHOLE ? Math.round(c) + 0 : c)) as unknown as Vec3;

/** The machine's X, Y and Z in the file's frame. */
export function axesOf(lay: Lay): [Vec3, Vec3, Vec3] {
  return [lay.x, clean(cross(lay.z, lay.x)), lay.z];
}

/** A point or direction of the file's frame, in the laid frame. */
export function laid(lay: Lay, p: Readonly<Vec3>): Vec3 {
  const [x, y, up] = axesOf(lay);
  return [dot(x, p), dot(y, p), dot(up, p)];
}

/** A point or direction of the laid frame, in the file's frame. */
export function unlaid(lay: Lay, p: Readonly<Vec3>): Vec3 {
  const [x, y, up] = axesOf(lay);
  return along(along([x[0] * p[0], x[1] * p[0], x[2] * p[0]], y, p[1]), up, p[2]);
}

/** The mesh turned into the laid frame; itself when it lies as drawn. */
export function layMesh(mesh: TriangleMesh, lay: Lay): TriangleMesh {
  const [x, y, up] = axesOf(lay);
  if (x[0] === 1 && up[2] === 1) return mesh;
  const p = mesh.positions;
  const positions = new Float64Array(p.length);
  for (let i = 0; i < p.length; i += 3) {
    const a = p[i]!;
    const b = p[i + 1]!;
    const c = p[i + 2]!;
    positions[i] = x[0] * a + x[1] * b + x[2] * c;
    positions[i + 1] = y[0] * a + y[1] * b + y[2] * c;
    positions[i + 2] = up[0] * a + up[1] * b + up[2] * c;
  }
  return { ...mesh, positions };
}

/** The lay with the file's direction `up` along Z; X stays as near to where it was as it can. */
export function layWithZ(lay: Lay, up: Readonly<Vec3>): Lay {
  const z = clean(unit(up));
  const flat = (v: Readonly<Vec3>): Vec3 => along(v as Vec3, z, -dot(v, z));
  let x = flat(lay.x);
  // X itself was chosen: what was Z before then shows where X goes
  if (dot(x, x) < SQUARE) x = flat(lay.z);
  return { x: clean(unit(x)), z };
}

/** The lay turned about Z so that the file's direction `to`, seen in plan, runs along X; as it was for an upright direction. */
export function layWithX(lay: Lay, to: Readonly<Vec3>): Lay {
  const x = along(to as Vec3, lay.z, -dot(to, lay.z));
  return dot(x, x) < SQUARE ? lay : { x: clean(unit(x)), z: lay.z };
}

/** The piece turned by an angle (degrees, right-handed) about an axis of the machine. */
export function layTurned(lay: Lay, axis: 'X' | 'Y' | 'Z', degrees: number): Lay {
  const k: Vec3 = axis === 'X' ? [1, 0, 0] : axis === 'Y' ? [0, 1, 0] : [0, 0, 1];
  // turning the piece forward is turning the machine's axes, seen from the piece, back
  const a = (-degrees * Math.PI) / 180;
  const quarter = degrees % 90 === 0;
  const cos = quarter ? Math.round(Math.cos(a)) : Math.cos(a);
  const sin = quarter ? Math.round(Math.sin(a)) : Math.sin(a);
  const turn = (v: Vec3): Vec3 => {
    const c = cross(k, v);
    const d = dot(k, v) * (1 - cos);
    return [v[0] * cos + c[0] * sin + k[0] * d, v[1] * cos + c[1] * sin + k[1] * d, v[2] * cos + c[2] * sin + k[2] * d];
  };
  return { x: clean(unit(unlaid(lay, turn([1, 0, 0])))), z: clean(unit(unlaid(lay, turn([0, 0, 1])))) };
}
