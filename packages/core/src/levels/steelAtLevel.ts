import { radiusAt, type RoundPiece } from '../tool/profile';
import { boundsOf, crossingsAt, type Polyline, type Region } from '../geometry/polygon';
import { RaisedCells } from '../geometry/raisedCells';
import type { HeightMap } from '../steel/heightMap';
import { type Loop, partsOf, type PartsOptions } from './loop';

/** Steel lower than this above the level is not worth a pass, mm. */
const THIN_MM = 0.02;

type Round = RoundPiece;

/** Where, at one level, the cutter would touch steel. */
export class SteelAtLevel {
  readonly any: boolean;
  private readonly marks: number;
  private readonly radius: number;
  /** In cells of the map with some more around it, as far as the cutter reaches. */
  private readonly distance2: Float32Array;
  private readonly reach: number;
  private known?: readonly { y: number; xs: number[] }[];

  /**
   * @param piece the cutter: what its corner passes over is not touched
   * @param room that will be asked for at most, mm
   * @param standing cells that count, made for the same room
   * @param other a height of the same map, room and cells: of its distances use is made when as many cells stand here, since
   * then they are the same
   */
  constructor(
    private readonly map: HeightMap,
    z: number,
    piece: Round,
    room: number,
    private readonly standing = standingSteel(map, piece, room),
    other?: SteelAtLevel,
  ) {
    const least = z + THIN_MM;
    this.marks = standing.countAbove(least);
    this.any = this.marks > 0;
    this.radius = piece.radius;
    this.reach = radiusAt(piece, Math.max(least, standing.highest) - z) / map.cell;
    this.distance2 = other?.marks === this.marks ? other.distance2 : standing.squaredDistances(least, standing.beside);
  }

  /** Whether the cutter with its axis at (x, y), or up to `room` mm from there, touches steel. */
  at(x: number, y: number, room = 0): boolean {
    const reach = this.reach + room / this.map.cell;
    const { x0, y0, cell } = this.map;
    const { across, down, beside } = this.standing;
    const i = Math.floor((x - x0) / cell) + beside;
    const j = Math.floor((y - y0) / cell) + beside;
    if (i < 0 || j < 0 || i >= across || j >= down) return false;
    return this.distance2[j * across + i]! <= reach * reach;
  }

  /** Whether anything is left to cut in a region: its border or a point inside touches steel. */
  meets(region: Region): boolean {
    for (const ring of [region.outer, ...region.holes])
      for (let k = 0; k < ring.length; k += 2) if (this.at(ring[k]!, ring[k + 1]!)) return true;
    const [, low, , high] = boundsOf(region.outer);
    return this.places.some(({ y, xs }) => y > low && y < high && isAnyInside(region, y, xs));
  }

  /** Places half a radius apart, at most, at which the cutter touches steel: along lines of constant y, mm. */
  private get places(): readonly { y: number; xs: number[] }[] {
    if (this.known) return this.known;
    const { x0, y0, cell, nx, ny } = this.map;
    const step = Math.max(cell, this.radius / 2);
    const rows: { y: number; xs: number[] }[] = [];
    for (let y = y0 - this.radius; y <= y0 + ny * cell + this.radius; y += step) {
      const xs: number[] = [];
      for (let x = x0 - this.radius; x <= x0 + nx * cell + this.radius; x += step) if (this.at(x, y)) xs.push(x);
      if (xs.length > 0) rows.push({ y, xs });
    }
    return (this.known = rows);
  }

  /** The parts of a line that touch steel (see {@link partsOf}); short gaps in air are kept, since leaving the work costs more. */
  touching(loop: Loop, free: Pick<PartsOptions, 'isFree' | 'tolerance'>): Loop[] {
    return partsOf(loop, (x, y) => this.at(x, y), { radius: this.radius, gap: 4 * this.radius, ...free });
  }

  /** Whether any point of a line touches steel. */
  touches(line: Polyline): boolean {
    for (let k = 0; k < line.length; k += 2) if (this.at(line[k]!, line[k + 1]!)) return true;
    return false;
  }
}

/** Whether any of the places (x, y) with one y, x ascending, lies in a region (crossing count). */
function isAnyInside(region: Region, y: number, xs: readonly number[]): boolean {
  const crossings = crossingsAt([region.outer, ...region.holes], y);
  let count = 0;
  return xs.some((x) => {
    while (count < crossings.length && crossings[count]! < x) count++;
    return count % 2 === 1;
  });
}

/** The cells of a map, to be asked for steel at one level after the other, as far as a cutter and some room reach (mm). */
export function standingSteel({ heights, nx, ny, cell }: HeightMap, piece: Round, room: number): RaisedCells {
  return new RaisedCells(heights, nx, ny, Math.ceil((piece.radius + room) / cell));
}
