/** Speeds of the kernels on made-up parts of 20 k, 100 k and 1 M triangles, one thread. `--json FILE` writes them too. */
import { writeFileSync } from 'node:fs';
import { ClosestPoint } from '../packages/core/src/geometry/closest';
import { contactMesh } from '../packages/core/src/geometry/contactMesh';
import { weld } from '../packages/core/src/geometry/mesh';
import { CutterDrop, ProfileDrop } from '../packages/core/src/tool/drop';
import { type ProfilePiece, roundProfile, stackProfile } from '../packages/core/src/tool/profile';
import { LevelCurves } from '../packages/core/src/field/levelCurves';
import { fillTipGrid, tipGridOver, TipSurface } from '../packages/core/src/field/tipSurface';
import { Motion, type Toolpath } from '../packages/core/src/path/toolpath';
import { sharedFloat32, sharedFloat64, sharedUint8 } from '../packages/core/src/base/shared';
import { CancelFlag } from '../packages/core/src/base/cancel';
import { type Crew, crewOf, spansOf } from '../packages/core/src/crew/crew';
import { machineTask } from '../packages/core/src/simulate/runOver';
import { tipRows } from '../packages/core/src/field/sampling';
import { levelLoopsTask } from '../packages/core/src/levels/loops';
import { coarseMap } from '../packages/core/src/steel/coarse';
import { startThreads } from '../packages/cli/src/crew';
import { blockMap, copyMap } from '../packages/core/src/steel/heightMap';
import { type BandHistory, restoreBand } from '../packages/core/src/steel/history';
import { machineBand } from '../packages/core/src/simulate/machining';
import { Sweep, TILE } from '../packages/core/src/steel/sweep';
import { sheet } from '../packages/core/test/shapes';

type Round = ProfilePiece & { kind: 'round' };
interface Row {
  name: string;
  unit: string;
  value: number;
}

const rows: Row[] = [];
function tell(name: string, unit: string, value: number): void {
  rows.push({ name, unit, value });
  console.log(`${name.padEnd(58)} ${value.toPrecision(4).padStart(10)} ${unit}`);
}

function seconds(work: () => void): number {
  const start = process.hrtime.bigint();
  work();
  return Number(process.hrtime.bigint() - start) / 1e9;
}

/** A cavity-like sheet of 170 x 130 mm with waves, a bowl and a cone. */
const surface = (x: number, y: number): number => {
  const r = Math.hypot(x, y);
  const bowl = r < 50 ? -40 * Math.min(1, (50 - r) / 4) : 0;
  return bowl + (r < 20 ? (20 - r) * 1.7 : 0) + 1.5 * Math.sin(x / 9) * Math.cos(y / 7);
};

const CUTTERS: [string, Round][] = [
  ['flat 10', roundProfile(10, 0) as Round],
  ['ball 6', roundProfile(6, 3) as Round],
  ['ball 16', roundProfile(16, 8) as Round],
  ['bull-nose 16 R2', roundProfile(16, 2) as Round],
];

for (const [label, triangles] of [
  ['20 k', 20_000],
  ['100 k', 100_000],
  ['1 M', 1_000_000],
] as const) {
  // half of a sheet's triangles lie on top
  const step = Math.sqrt((170 * 130 * 4) / triangles);
  const { mesh } = weld(sheet([-85, -65, 85, 65], step, -60, surface));
  let contact = contactMesh(mesh);
  tell(
    `prepare, ${label}`,
    's',
    seconds(() => (contact = contactMesh(mesh))),
  );
  const raster = (visit: (x: number, y: number) => void, n: number): number => {
    const side = Math.floor(Math.sqrt(n));
    return (
      (seconds(() => {
        for (let j = 0; j < side; j++)
          for (let i = 0; i < side; i++) visit(-80 + (160 * i) / side, -60 + (120 * j) / side);
      }) /
        side ** 2) *
      1e6
    );
  };
  for (const [name, piece] of CUTTERS) {
    const drop = new CutterDrop(contact, piece);
    raster((x, y) => drop.at(x, y), 4000);
    tell(
      `drop ${name}, ${label}`,
      'µs',
      raster((x, y) => drop.at(x, y), 40_000),
    );
  }
  const holder = new ProfileDrop(
    contact,
    stackProfile(
      [
        { bottomDiameter: 27, topDiameter: 32, length: 34 },
        { bottomDiameter: 40, topDiameter: 50, length: 28 },
        { bottomDiameter: 62, topDiameter: 62, length: 26 },
      ],
      50,
    ),
  );
  tell(
    `drop holder R 31, ${label}`,
    'µs',
    raster((x, y) => holder.at(x, y), 10_000),
  );
  const closest = new ClosestPoint(contact);
  tell(
    `nearest point, 0.5 mm off, ${label}`,
    'µs',
    raster((x, y) => closest.distance(x, y, surface(x, y) + 0.5), 20_000),
  );
  if (triangles === 100_000) {
    const tip = new TipSurface({ mesh: contact, piece: CUTTERS[3]![1], side: 0.4, floor: 0.3 });
    const grid = tipGridOver(contact.box, tip.reach + 1, 0.5);
    const fill = seconds(() => fillTipGrid(grid, tip, 0, grid.ny));
    const trace = seconds(() => {
      const curves = new LevelCurves(grid, tip);
      for (let k = 0; k < 60; k++) curves.at(0.3 - k * 0.66);
    });
    tell('60 levels, bull-nose 16 R2, 100 k, grid 0.5', 's', fill + trace);
  }
}

for (const [name, piece, cell, length] of [
  ['finish moves 0.5 mm, ball 6, cell 0.1', CUTTERS[1]![1], 0.1, 0.5],
  ['finish moves 0.5 mm, ball 6, cell 0.2', CUTTERS[1]![1], 0.2, 0.5],
  ['rough moves 3 mm, bull-nose 16 R2, cell 0.1', CUTTERS[3]![1], 0.1, 3],
] as const) {
  const map = blockMap({ minX: -85, minY: -65, minZ: -60, maxX: 85, maxY: 65, maxZ: 0 }, cell);
  const sweep = new Sweep(map, piece);
  const n = length < 1 ? 60_000 : 6000;
  const side = length < 1 ? 0.5 : 7;
  let [x, y, way] = [-80, -60, 1];
  const time = seconds(() => {
    for (let k = 0; k < n; k++) {
      const next = x + way * length;
      const z = (at: number): number => (length < 1 ? -2 + Math.sin(at / 9) : -2);
      sweep.move(x, y, z(x), next, y, z(next), Math.abs(next) <= 80);
      x = next;
      if (Math.abs(x) > 80) {
        way = -way;
        y = y > 60 ? -60 : y + side;
      }
    }
  });
  tell(`stock, ${name}`, 'moves/s', n / time);
}
{
  // a finish of a million moves: the state at any of them, from the history that its run writes
  const block = blockMap({ minX: -85, minY: -65, minZ: -60, maxX: 85, maxY: 65, maxZ: 0 }, 0.2);
  const n = 1_000_000;
  const path = { x: new Float64Array(n), y: new Float64Array(n), z: new Float64Array(n), kind: new Uint8Array(n) };
  const passes = 3125;
  for (let k = 0; k < n; k++) {
    const pass = Math.floor((k * passes) / n);
    const along = (k % (n / passes)) / (n / passes);
    path.x[k] = -80 + 160 * (pass % 2 ? 1 - along : along);
    path.y[k] = -60 + (120 * pass) / passes;
    path.z[k] = -2 + Math.sin(path.x[k]! / 9);
    path.kind[k] = Motion.cut;
  }
  const toolpath: Toolpath = { ...path, feed: new Float32Array(n).fill(1000) };
  const body = { piece: CUTTERS[1]![1], shank: [], holder: [], stickOut: 50, fluteLength: 50 };
  const marks = Uint32Array.from({ length: n / 300 - 1 }, (_, k) => (k + 1) * 300);
  const map = copyMap(block);
  const bands = spansOf(map.ny, 12, TILE);
  let histories: BandHistory[] = [];
  const run = seconds(() => {
    histories = bands.map((rows) => machineBand(map, rows, body, toolpath, [0, n], { marks }).history);
  });
  tell('1 M moves through 12 bands, ball 6, cell 0.2', 's', run);
  const [loaded, isLoadWanted] = [copyMap(block), true];
  const withLoad = seconds(() =>
    bands.forEach((rows) => machineBand(loaded, rows, body, toolpath, [0, n], { marks, isLoadWanted })),
  );
  tell('the same, looking at the load', 's', withLoad);
  let slowest = 0;
  for (let k = 0; k < 25; k++) {
    const motion = Math.floor(((k * 0.618) % 1) * n);
    const time = seconds(() => {
      const state = copyMap(block);
      for (const history of histories)
        machineBand(state, history.rows, body, toolpath, [
          Math.max(1, restoreBand(state, history, motion)),
          motion + 1,
        ]);
    });
    slowest = Math.max(slowest, time);
  }
  tell('state at any of 1 M moves, slowest of 25', 'ms', slowest * 1000);
  tell('history of 1 M moves', 'MB', histories.reduce((sum, h) => sum + h.heights.byteLength, 0) / 1e6);
}
{
  // the same work by one worker and by two, on shared memory
  const step = Math.sqrt((170 * 130 * 4) / 100_000);
  const contact = contactMesh(weld(sheet([-85, -65, 85, 65], step, -60, surface)).mesh);
  const spec = { mesh: contact, piece: CUTTERS[3]![1], side: 0.4, floor: 0.3 };
  const grid = tipGridOver(contact.box, 9.4, 0.5);
  const block = blockMap({ minX: -85, minY: -65, minZ: -60, maxX: 85, maxY: 65, maxZ: 0 }, 0.2);
  const n = 60_000;
  const path: Toolpath = {
    x: sharedFloat64(n),
    y: sharedFloat64(n),
    z: sharedFloat64(n),
    kind: sharedUint8(n).fill(Motion.cut),
    feed: sharedFloat32(n).fill(1000),
  };
  for (let k = 0; k < n; k++) {
    const pass = Math.floor(k / 320);
    path.x[k] = -80 + 0.5 * (pass % 2 ? 319 - (k % 320) : k % 320);
    path.y[k] = -60 + 0.64 * pass;
    path.z[k] = -2 + Math.sin(path.x[k]! / 9);
  }
  const body = { piece: CUTTERS[1]![1], shank: [], holder: [], stickOut: 50, fluteLength: 50 };
  const within = Float64Array.from([-94, -74, 94, -74, 94, 74, -94, 74]);
  const works: [string, (crew: Crew) => Promise<unknown>][] = [
    [
      'drops',
      (crew) =>
        crew.all(
          tipRows,
          spansOf(grid.ny, 24).map((rows) => ({ grid, spec, rows })),
        ),
    ],
    [
      'levels',
      (crew) =>
        crew.all(
          levelLoopsTask,
          spansOf(24, 12).map(([from, to]) => ({
            grid,
            spec,
            bounds: { closed: [], obstacles: [] },
            levels: Array.from({ length: to - from }, (_, k) => ({
              z: -0.5 - 1.6 * (from + k),
              above: 1.1 - 1.6 * (from + k),
            })),
            tolerance: 0.008,
            stairs: null,
            cornerRadius: 0,
            cornerLoad: null,
            pattern: 'auto',
            wallLoops: null,
            angle: 0,
            direction: 'climb',
            ae: 7.2,
            within,
            outside: 1,
            steel: coarseMap(block, 2),
            radius: 8,
          })),
        ),
    ],
    [
      'stock',
      (crew) => {
        const map = copyMap(block);
        return crew.all(
          machineTask,
          spansOf(map.ny, 12, TILE).map((rows) => ({
            map,
            rows,
            body,
            path,
            marks: new Uint32Array(),
            isLoadWanted: true,
          })),
        );
      },
    ],
  ];
  const workers = [startThreads(1), startThreads(2)];
  const crews = workers.map(({ callers }) => crewOf(callers, new CancelFlag()));
  for (const [name, work] of works) {
    // in turn and by the middle of nine: a machine that others use too swings from round to round
    const times: number[][] = [[], []];
    for (let round = 0; round < 9; round++)
      for (const [k, crew] of crews.entries()) {
        const start = performance.now();
        await work(crew);
        times[k]!.push(performance.now() - start);
      }
    const middle = times.map((all) => all.sort((a, b) => a - b)[4]!);
    tell(`two workers against one, ${name}`, 'x', middle[0]! / middle[1]!);
  }
  await Promise.all(workers.map(({ stop }) => stop()));
}
/** How a figure grows over a range of sizes, from the rows so far. */
function growth(what: string, from: string, to: string): void {
  const value = (name: string): number => rows.find((r) => r.name === name)?.value ?? NaN;
  tell(`growth of ${what}`, 'x', value(to) / value(from));
}
for (const [name] of CUTTERS) growth(`drop ${name}, 20 k to 1 M triangles`, `drop ${name}, 20 k`, `drop ${name}, 1 M`);
growth('drop, ball 6 to ball 16, 100 k', 'drop ball 6, 100 k', 'drop ball 16, 100 k');
growth('preparing, 20 k to 1 M triangles', 'prepare, 20 k', 'prepare, 1 M');
growth(
  'moves a second, cell 0.2 to 0.1',
  'stock, finish moves 0.5 mm, ball 6, cell 0.2',
  'stock, finish moves 0.5 mm, ball 6, cell 0.1',
);
tell('memory in use', 'MB', process.memoryUsage().rss / 1e6);

const at = process.argv.indexOf('--json');
if (at > 0) writeFileSync(process.argv[at + 1] ?? 'bench.json', JSON.stringify(rows, null, 2));
