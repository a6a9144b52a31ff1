import { z } from 'zod';
import type { Box } from '../geometry/box';
import type { TriangleMesh } from '../geometry/mesh';

const size = z.number().positive().max(5000);
const place = z.number().min(-5000).max(5000);

/** Simple fixtures that follow the block, and boxes of a shape and place of their own. Lengths in mm. */
export const fixtureSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('vise'),
    /** The jaws press along this axis. */
    axis: z.enum(['X', 'Y']),
    /** Height of the block that is between the jaws. */
    grip: size,
    /** Thickness of a jaw, and how wide it is across. */
    jaw: size,
    width: size,
  }),
  z.object({
    kind: z.literal('plate'),
    thickness: size,
    /** How far it reaches beyond the block on every side. */
    beyond: z.number().min(0).max(2000),
  }),
  z.object({
    kind: z.literal('clamps'),
    /** On the block's sides across this axis, two a side. */
    axis: z.enum(['X', 'Y']),
    /** How far a clamp reaches over the block's edge, its width and height. */
    over: size,
    width: size,
    height: size,
  }),
  z.object({
    kind: z.literal('box'),
    /** Its middle beside the block's middle, and its underside above the block's underside. */
    x: place,
    y: place,
    z: place,
    sizeX: size,
    sizeY: size,
    sizeZ: size,
  }),
]);
export type Fixture = z.infer<typeof fixtureSchema>;

/** How far clamps and jaws reach away from the block, mm. */
const BAR_MM = 60;

/** The bodies of a fixture around a block, in the block's frame. */
export function fixtureBoxes(fixture: Fixture, block: Box): Box[] {
  const { minX, maxX, minY, maxY, minZ, maxZ } = block;
  const midX = (minX + maxX) / 2;
  const midY = (minY + maxY) / 2;
  switch (fixture.kind) {
    case 'vise': {
      const { jaw, width, grip } = fixture;
      const z = { minZ: minZ - Math.max(20, grip), maxZ: minZ + grip };
      return fixture.axis === 'X'
        ? [
            { minX: minX - jaw, maxX: minX, minY: midY - width / 2, maxY: midY + width / 2, ...z },
            { minX: maxX, maxX: maxX + jaw, minY: midY - width / 2, maxY: midY + width / 2, ...z },
          ]
        : [
            { minX: midX - width / 2, maxX: midX + width / 2, minY: minY - jaw, maxY: minY, ...z },
            { minX: midX - width / 2, maxX: midX + width / 2, minY: maxY, maxY: maxY + jaw, ...z },
          ];
    }
    case 'plate': {
      const b = fixture.beyond;
      return [
        { minX: minX - b, maxX: maxX + b, minY: minY - b, maxY: maxY + b, minZ: minZ - fixture.thickness, maxZ: minZ },
      ];
    }
    case 'clamps': {
      const { over, width, height } = fixture;
      const z = { minZ: maxZ, maxZ: maxZ + height };
      const ends = fixture.axis === 'X' ? [minX, maxX] : [minY, maxY];
      const [low, high] = fixture.axis === 'X' ? [minY, maxY] : [minX, maxX];
      const boxes: Box[] = [];
      for (const [k, end] of ends.entries())
        for (const share of [0.25, 0.75]) {
          const at = low + share * (high - low);
          const from = k === 0 ? end - BAR_MM : end - over;
          const to = k === 0 ? end + over : end + BAR_MM;
          boxes.push(
            fixture.axis === 'X'
              ? { minX: from, maxX: to, minY: at - width / 2, maxY: at + width / 2, ...z }
              : { minX: at - width / 2, maxX: at + width / 2, minY: from, maxY: to, ...z },
          );
        }
      return boxes;
    }
    case 'box':
      return [
        {
          minX: midX + fixture.x - fixture.sizeX / 2,
          maxX: midX + fixture.x + fixture.sizeX / 2,
          minY: midY + fixture.y - fixture.sizeY / 2,
          maxY: midY + fixture.y + fixture.sizeY / 2,
          minZ: minZ + fixture.z,
          maxZ: minZ + fixture.z + fixture.sizeZ,
        },
      ];
  }
}

const CORNERS = [
  0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5,
];

/** Boxes, and meshes beside them, as one mesh; undefined for none. */
export function fixtureMesh(boxes: readonly Box[], meshes: readonly TriangleMesh[]): TriangleMesh | undefined {
  const positions: number[] = [];
  const indices: number[] = [];
  for (const b of boxes) {
    const first = positions.length / 3;
    for (let k = 0; k < 8; k++)
      positions.push(k & 1 ? b.maxX : b.minX, k & 2 ? b.maxY : b.minY, k & 4 ? b.maxZ : b.minZ);
    for (const c of CORNERS) indices.push(first + c);
  }
  for (const mesh of meshes) {
    const first = positions.length / 3;
    for (const p of mesh.positions) positions.push(p);
    for (const v of mesh.indices) indices.push(first + v);
  }
  if (indices.length === 0) return undefined;
  return {
    positions: Float64Array.from(positions),
    indices: Uint32Array.from(indices),
    faceOf: new Uint32Array(indices.length / 3),
  };
}
