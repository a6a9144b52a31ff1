import Module, { type Manifold, type ManifoldToplevel } from 'manifold-3d';
import type { Soup } from './shapes';

/** Facets around a hole. */
export const AROUND = 96;

let solids: ManifoldToplevel | undefined;

/** A general solid modeller, ready. */
export async function modeller(): Promise<ManifoldToplevel> {
  if (solids) return solids;
  const started = await Module();
  started.setup();
  solids = started;
  return solids;
}

/** A hole of radius r from far above down to `bottom`, and a point of so many degrees under it; 0 for a level floor. Lengths in mm. */
export function hole(
  { Manifold }: ManifoldToplevel,
  x: number,
  y: number,
  r: number,
  bottom: number,
  angle = 0,
): Manifold {
  const point = angle > 0 ? r / Math.tan((angle * Math.PI) / 360) : 0;
  const outline: [number, number][] = [
    [0, bottom - point],
    [r, bottom],
    [r, 50],
    [0, 50],
  ];
  return Manifold.revolve([outline], AROUND).translate([x, y, 0]);
}

/** A block from one corner to the other, mm. */
export function blockOf(
  { Manifold }: ManifoldToplevel,
  [x0, y0, z0]: readonly [number, number, number],
  [x1, y1, z1]: readonly [number, number, number],
): Manifold {
  return Manifold.cube([x1 - x0, y1 - y0, z1 - z0]).translate([x0, y0, z0]);
}

/** A solid as triangles. */
export function soupOf(solid: Manifold): Soup {
  const { vertProperties, triVerts, numProp } = solid.getMesh();
  return [...triVerts].flatMap((v) => [0, 1, 2].map((c) => vertProperties[v * numProp + c]!));
}

/** Numbers from 0 to 1 that a seed gives (linear congruence: Numerical Recipes, from memory). */
export function numbers(seed: number): () => number {
  let at = seed >>> 0;
  return () => (at = (Math.imul(at, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}
