import { type Crew, spansOf } from '../../crew/crew';
import { defineTask } from '../../crew/task';
import type { GroundNet } from '../../field/netGround';
import { OnSurface } from '../../field/onSurface';
import { thinned, type Vec, waysThrough } from '../../field/placeWays';
import { SweptBalls } from '../../check/sweptBalls';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import { markKept } from '../../geometry/polygon';
import { Motion, type Motions, PathBuilder } from '../../path/toolpath';
import type { ScanRun } from '../scan';

/** A ridge is left up to this height, as a share of the one that is asked for. */
const LEAVE = 1.15;
/** In side steps on a plane: places nearer than this are one, and neighbours up to that far apart. */
const SAME_SHARE = 0.33;
const NEAR_SHARE = 1.1;
/** A line along a ridge is freed of its places' scatter to this share of a side step, and goes on beyond its ends by so much. */
const STEADY_SHARE = 0.12;
const ON_SHARE = 0.3;
/** The pass that cleared a place lies no farther than this, in side steps, or three times as far where a ball rolls over an edge. */
const CELL_SHARE = 1.3;
/** Pieces in which places are measured: each finds the passes anew. */
const PIECES = 3;

interface Crests {
  readonly path: Motions;
  readonly spec: TipSurfaceSpec;
  /** Middles of the round near the surface, x, y, z one after another; with their normals where they lie on it. */
  readonly places: Float64Array;
  readonly normals?: Float64Array;
  /** Their numbers begin with this. */
  readonly first: number;
  /** Ridges up to this are left, mm. */
  readonly leave: number;
  /** Side of the cubes in which passes are looked up, mm. */
  readonly cell: number;
  readonly rows: readonly [number, number];
}

/** Number, height, and place of the round's middle for each of the places at which a higher ridge stands. */
export const crestsTask = defineTask(
  'crests',
  ({ path, spec, places, normals, first, leave, cell, rows }: Crests, cancel): Float64Array => {
    const on = new OnSurface(spec);
    const swept = new SweptBalls(path, spec.piece.corner, cell);
    const r = spec.piece.corner;
    const out: number[] = [];
    for (let k = rows[0]; k < rows[1]; k++) {
      if ((k & 255) === 0) cancel.check();
      let [x, y, z] = [places[3 * k]!, places[3 * k + 1]!, places[3 * k + 2]!];
      if (!normals) {
        on.put(x, y, z);
        ({ x, y, z } = on);
      }
      const [nx, ny, nz] = normals
        ? [normals[3 * k]!, normals[3 * k + 1]!, normals[3 * k + 2]!]
        : [on.nx, on.ny, on.nz];
      const height = swept.above({ x: x - r * nx, y: y - r * ny, z: z - r * nz, nx, ny, nz });
      if (height > leave) out.push(first + k, height, x, y, z);
    }
    return Float64Array.from(out);
  },
);
const EACH = 5;

/** A line along a ridge that is too high: middles of the round, and the number of the place where it begins. */
export interface Crest {
  readonly points: Float64Array;
  readonly place: number;
}

/**
 * Lines along ridges that passes leave higher than they were asked to.
 *
 * @param doubtful places near the surface where they may be; those after them are the ground's own vertices
 */
export async function highCrests(
  runs: readonly ScanRun[],
  doubtful: Float64Array,
  ground: Pick<GroundNet, 'centres' | 'normals' | 'count'>,
  ask: { readonly spec: TipSurfaceSpec; readonly scallop: number; readonly sideStep: number },
  crew: Crew,
  onDone: (share: number) => void,
): Promise<Crest[]> {
  const path = pathOf(runs);
  const own = { path, spec: ask.spec, leave: LEAVE * ask.scallop, cell: CELL_SHARE * ask.sideStep };
  const many = doubtful.length / 3;
  const inputs: Crests[] = spansOf(ground.count, PIECES).map((rows) => ({
    ...own,
    places: ground.centres,
    normals: ground.normals,
    first: many,
    rows,
  }));
  inputs.push({ ...own, places: doubtful, first: 0, rows: [0, many] });
  const found = await crew.all(crestsTask, inputs, (done) => onDone(done / inputs.length));
  const highs = found.flatMap((values) =>
    Array.from({ length: values.length / EACH }, (_, k) => {
      const [place, height, x, y, z] = values.subarray(EACH * k, EACH * k + EACH);
      return { place: place!, height: height!, at: [x!, y!, z!] as Vec };
    }),
  );
  highs.sort((a, b) => b.height - a.height || a.place - b.place);
  const { sideStep } = ask;
  const kept = thinned(highs, ({ at }) => at, SAME_SHARE * sideStep);
  const ways = waysThrough(
    kept.map(({ at }) => at),
    NEAR_SHARE * sideStep,
  );
  const isIn = new Set(ways.flatMap((way) => way.places));
  const alone = [...kept.keys()].filter((k) => !isIn.has(k)).map((k) => ({ places: [k], isClosed: false }));
  return [...ways, ...alone].map((way) => ({
    points: steadied(
      way.places.map((k) => kept[k]!.at),
      way.isClosed,
      sideStep,
    ),
    place: kept[way.places[0]!]!.place,
  }));
}

/** Passes one after another as a path. */
function pathOf(runs: readonly ScanRun[]): Motions {
  const path = new PathBuilder();
  for (const { points } of runs)
    for (let o = 0; o < points.length; o += 3)
      path.to(points[o]!, points[o + 1]!, points[o + 2]!, o === 0 ? Motion.rapid : Motion.cut);
  return path.build();
}

function steadied(way: Vec[], isClosed: boolean, sideStep: number): Float64Array {
  const all = isClosed ? [...way, way[0]!] : way;
  const n = all.length;
  const keep = new Uint8Array(n);
  keep[0] = keep[n - 1] = keep[n >> 1] = 1;
  const flat = all.flat();
  markKept(flat, 3, 0, n >> 1, STEADY_SHARE * sideStep, keep);
  markKept(flat, 3, n >> 1, n - 1, STEADY_SHARE * sideStep, keep);
  const kept = all.filter((_, k) => keep[k]);
  if (isClosed) return Float64Array.from(kept.flat());
  const on = ON_SHARE * sideStep;
  return Float64Array.from([beyond(kept[1], kept[0]!, -on), ...kept, beyond(kept.at(-2), kept.at(-1)!, on)].flat());
}

/** Beyond an end, away from the place before it; along X where there is none. */
function beyond(before: Vec | undefined, end: Vec, by: number): Vec {
  const d = before ? (end.map((v, k) => v - before[k]!) as Vec) : ([0, 0, 0] as Vec);
  const l = Math.hypot(...d);
  if (l < 1e-9) return [end[0] + by, end[1], end[2]];
  return end.map((v, k) => v + (d[k]! / l) * Math.abs(by)) as Vec;
}
