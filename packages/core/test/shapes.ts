import { type TriangleMesh, weld } from '../src/geometry/mesh';
import { CancelFlag } from '../src/base/cancel';
import { callHere, type Crew, crewOf } from '../src/crew/crew';
import { Piece } from '../src/evaluate/piece';
import { type RunWork, Session } from '../src/evaluate/session';
import { Motion, type Toolpath } from '../src/path/toolpath';
import { BOUNDS_NOT_TOLD, type Crib, type Cutter, type CutterKind } from '../src/tool/library';
import { type Job, parseJob } from '../src/job/job';
import { kindOf } from '../src/strategy/registry';
import { shapeInCrib } from '../src/tool/shape';

/** Made-up parts as triangle soups, and a made-up shop to cut them in. Lengths in mm. */

export type Soup = number[];

function quad(a: number[], b: number[], c: number[], d: number[]): Soup {
  return [...a, ...b, ...c, ...a, ...c, ...d];
}

/** A closed body below the surface z = height(x, y) over a rectangle, down to `floor`. */
export function sheet(
  [x0, y0, x1, y1]: readonly [number, number, number, number],
  step: number,
  floor: number,
  height: (x: number, y: number) => number,
): Soup {
  const nx = Math.round((x1 - x0) / step);
  const ny = Math.round((y1 - y0) / step);
  const at = (i: number, j: number): number[] => {
    const x = x0 + ((x1 - x0) * i) / nx;
    const y = y0 + ((y1 - y0) * j) / ny;
    return [x, y, height(x, y)];
  };
  const under = (p: number[]): number[] => [p[0]!, p[1]!, floor];
  const soup: Soup = [];
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      soup.push(...quad(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)));
      soup.push(...quad(under(at(i, j)), under(at(i, j + 1)), under(at(i + 1, j + 1)), under(at(i + 1, j))));
    }
  for (let i = 0; i < nx; i++) {
    soup.push(...quad(under(at(i, 0)), under(at(i + 1, 0)), at(i + 1, 0), at(i, 0)));
    soup.push(...quad(under(at(i + 1, ny)), under(at(i, ny)), at(i, ny), at(i + 1, ny)));
  }
  for (let j = 0; j < ny; j++) {
    soup.push(...quad(under(at(0, j + 1)), under(at(0, j)), at(0, j), at(0, j + 1)));
    soup.push(...quad(under(at(nx, j)), under(at(nx, j + 1)), at(nx, j + 1), at(nx, j)));
  }
  return soup;
}

/** A closed body that a profile of radii and heights, from the axis at the top round to the axis at the bottom, makes about Z. */
export function revolved(profile: readonly (readonly [r: number, z: number])[], sectors = 120): Soup {
  const soup: Soup = [];
  const at = (k: number, s: number): number[] => {
    const [r, z] = profile[k]!;
    const a = (2 * Math.PI * (s % sectors)) / sectors;
    return [r * Math.cos(a), r * Math.sin(a), z];
  };
  for (let k = 0; k + 1 < profile.length; k++)
    for (let s = 0; s < sectors; s++) {
      const [a, b, c, d] = [at(k, s), at(k + 1, s), at(k + 1, s + 1), at(k, s + 1)];
      if (profile[k]![0] === 0) soup.push(...a, ...b, ...c);
      else if (profile[k + 1]![0] === 0) soup.push(...a, ...b, ...d);
      else soup.push(...quad(a, b, c, d));
    }
  return soup;
}

/** A block of half width `outer`, from `floor` to 0, with a square pocket of half width `half`, `depth` deep. */
export function squarePocket(outer: number, half: number, depth: number, floor: number): Soup {
  const ring = (s: number, z: number): number[][] => [
    [-s, -s, z],
    [s, -s, z],
    [s, s, z],
    [-s, s, z],
  ];
  const [top, mouth, bottom, under] = [ring(outer, 0), ring(half, 0), ring(half, -depth), ring(outer, floor)];
  const soup: Soup = [];
  for (let k = 0; k < 4; k++) {
    const n = (k + 1) % 4;
    soup.push(...quad(top[k]!, top[n]!, mouth[n]!, mouth[k]!));
    soup.push(...quad(mouth[k]!, mouth[n]!, bottom[n]!, bottom[k]!));
    soup.push(...quad(under[k]!, under[n]!, top[n]!, top[k]!));
  }
  soup.push(...quad(bottom[0]!, bottom[1]!, bottom[2]!, bottom[3]!));
  soup.push(...quad(under[3]!, under[2]!, under[1]!, under[0]!));
  return soup;
}

export function meshOf(soup: Soup): TriangleMesh {
  return weld(soup).mesh;
}

/** A path through points, cutting where nothing else is said; all at one feed. */
export function pathOf(points: readonly (readonly [number, number, number, Motion?])[]): Toolpath {
  return {
    x: Float64Array.from(points, (p) => p[0]),
    y: Float64Array.from(points, (p) => p[1]),
    z: Float64Array.from(points, (p) => p[2]),
    kind: Uint8Array.from(points, (p) => p[3] ?? Motion.cut),
    feed: new Float32Array(points.length).fill(1000),
  };
}

export function crewHere(): Crew {
  return crewOf([callHere], new CancelFlag());
}

/** Work in this thread that nobody watches. */
export const workHere: RunWork = {
  crew: (cancel) => crewOf([callHere], cancel),
  onProgress: () => undefined,
};

/** A session that has taken a job with its part in. */
export function sessionOf(job: Job, part: TriangleMesh | Soup, session = new Session()): Session {
  session.take(job, Piece.of(job, { part: Array.isArray(part) ? meshOf(part) : part, key: 'part' }));
  return session;
}

/** A session whose steps are calculated, up to one of them or all. */
export async function calculated(
  job: Job,
  part: TriangleMesh | Soup,
  { work = workHere, through }: { work?: RunWork; through?: string } = {},
): Promise<Session> {
  const session = sessionOf(job, part);
  await session.calculate(work, through);
  return session;
}

export function testCrib(): Crib {
  const holder = {
    id: 'h',
    kind: 'other' as const,
    DCONWS: null,
    clampFrom: null,
    spindle: '',
    name: 'Holder',
    stack: [
      { bottomDiameter: 20, topDiameter: 30, length: 30 },
      { bottomDiameter: 50, topDiameter: 50, length: 30 },
    ],
  };
  const cutter = (id: string, kind: 'flat' | 'ball' | 'bull', DC: number, RE: number, APMX: number) => ({
    id,
    name: id,
    kind,
    DC,
    RE,
    APMX,
    DMM: DC - 0.4,
    DN: null,
    LN: null,
    ...BOUNDS_NOT_TOLD,
    neckTaper: 0,
    neckCone: 30,
    OAL: 150,
    ZEFP: 4,
    centreCutting: false,
    SIG: 0,
    TP: 0,
    grade: 'HC' as const,
    DCONMS: null,
  });
  const assembly = (number: number, cutterId: string, stickOut: number) => ({
    id: `t${number}`,
    number,
    cutterId,
    holderId: 'h',
    extensionIds: [],
    stickOut,
    lengthOffset: null,
    radiusOffset: null,
    n: 4000,
    fz: 0.1,
    mostBending: null,
    mostChip: null,
    data: null,
    retired: false,
    measuredLength: null,
    measuredDiameter: null,
    measuredRadius: null,
    asMeasured: false,
  });
  return {
    cutters: [
      cutter('flat25', 'flat', 25, 0, 40),
      cutter('bull12', 'bull', 12, 1.5, 25),
      cutter('ball8', 'ball', 8, 4, 20),
      cutter('flat5', 'flat', 5, 0, 15),
    ],
    holders: [holder],
    extensions: [],
    assemblies: [
      assembly(1, 'flat25', 60),
      assembly(2, 'bull12', 50),
      assembly(3, 'ball8', 45),
      assembly(4, 'flat5', 30),
    ],
  };
}

/** A cutter in its holder: kind, DC, RE, APMX, DMM and how far it stands out, mm; and what else is to be told of it. */
export type EndMill = readonly [CutterKind, number, number, number, number, number, Partial<Cutter>?];

/** A crib of end mills by the ids of their assemblies, all in the made-up holder. */
export function cribOf(endMills: Record<string, EndMill>): Crib {
  const { cutters, assemblies, ...rest } = testCrib();
  const all = Object.entries(endMills);
  return {
    ...rest,
    cutters: all.map(([id, [kind, DC, RE, APMX, DMM, , more]]) => ({
      ...cutters[0]!,
      id: `cutter-${id}`,
      name: id,
      kind,
      DC,
      RE,
      APMX,
      DMM,
      OAL: 200,
      ...more,
    })),
    assemblies: all.map(([id, [, , , , , stickOut]], k) => ({
      ...assemblies[0]!,
      id,
      number: k + 1,
      cutterId: `cutter-${id}`,
      stickOut,
    })),
  };
}

/** A job whose work zero is the top middle of a block that is just the part's box, `above` mm higher. */
export function testJob(
  steps: { kind: string; assemblyId: string; values?: Record<string, unknown> }[],
  above = 0,
  change: Partial<Job> = {},
): Job {
  const crib = change.crib ?? testCrib();
  return parseJob({
    id: 'test',
    name: 'Test',
    part: { file: 'part.stl', unit: 'mm' },
    material: { name: 'C45', group: 'P', kc11: 2220, mc: 0.14, density: 7.85 },
    blank: { kind: 'offset', minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: above },
    setup: {
      name: 'first side',
      workZero: { of: 'part', x: 'middle', y: 'middle', z: 'high' },
      workOffset: 'G54',
      safeHeight: 10,
      machine: { name: 'Made up', rapid: 15000, acceleration: 2000, toolChange: 6, maxSpindle: 12000, maxFeed: 8000 },
      post: 'word-address',
    },
    crib,
    steps: steps.map((s, i) => ({
      id: `s${i + 1}`,
      name: `Step ${i + 1}`,
      kind: s.kind,
      assemblyId: s.assemblyId,
      values: { ...kindOf(s.kind)!.house(shapeInCrib(crib, s.assemblyId)!), ...s.values },
      limits: [],
    })),
    cell: 0.25,
    ...change,
  });
}
