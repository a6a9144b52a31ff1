import bunny from 'bunny';
import teapot from 'teapot';
import type { Soup } from './shapes';

/** The packaged open meshes `bunny` and `teapot` (public domain, from the registry), scaled to mm with Z up. */
export const PACKAGED: readonly [string, Soup][] = [
  ['bunny', soupOf(bunny, 2)],
  ['teapot', soupOf(teapot, 2)],
];

function soupOf(mesh: { positions: number[][]; cells: number[][] }, scale: number): Soup {
  return mesh.cells.flatMap((cell) =>
    cell.flatMap((v) => {
      const [x, y, z] = mesh.positions[v]!;
      return [x! * scale, -z! * scale, y! * scale];
    }),
  );
}
