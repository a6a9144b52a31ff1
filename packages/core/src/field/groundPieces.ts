import { sharedUint8 } from '../base/shared';
import { type Crew, spansOf } from '../crew/crew';
import type { HeightMap } from '../steel/heightMap';
import type { BareSides } from './bareSides';
import type { Bounds } from './bounds';
import { type ContactNet, netOver } from './contactNet';
import { Ground, groundTask } from './netGround';
import type { RoundPiece } from '../tool/profile';
import { AskedPlaces, slopeOf } from './places';
import { projectNet } from './projectNet';
import { sampleNodes } from './sampling';
import { tipGridOver, TipSurface, type TipSurfaceSpec } from './tipSurface';
import type { WantedSpec } from './wanted';

/** Nodes of the plan by which the ground is looked over. */
const NODES = 9_000;
const PIECE = 4000;
/** Walls without ground are looked for at so many places of the part, on slopes from this on, degrees, and this far off, mm. */
const SIDE_PLACES = 2000;
const LEAST_SIDE = 3;
const OFF_MM = 1e-3;
/** In a hollow the round touches more than its middle goes over: at most so many times as much, as far as facets can tell. */
const MOST_SPREAD = 2;

/**
 * Ground that a cutter's round goes over, in small pieces of the surface that its middle follows: what lengths of passes can
 * be told from before there are any.
 */
export interface GroundPieces {
  readonly count: number;
  /** Of each piece, mm², as far as it is ground. */
  readonly area: Float64Array;
  /** x, y, z of the unit normal. */
  readonly normals: Float64Array;
  /** Height of the tip, mm. */
  readonly tips: Float64Array;
  /**
   * How the normal turns along the surface, 1/mm: along its level line, towards it, and up or down it. Bent outward it is
   * positive.
   */
  readonly bends: Float64Array;
  /** Of each piece, the area of the part that the cutter touches there, mm²: none where it rolls over an edge. */
  readonly touched: Float64Array;
  /** Length of its border where the ground ends for another reason than its slope, mm. */
  readonly border: number;
  /** Walls on which nothing holds the cutter up, such as the sides of a part on its plate: area, mm², slope, degrees, and tip. */
  readonly sides: readonly { readonly area: number; readonly slope: number; readonly tip: number }[];
}

/** Where the ground is looked for: see `GroundAsk`. */
export interface GroundWish {
  readonly spec: TipSurfaceSpec;
  readonly bounds: Bounds;
  readonly wanted: WantedSpec;
  readonly steel: HeightMap;
  readonly mostSteel: number;
  /** The cutter of whose corner it is. */
  readonly whole: RoundPiece;
  /** Sides of the part on which nothing is to be cut. */
  readonly bare: BareSides;
}

/** @param wish whose cutter is a ball, or the ball that bends as its corner does */
export async function groundPieces(wish: GroundWish, crew: Crew): Promise<GroundPieces> {
  const { spec } = wish;
  const { piece } = spec;
  const { box } = spec.mesh;
  const margin = piece.radius + spec.side;
  const plan = (box.maxX - box.minX + 2 * margin) * (box.maxY - box.minY + 2 * margin);
  const grid = tipGridOver(box, margin, Math.sqrt(plan / NODES));
  await sampleNodes(grid, spec, crew, () => undefined);
  const net = netOver(grid, piece.corner);
  await projectNet(net, spec, crew, () => undefined);
  const marks = sharedUint8(net.count);
  const { centres, normals, holds } = net;
  const { whole, ...own } = wish;
  const ask = { ...own, lowest: -Infinity, ...(whole.flat > 0 && { whole }) };
  await crew.all(
    groundTask,
    spansOf(net.count, Math.ceil(net.count / PIECE)).map((rows) => ({
      net: { centres, normals, holds },
      ask,
      marks,
      rows,
    })),
  );
  return { ...piecesOf(net, marks, piece.corner, piece.corner + spec.side), sides: sidesOf(wish) };
}

/** Walls with nothing under the cutter that leans against them. */
function sidesOf({ spec, bounds, wanted, bare }: GroundWish): GroundPieces['sides'] {
  const { mesh: part, piece } = spec;
  const ask = {
    part,
    slopes: [LEAST_SIDE, 90],
    lowest: -Infinity,
    highest: Infinity,
    closed: bounds.closed,
    bare,
  } as const;
  const places = new AskedPlaces({ ...ask, rest: wanted.rest, faces: wanted.faces?.limits }, piece.corner);
  const surface = new TipSurface(spec);
  const sides: { area: number; slope: number; tip: number }[] = [];
  const area = places.area / SIDE_PLACES;
  for (let k = 0; k < SIDE_PLACES; k++) {
    const place = places.at(k, SIDE_PLACES);
    if (!place) continue;
    const out = piece.corner + spec.side + OFF_MM;
    if (surface.at(place.x + out * place.nx, place.y + out * place.ny) > -Infinity) continue;
    sides.push({ area, slope: slopeOf(place), tip: place.z + piece.corner * (place.nz - 1) });
  }
  return sides;
}

/** The triangles of a net that are ground, or reach into it. */
function piecesOf(
  { centres: c, normals: n, holds, triangles: t }: ContactNet,
  marks: Uint8Array,
  rise: number,
  reach: number,
): Omit<GroundPieces, 'sides'> {
  const all = t.length / 3;
  const area = new Float64Array(all);
  const normals = new Float64Array(3 * all);
  const tips = new Float64Array(all);
  const bends = new Float64Array(3 * all);
  const touched = new Float64Array(all);
  let [count, border] = [0, 0];
  for (let k = 0; k < all; k++) {
    const corners = [t[3 * k]!, t[3 * k + 1]!, t[3 * k + 2]!] as const;
    const held = corners.filter((v) => holds[v]);
    const ground = held.filter((v) => marks[v] === Ground.yes);
    if (ground.length === 0) continue;
    const [a, b, d] = [3 * corners[0], 3 * corners[1], 3 * corners[2]];
    const e = [c[b]! - c[a]!, c[b + 1]! - c[a + 1]!, c[b + 2]! - c[a + 2]!] as const;
    const f = [c[d]! - c[a]!, c[d + 1]! - c[a + 1]!, c[d + 2]! - c[a + 2]!] as const;
    const cross = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]] as const;
    const twice = Math.hypot(...cross);
    if (twice < 1e-12) continue;
    // a border crosses the two triangles of a square along its side: √½ of each side
    if (ground.length < held.length) border += Math.sqrt(twice) / 2;
    area[count] = (twice / 2) * (ground.length / held.length);
    const o = 3 * count;
    let [nx, ny, nz] = [0, 0, 0];
    for (const v of ground) {
      nx += n[3 * v]!;
      ny += n[3 * v + 1]!;
      nz += n[3 * v + 2]!;
    }
    const length = Math.hypot(nx, ny, nz) || 1;
    normals.set([nx / length, ny / length, nz / length], o);
    tips[count] = (c[a + 2]! + c[b + 2]! + c[d + 2]!) / 3 - rise;
    // in a valley the normals of its two sides tell no bend
    if (held.length === 3) bends.set(bendOf(n, e, f, a, b, d, normals.subarray(o, o + 3)), o);
    const [along, both, up] = [bends[o]!, bends[o + 1]!, bends[o + 2]!];
    const shrunk = (1 - reach * along) * (1 - reach * up) - (reach * both) ** 2;
    touched[count] = area[count]! * Math.min(MOST_SPREAD, Math.max(0, shrunk));
    count++;
  }
  return { count, area, normals, tips, bends, touched, border };
}

/** The bend of a triangle: dn = S dC, from its two sides, along and up its level line. */
function bendOf(
  n: Float64Array,
  e: readonly [number, number, number],
  f: readonly [number, number, number],
  a: number,
  b: number,
  d: number,
  normal: Float64Array,
): [number, number, number] {
  const [nx, ny, nz] = [normal[0]!, normal[1]!, normal[2]!];
  const level = Math.hypot(nx, ny);
  // along the level line; on level ground along X
  const [tx, ty] = level > 1e-6 ? [-ny / level, nx / level] : [1, 0];
  const [ux, uy, uz] = [-nz * ty, nz * tx, nx * ty - ny * tx];
  const along = (v: readonly [number, number, number]): number => v[0] * tx + v[1] * ty;
  const up = (v: readonly [number, number, number]): number => v[0] * ux + v[1] * uy + v[2] * uz;
  const turn = (p: number): [number, number, number] => [n[p]! - n[a]!, n[p + 1]! - n[a + 1]!, n[p + 2]! - n[a + 2]!];
  const [de, df] = [turn(b), turn(d)];
  const det = along(e) * up(f) - along(f) * up(e);
  if (Math.abs(det) < 1e-12) return [0, 0, 0];
  const first = (of: (v: readonly [number, number, number]) => number): number =>
    (of(de) * up(f) - of(df) * up(e)) / det;
  const second = (of: (v: readonly [number, number, number]) => number): number =>
    (of(df) * along(e) - of(de) * along(f)) / det;
  return [first(along), (second(along) + first(up)) / 2, second(up)];
}
