/**
 * Writes the demo's jobs beside its parts: those named by their ids, or all. Everything in them is made up.
 * `npx tsx demo/make-jobs.ts [ID …]`
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  type Assembly,
  BOUNDS_NOT_TOLD,
  type Crib,
  type Cutter,
  cutterSchema,
  type Job,
  jobFile,
  kindOf,
  parseJob,
  shapeInCrib,
  usualAssembly,
  usualCutter,
} from '@esquisse/core';

const OUT = join(dirname(fileURLToPath(import.meta.url)), 'jobs');

function cutter(
  id: string,
  kind: 'flat' | 'ball' | 'bull',
  DC: number,
  RE: number,
  APMX: number,
  neck: number,
  OAL: number,
  ZEFP: number,
): Cutter {
  const words = { flat: 'Flat', ball: 'Ball', bull: 'Bull-nose' };
  return {
    id,
    name: `${words[kind]} ${DC}${kind === 'bull' ? ` R${RE}` : ''}`,
    kind,
    DC,
    RE,
    APMX,
    DMM: neck,
    DN: null,
    LN: null,
    ...BOUNDS_NOT_TOLD,
    neckTaper: 0,
    neckCone: 30,
    OAL,
    ZEFP,
    SIG: 0,
    TP: 0,
    centreCutting: kind !== 'bull',
    grade: 'HC',
    DCONMS: Math.max(6, 2 * Math.ceil(DC / 2)),
  };
}

/** Speed from vc = 1000 / π d n, at most what the made-up machine turns. */
function assembly(number: number, c: Cutter, holderId: string, stickOut: number, vc: number, fz: number): Assembly {
  const n = Math.min(18_000, Math.round((1000 * vc) / (Math.PI * c.DC) / 10) * 10);
  return {
    id: `t${number}`,
    number,
    cutterId: c.id,
    holderId,
    extensionIds: [],
    stickOut,
    lengthOffset: null,
    radiusOffset: null,
    n,
    fz,
    mostBending: null,
    mostChip: null,
    data: null,
    retired: false,
    measuredLength: null,
    measuredDiameter: null,
    measuredRadius: null,
    asMeasured: false,
  };
}

function crib(): Crib {
  const cutters = [
    cutter('bull-16', 'bull', 16, 2, 24, 15.2, 120, 4),
    cutter('bull-8', 'bull', 8, 1, 16, 7.5, 100, 4),
    cutter('ball-10', 'ball', 10, 5, 22, 9.4, 110, 2),
    cutter('ball-6', 'ball', 6, 3, 18, 5.6, 100, 2),
    cutter('flat-10', 'flat', 10, 0, 20, 9.5, 100, 4),
    cutter('ball-4', 'ball', 4, 2, 6, 3.8, 80, 2),
  ];
  const holders = [
    {
      id: 'shrink-32',
      name: 'Shrink-fit 32',
      kind: 'shrink-fit' as const,
      clampFrom: null,
      DCONWS: null,
      spindle: 'HSK-A 63, ISO 12164',
      stack: [
        { bottomDiameter: 27, topDiameter: 32, length: 34 },
        { bottomDiameter: 40, topDiameter: 50, length: 28 },
        { bottomDiameter: 63, topDiameter: 63, length: 26 },
      ],
    },
    {
      id: 'slim-20',
      name: 'Slim shrink-fit 20',
      kind: 'shrink-fit' as const,
      clampFrom: null,
      DCONWS: null,
      spindle: 'HSK-A 63, ISO 12164',
      stack: [
        { bottomDiameter: 13, topDiameter: 20, length: 40 },
        { bottomDiameter: 26, topDiameter: 40, length: 30 },
        { bottomDiameter: 63, topDiameter: 63, length: 26 },
      ],
    },
  ];
  const extensions = [
    {
      id: 'ext-6-12',
      name: 'Shrink-fit extension 6 to 12',
      clampFrom: null,
      DCONWS: 6,
      DCONMS: 12,
      stack: [{ bottomDiameter: 10, topDiameter: 12, length: 50 }],
    },
  ];
  const [b16, b8, k10, k6, f10, k4] = cutters as [Cutter, Cutter, Cutter, Cutter, Cutter, Cutter];
  return {
    cutters,
    holders,
    extensions,
    assemblies: [
      assembly(1, b16, 'shrink-32', 60, 180, 0.12),
      assembly(2, b8, 'slim-20', 58, 160, 0.06),
      assembly(3, k10, 'shrink-32', 60, 220, 0.09),
      assembly(4, k6, 'slim-20', 58, 200, 0.06),
      assembly(5, f10, 'shrink-32', 45, 160, 0.06),
      assembly(6, k4, 'slim-20', 40, 160, 0.04),
    ],
  };
}

interface Plan {
  kind: string;
  name: string;
  assemblyId: string;
  values: Record<string, number | string | null>;
}

function job(
  id: string,
  name: string,
  setup: string,
  file: string,
  steps: Plan[],
  tools = crib(),
  { cell = null as number | null, above = 1, from = 'crib' as 'crib' | 'cut' } = {},
): Job {
  return parseJob({
    id,
    name,
    part: { file: `../parts/${file}`, unit: 'mm' },
    material: { name: '40CrMnMo7, pre-hardened 300 HB', group: 'P', kc11: 2500, mc: 0.26, hardness: 300, density: 7.8 },
    blank: { kind: 'offset', minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: above },
    setup: {
      name: setup,
      workZero: { of: 'block', x: 'middle', y: 'middle', z: 'high' },
      workOffset: 'G54',
      safeHeight: 20,
      machine: {
        name: 'Three-axis machining centre',
        travelX: 800,
        travelY: 600,
        travelZ: 500,
        minSpindle: 50,
        power: 15,
        torque: 80,
        rapid: 20_000,
        acceleration: 3000,
        maxSpindle: 18_000,
        maxFeed: 12_000,
      },
      post: 'word-address',
    },
    crib: tools,
    steps: steps.map((s, i) => ({
      id: `s${i + 1}`,
      name: s.name,
      kind: s.kind,
      assemblyId: s.assemblyId,
      values: { ...kindOf(s.kind)!.house(shapeInCrib(tools, s.assemblyId)!), ...s.values },
      cutting: { from },
    })),
    cell,
  });
}

const opening: Plan = { kind: 'level-roughing', name: 'Open up', assemblyId: 't1', values: {} };
const skin = (allowance: number): Plan => ({
  kind: 'parallel-passes',
  name: 'Even skin',
  assemblyId: 't3',
  values: { allowance, scallop: 0.05, tolerance: 0.02, mostSteel: 3, angleDeg: 45 },
});
const finish: Plan = { kind: 'parallel-passes', name: 'Finish', assemblyId: 't4', values: { scallop: 0.01 } };

/** Two sizes far apart, for what a large cutter leaves in a corner and a small one takes. */
function cornerCrib(): Crib {
  const tools = crib();
  const f25 = cutter('flat-25', 'flat', 25, 0, 30, 24, 130, 4);
  const f5 = cutter('flat-5', 'flat', 5, 0, 14, 4.8, 80, 4);
  return {
    ...tools,
    cutters: [...tools.cutters, f25, f5],
    assemblies: [
      ...tools.assemblies,
      assembly(7, f25, 'shrink-32', 50, 150, 0.1),
      assembly(8, f5, 'slim-20', 30, 150, 0.03),
    ],
  };
}

/** What a plate with pockets and holes wants. */
function plateCrib(): Crib {
  const tools = crib();
  const axial = (kind: Cutter['kind'], DC: number, more: Partial<Cutter>): Cutter => ({
    ...cutterSchema.parse({ id: `${kind}-${DC}`, ...usualCutter(kind, DC, more) }),
  });
  const cutters = [
    axial('spot', 10, { APMX: 20, DMM: 10, OAL: 90 }),
    axial('drill', 5, { APMX: 35, DMM: 6 }),
    axial('drill', 6.6, { APMX: 40, DMM: 8 }),
    axial('drill', 6.8, { APMX: 40, DMM: 8 }),
    axial('drill', 7.8, { APMX: 45, DMM: 8 }),
    axial('reamer', 8, { APMX: 25, DMM: 8, LN: 40, DN: 7.5, ZEFP: 6 }),
    axial('tap', 6, { APMX: 18, LN: 30, DN: 4.5, DMM: 6, ZEFP: 3, grade: 'HSS' }),
    axial('tap', 8, { APMX: 22, LN: 35, DN: 6, DMM: 8, ZEFP: 3, grade: 'HSS' }),
    axial('chamfer', 10, { APMX: 12, DMM: 10, ZEFP: 4 }),
    axial('flat', 6, { APMX: 13, DMM: 6 }),
  ];
  const number = 11;
  return {
    ...tools,
    cutters: [...tools.cutters, ...cutters],
    assemblies: [
      ...tools.assemblies,
      ...cutters.map((c, k) => ({
        ...usualAssembly({ id: `t${number + k}`, number: number + k, cutterId: c.id, holderId: 'slim-20' }, c),
        // until the step's own cut tells
        n: 1000,
      })),
    ],
  };
}

/** 2 mm are left on walls and floor; what stands in the corners is taken where more than a threshold is left above that. */
const corners = (threshold: number): Plan => ({
  kind: 'rest-roughing',
  name: `Corners, over ${threshold} mm`,
  assemblyId: 't8',
  values: { sideAllowance: 2, floorAllowance: 2, ap: 2.5, ae: 2, threshold, grow: 0, smallestArea: 0.05 },
});

const openCorners: Plan = {
  kind: 'rest-roughing',
  name: 'Open corners',
  assemblyId: 't2',
  values: { ap: 1, threshold: 0.5 },
};

const ids = process.argv.slice(2);
mkdirSync(OUT, { recursive: true });
for (const made of [
  job('citrus-cavity', 'Citrus press', 'cavity insert', 'citrus-cavity.step', [
    opening,
    openCorners,
    skin(0.15),
    finish,
  ]),
  job('citrus-cavity-finished', 'Citrus press', 'cavity finished', 'citrus-cavity.step', [
    opening,
    openCorners,
    {
      kind: 'rest-roughing',
      name: 'Open locks and gate',
      assemblyId: 't6',
      values: {
        ap: 0.5,
        ae: 1.2,
        threshold: 1.2,
        sideAllowance: 0.15,
        floorAllowance: 0.15,
        smallestOpening: 4.5,
        bottom: -16,
      },
    },
    skin(0.15),
    { kind: 'even-scallop', name: 'Finish', assemblyId: 't4', values: { scallop: 0.01 } },
    {
      kind: 'even-scallop',
      name: 'Finish locks and gate',
      assemblyId: 't6',
      values: { scallop: 0.01, restOf: 't4', bottom: -16 },
    },
  ]),
  job('citrus-core', 'Citrus press', 'core insert', 'citrus-core.step', [opening, skin(0.15), finish]),
  job('trowel-grip', 'Trowel grip', 'die half', 'trowel-grip.step', [opening, skin(0.15), finish]),
  job(
    'corner-check',
    'Corner check',
    'square pocket',
    'corner-check.step',
    [
      {
        kind: 'level-roughing',
        name: 'Open up',
        assemblyId: 't7',
        values: { sideAllowance: 2, floorAllowance: 2, ap: 5, ae: 10, smallestOpening: 30 },
      },
      corners(2),
      corners(0.1),
    ],
    cornerCrib(),
    { cell: 0.1, above: 0 },
  ),
  job(
    'base-plate',
    'Citrus press',
    'base plate',
    'base-plate.step',
    [
      { kind: 'level-roughing', name: 'Open up', assemblyId: 't1', values: { bottom: -21 } },
      { kind: 'rest-roughing', name: 'Open pockets', assemblyId: 't2', values: { threshold: 0.5 } },
      { kind: 'flats', name: 'Floors', assemblyId: 't5', values: {} },
      { kind: 'profile', name: 'Walls', assemblyId: 't5', values: { which: 'all' } },
      { kind: 'profile', name: 'Corners', assemblyId: 't20', values: { which: 'all', restOf: 't5' } },
      { kind: 'holes', name: 'Spot', assemblyId: 't11', values: {} },
      { kind: 'holes', name: 'Drill for M6', assemblyId: 't12', values: {} },
      { kind: 'holes', name: 'Drill for screws', assemblyId: 't13', values: { diameterTo: 6.62 } },
      { kind: 'holes', name: 'Drill for M8', assemblyId: 't14', values: {} },
      { kind: 'holes', name: 'Drill for dowels', assemblyId: 't15', values: {} },
      {
        kind: 'hole-milling',
        name: 'Room for heads',
        assemblyId: 't20',
        values: { diameterFrom: 10.9, diameterTo: 11.1 },
      },
      { kind: 'holes', name: 'Ream for dowels', assemblyId: 't16', values: {} },
      { kind: 'holes', name: 'Tap M6', assemblyId: 't17', values: {} },
      { kind: 'holes', name: 'Tap M8', assemblyId: 't18', values: {} },
      { kind: 'chamfering', name: 'Break the top edge', assemblyId: 't19', values: {} },
    ],
    plateCrib(),
    { from: 'cut' },
  ),
])
  if (ids.length === 0 || ids.includes(made.id))
    writeFileSync(join(OUT, `${made.id}.json`), JSON.stringify(jobFile(made), null, 2) + '\n');
