import type { Vec3 } from '../geometry/vector';
import { boxOfPositions } from '../geometry/box';
import { cellsUnder } from '../geometry/planCells';
import { AS_DRAWN, layMesh, layWithZ } from '../part/lay';
import type { Surface } from './surface';
import { middleOf, surfaceOf } from './surface';

/** A facet that leans back by less than this (sine) counts as upright: rounding of a mesh's walls. */
const UPRIGHT = 0.02;
/** Cells along the longer side of the map by which hidden places are found. */
const CELLS = 300;

/** Share of the surface that is not seen from above, and where most of it lies. */
export interface Hidden {
  /** 0 to 1, of the surface that is not what the part rests on. */
  share: number;
  /** mm². */
  area: number;
  /** Triangles that are not seen. */
  triangles: number[];
  /** Of these, what leans back over itself: its area, mm², and by how much at most, degrees from upright. */
  undercut: { area: number; lean: number; triangles: number[] };
}

/**
 * What of a laid part cannot be seen from +Z: facets that look down, but for the face that the part rests on, and facets
 * under something else.
 */
export function hiddenFromAbove(surface: Surface): Hidden {
  const { mesh, count, normals, areas } = surface;
  const box = boxOfPositions(mesh.positions);
  const cell = Math.max(box.maxX - box.minX, box.maxY - box.minY) / CELLS || 1;
  const tops = topsOf(surface, box.minX, box.minY, cell);
  const rests = box.minZ + 1e-6 + (box.maxZ - box.minZ) * 1e-6;
  const triangles: number[] = [];
  const undercut = { area: 0, lean: 0, triangles: [] as number[] };
  let area = 0;
  let whole = 0;
  for (let t = 0; t < count; t++) {
    const nz = normals[3 * t + 2]!;
    const [x, y, z] = middleOf(mesh, t);
    if (nz < -UPRIGHT) {
      if (z <= rests) continue;
      undercut.area += areas[t]!;
      undercut.lean = Math.max(undercut.lean, (Math.asin(Math.min(1, -nz)) * 180) / Math.PI);
      undercut.triangles.push(t);
    } else if (z >= tops.lowestAround(x, y) - cell) {
      whole += areas[t]!;
      continue;
    }
    whole += areas[t]!;
    area += areas[t]!;
    triangles.push(t);
  }
  return { share: whole > 0 ? area / whole : 0, area, triangles, undercut };
}

/** The six directions along the file's axes, with the share of the surface that is hidden when each looks up. */
export function hiddenByDirection(surface: Surface): { up: Vec3; share: number }[] {
  const ups: Vec3[] = [
    [0, 0, 1],
    [0, 0, -1],
    [1, 0, 0],
    [-1, 0, 0],
    [0, 1, 0],
    [0, -1, 0],
  ];
  return ups.map((up) => ({
    up,
    share:
      up[2] === 1
        ? hiddenFromAbove(surface).share
        : hiddenFromAbove(surfaceOf(layMesh(surface.mesh, layWithZ(AS_DRAWN, up)))).share,
  }));
}

/** Highest place of the part over the middle of each cell; upright facets have no plan and are left to those beside them. */
function topsOf({ mesh, count, normals }: Surface, x0: number, y0: number, cell: number) {
  const { positions: p, indices } = mesh;
  // a border of empty cells all round
  const cells = { x0: x0 - cell, y0: y0 - cell, cell, nx: CELLS + 2, ny: CELLS + 2 };
  const heights = new Float32Array(cells.nx * cells.ny).fill(-Infinity);
  for (let t = 0; t < count; t++) {
    const nz = normals[3 * t + 2]!;
    if (Math.abs(nz) < UPRIGHT) continue;
    const [a, b, c] = [3 * indices[3 * t]!, 3 * indices[3 * t + 1]!, 3 * indices[3 * t + 2]!];
    cellsUnder(p[a]!, p[a + 1]!, p[b]!, p[b + 1]!, p[c]!, p[c + 1]!, cells, (at, x, y) => {
      const z = p[a + 2]! - ((x - p[a]!) * normals[3 * t]! + (y - p[a + 1]!) * normals[3 * t + 1]!) / nz;
      if (z > heights[at]!) heights[at] = z;
    });
  }
  return {
    /** The lowest top of the cell and those beside it, -Infinity where one is empty: what stands beside hides nothing. */
    lowestAround(x: number, y: number): number {
      const i = Math.floor((x - x0) / cell) + 1;
      const j = Math.floor((y - y0) / cell) + 1;
      let low = Infinity;
      for (let v = j - 1; v <= j + 1; v++)
        for (let u = i - 1; u <= i + 1; u++) low = Math.min(low, heights[v * cells.nx + u] ?? -Infinity);
      return low;
    },
  };
}
