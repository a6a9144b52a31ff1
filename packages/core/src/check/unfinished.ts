import type { Cancel } from '../base/cancel';
import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import { crossingsAt, type Polygon } from '../geometry/polygon';
import { motionNear } from '../path/near';
import type { Motions } from '../path/toolpath';
import type { HeightMap } from '../steel/heightMap';
import { THICKEST_MM } from '../steel/leftover';
import { type FaceLimits, FaceTest } from '../field/faceLimits';
import { RestTest, type WantedSpec } from '../field/wanted';

/** Slopes of the part from level to upright, by which what stays is told, degrees. */
export const SLOPE_BANDS: readonly (readonly [number, number])[] = [
  [0, 15],
  [15, 30],
  [30, 45],
  [45, 60],
  [60, 75],
  [75, 90],
];

/** What a finishing step is to leave, mm, and where it is asked for that. */
export interface Asked {
  /** Most that may stay along the part's normal: what it leaves on purpose, its ridges, and the path's tolerance. */
  readonly most: number;
  /** Nothing lower is asked for, and nothing higher. */
  readonly lowest: number;
  readonly highest: number;
  /** Only these slopes are asked for, degrees. */
  readonly slopes: readonly [number, number];
  /** Only where an earlier cutter left more than so much. */
  readonly rest?: WantedSpec['rest'] | undefined;
  /** Only where faces let a cutter with this radius at its corner, mm. */
  readonly faces?: { readonly limits: FaceLimits; readonly round: number } | undefined;
  /** Plan areas that its axis never enters: nothing under them is asked for. */
  readonly closed: readonly Polygon[];
}

/** A cell on which more stays than a step is to leave. */
export interface OverCell {
  /** Its number in the map. */
  readonly cell: number;
  /** Slope of the part where it is nearest, degrees. */
  readonly slope: number;
  /** Surface of the part that the cell stands for, mm². */
  readonly area: number;
}

/** Where more stays than a finishing step is to leave. Thicknesses are along the part's normal, mm; areas are of its surface, mm². */
export interface Unfinished {
  /** Most that may stay: what is thicker counts. */
  readonly most: number;
  /** By the part's slope, those without any left out. */
  readonly bands: readonly UnfinishedBand[];
  /** Where most of it is, the largest volumes first. */
  readonly places: readonly UnfinishedPlace[];
}

/** What stays on slopes of the part between two angles, degrees. */
export interface UnfinishedBand {
  readonly from: number;
  readonly to: number;
  readonly area: number;
  readonly thickest: number;
}

/** A place that hangs together and is all over at least half as thick as where it is thickest; told by that. */
export interface UnfinishedPlace {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly area: number;
  readonly thickest: number;
  /** Slope of the part there, degrees. */
  readonly slope: number;
  /** The motion of the step that passed nearest to it. */
  readonly motion: number;
}

/** Places that are told. */
const PLACES_TOLD = 6;

/** A place ends where it is thinner than this share of its thickest. */
const PLACE_SHARE = 0.5;

/** Cells of rows of the steel's map on which more stays than is asked for. */
export function overCells(
  part: ContactMesh,
  partMap: HeightMap,
  steel: HeightMap,
  leftover: Float32Array,
  { most, lowest, highest, slopes, rest, faces, closed }: Asked,
  rows: readonly [number, number],
  cancel?: Cancel,
): OverCell[] {
  const closest = new ClosestPoint(part);
  const { nx, cell, x0, y0, heights } = steel;
  const over: OverCell[] = [];
  const earlier = rest && new RestTest(rest);
  const held = faces && new FaceTest(faces.limits, faces.round);
  for (let j = rows[0]; j < rows[1]; j++) {
    cancel?.check();
    const y = y0 + (j + 0.5) * cell;
    // along a row the borders of what is closed are passed one after another
    const borders = crossingsAt(closed, y);
    let passed = 0;
    for (let i = 0; i < nx; i++) {
      const o = j * nx + i;
      const thick = leftover[o]!;
      const top = partMap.heights[o]!;
      if (!(thick > most) || top < lowest || top > highest) continue;
      const x = x0 + (i + 0.5) * cell;
      while (passed < borders.length && borders[passed]! < x) passed++;
      if (passed % 2 === 1) continue;
      const z = heights[o]!;
      const tall = z - partMap.heights[o]!;
      const distance = closest.distance(x, y, z, Math.min(tall, THICKEST_MM) + cell);
      // of the part as it is to be left, which may be thicker than the part
      if (most > 0 && distance <= most) continue;
      const slope = (Math.acos(Math.min(1, Math.abs(z - closest.z) / Math.max(distance, 1e-9))) * 180) / Math.PI;
      if (slope < slopes[0] || slope > slopes[1]) continue;
      if (earlier || held) {
        const scale = 1 / Math.max(distance, 1e-9);
        const [nx, ny, nz] = [(x - closest.x) * scale, (y - closest.y) * scale, (z - closest.z) * scale];
        const place = { x: closest.x, y: closest.y, z: closest.z, nx, ny, nz };
        if ((held && !held.at(place)) || (earlier && !earlier.at(place))) continue;
      }
      // on a slope the steel is as much taller than it is thick as the surface is larger than the cell
      over.push({ cell: o, slope, area: (cell * cell * Math.max(tall, thick)) / thick });
    }
  }
  return over;
}

/** What cells amount to by the part's slope. Undefined where there are none. */
export function unfinishedOf(
  cells: readonly OverCell[],
  steel: HeightMap,
  leftover: Float32Array,
  most: number,
  path: Motions,
): Unfinished | undefined {
  const bands = SLOPE_BANDS.flatMap(([from, to], k): UnfinishedBand[] => {
    const isLast = k === SLOPE_BANDS.length - 1;
    const own = cells.filter(({ slope }) => slope >= from && (slope < to || isLast));
    if (own.length === 0) return [];
    return [
      {
        from,
        to,
        area: own.reduce((sum, { area }) => sum + area, 0),
        thickest: own.reduce((thickest, { cell }) => Math.max(thickest, leftover[cell]!), 0),
      },
    ];
  });
  if (bands.length === 0) return undefined;
  const places = placesOf(cells, steel, leftover).map((place) => ({ ...place, motion: motionNear(path, place) }));
  return { most, bands, places };
}

/** The largest places: from their thickest cell on to all that touch, at a side or a corner, and are thick enough. */
function placesOf(
  cells: readonly OverCell[],
  steel: HeightMap,
  leftover: Float32Array,
): Omit<UnfinishedPlace, 'motion'>[] {
  const { nx, cell: side, x0, y0, heights } = steel;
  const open = new Map(cells.map((c) => [c.cell, c]));
  const places: { place: Omit<UnfinishedPlace, 'motion'>; volume: number }[] = [];
  for (const first of [...cells].sort((a, b) => leftover[b.cell]! - leftover[a.cell]!)) {
    if (!open.delete(first.cell)) continue;
    const thickest = leftover[first.cell]!;
    let area = 0;
    let volume = 0;
    const waiting = [first];
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      area += next.area;
      volume += next.area * leftover[next.cell]!;
      const column = next.cell % nx;
      for (let dj = -1; dj <= 1; dj++)
        for (let di = -1; di <= 1; di++) {
          if (column + di < 0 || column + di >= nx) continue;
          const beside = open.get(next.cell + dj * nx + di);
          if (!beside || leftover[beside.cell]! < PLACE_SHARE * thickest) continue;
          open.delete(beside.cell);
          waiting.push(beside);
        }
    }
    const x = x0 + ((first.cell % nx) + 0.5) * side;
    const y = y0 + (Math.floor(first.cell / nx) + 0.5) * side;
    const place = { x, y, z: heights[first.cell]!, area, thickest, slope: first.slope };
    places.push({ place, volume });
  }
  places.sort((a, b) => b.volume - a.volume);
  return places.slice(0, PLACES_TOLD).map(({ place }) => place);
}
