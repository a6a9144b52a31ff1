import { sharedFloat64, sharedUint8 } from '../base/shared';
import type { TipGrid } from './tipSurface';

/**
 * A net over the surface on which the middle of a cutter's round goes: triangles between places that lie exactly so far from
 * the part as the round is large, on any slope. It is made from a sampled tip surface: each column of the plan changes once
 * from solid to free, every cube with both among its corners gets one vertex (Gibson, Constrained elastic surface nets, 1998,
 * from memory), and each vertex is then put at its distance from the part ({@link projectNet}).
 */
export interface ContactNet {
  /** Number of vertices. */
  readonly count: number;
  /** Middle of the round, x, y, z of each vertex, mm. */
  readonly centres: Float64Array;
  /** Unit normal of the part there. */
  readonly normals: Float64Array;
  /** 1 where the vertex lies at its distance and the cutter may stand there. */
  readonly holds: Uint8Array;
  /** Three vertices of each triangle. */
  readonly triangles: Uint32Array;
}

/**
 * @param grid whose nodes lie where they lie by themselves; where one has no part under it, the cubes about it get no vertex
 * @param rise of the round's middle above the tip, mm
 */
export function netOver(grid: TipGrid, rise: number): ContactNet {
  const { x0, y0, step: g, nx, ny, z } = grid;
  let low = Infinity;
  for (const h of z) if (h > -Infinity && h < low) low = h;
  // layers lie between round heights, where floors are
  const z0 = low + rise - 0.47 * g;
  const layer = new Int32Array(nx * ny).fill(-1);
  for (let o = 0; o < nx * ny; o++) if (z[o]! > -Infinity) layer[o] = Math.floor((z[o]! + rise - z0) / g);
  const cells = (nx - 1) * (ny - 1);
  const base = new Int32Array(cells).fill(-1);
  const bottom = new Int32Array(cells);
  /** The corners of a cell, all round. */
  const around = [0, 1, nx + 1, nx];
  let count = 0;
  for (let j = 0; j + 1 < ny; j++)
    for (let i = 0; i + 1 < nx; i++) {
      const o = j * nx + i;
      const [a, b, c, d] = [layer[o]!, layer[o + 1]!, layer[o + nx + 1]!, layer[o + nx]!];
      const least = Math.min(a, b, c, d);
      if (least < 0) continue;
      const cell = j * (nx - 1) + i;
      base[cell] = count;
      bottom[cell] = least;
      count += Math.max(a, b, c, d) - least + 1;
    }
  const centres = sharedFloat64(3 * count);
  for (let j = 0; j + 1 < ny; j++)
    for (let i = 0; i + 1 < nx; i++) {
      const cell = j * (nx - 1) + i;
      if (base[cell]! < 0) continue;
      const first = j * nx + i;
      const most = Math.max(layer[first]!, layer[first + 1]!, layer[first + nx + 1]!, layer[first + nx]!);
      for (let k = bottom[cell]!; k <= most; k++) {
        let [n, sx, sy, sz] = [0, 0, 0, 0];
        for (let e = 0; e < 4; e++) {
          const p = first + around[e]!;
          const q = first + around[(e + 1) % 4]!;
          const px = x0 + (p % nx) * g;
          const py = y0 + Math.floor(p / nx) * g;
          if (layer[p] === k) {
            n++;
            sx += px;
            sy += py;
            sz += z[p]! + rise;
          }
          for (let level = k; level <= k + 1; level++) {
            if (layer[p]! >= level === layer[q]! >= level) continue;
            const height = z0 + level * g;
            const t = (height - z[p]! - rise) / (z[q]! - z[p]!);
            n++;
            sx += px + t * (x0 + (q % nx) * g - px);
            sy += py + t * (y0 + Math.floor(q / nx) * g - py);
            sz += height;
          }
        }
        const o = 3 * (base[cell]! + k - bottom[cell]!);
        centres[o] = sx / n;
        centres[o + 1] = sy / n;
        centres[o + 2] = sz / n;
      }
    }
  let triangles = new Uint32Array(6 * count);
  let filled = 0;
  const vertex = (i: number, j: number, k: number): number => {
    if (i < 0 || j < 0 || i + 1 >= nx || j + 1 >= ny) return -1;
    const cell = j * (nx - 1) + i;
    return base[cell]! < 0 ? -1 : base[cell]! + k - bottom[cell]!;
  };
  const quad = (a: number, b: number, c: number, d: number): void => {
    if (a < 0 || b < 0 || c < 0 || d < 0) return;
    const apart = (p: number, q: number): number =>
      (centres[3 * p]! - centres[3 * q]!) ** 2 +
      (centres[3 * p + 1]! - centres[3 * q + 1]!) ** 2 +
      (centres[3 * p + 2]! - centres[3 * q + 2]!) ** 2;
    if (filled + 6 > triangles.length) {
      const more = new Uint32Array(2 * triangles.length);
      more.set(triangles);
      triangles = more;
    }
    const isShorter = apart(a, c) <= apart(b, d);
    triangles[filled++] = a;
    triangles[filled++] = b;
    triangles[filled++] = isShorter ? c : d;
    triangles[filled++] = isShorter ? a : b;
    triangles[filled++] = c;
    triangles[filled++] = d;
  };
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const k = layer[j * nx + i]!;
      if (k < 0) continue;
      quad(vertex(i - 1, j - 1, k), vertex(i, j - 1, k), vertex(i, j, k), vertex(i - 1, j, k));
      const right = i + 1 < nx ? layer[j * nx + i + 1]! : -1;
      if (right >= 0)
        for (let m = Math.min(k, right) + 1; m <= Math.max(k, right); m++) {
          const ring = [vertex(i, j - 1, m - 1), vertex(i, j, m - 1), vertex(i, j, m), vertex(i, j - 1, m)] as const;
          if (k > right) quad(...ring);
          else quad(ring[3], ring[2], ring[1], ring[0]);
        }
      const behind = j + 1 < ny ? layer[(j + 1) * nx + i]! : -1;
      if (behind >= 0)
        for (let m = Math.min(k, behind) + 1; m <= Math.max(k, behind); m++) {
          const ring = [vertex(i, j, m - 1), vertex(i - 1, j, m - 1), vertex(i - 1, j, m), vertex(i, j, m)] as const;
          if (k > behind) quad(...ring);
          else quad(ring[3], ring[2], ring[1], ring[0]);
        }
    }
  return {
    count,
    centres,
    normals: sharedFloat64(3 * count),
    holds: sharedUint8(count),
    triangles: triangles.slice(0, filled),
  };
}
