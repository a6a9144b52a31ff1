/**
 * Makes the demo's parts from formulas with a general-purpose solid modeller and writes each as STEP and STL.
 * Run by `npm run demo`; what it wrote is kept in demo/parts. All lengths in mm; Z up, the parting surface near Z 0.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import * as cad from 'replicad';
import type { Face, Point, Shape3D, Solid, Wire } from 'replicad';

type Point3 = [number, number, number];

const here = dirname(fileURLToPath(import.meta.url));
const OUT = join(here, 'parts');
const DRAFT = Math.tan((3 * Math.PI) / 180);
const MESH = { tolerance: 0.01, angularTolerance: 0.3 };

async function startModeller(): Promise<void> {
  const { default: init } = await import('replicad-opencascadejs');
  cad.setOC(await init());
}

const SECTORS = 4;
const PER_SECTOR = 24;

/** A smooth face through a grid of points. */
function patch(points: Point3[][]): Face {
  const oc = cad.getOC();
  const grid = new oc.NCollection_Array2_gp_Pnt(1, points.length, 1, points[0]!.length);
  points.forEach((row, i) => row.forEach((p, j) => grid.SetValue(i + 1, j + 1, new oc.gp_Pnt(...p))));
  const maker = new oc.GeomAPI_PointsToBSplineSurface();
  maker.Interpolate(grid, false);
  return cad.cast(new oc.BRepBuilderAPI_MakeFace(maker.Surface(), 1e-6).Face()) as Face;
}

/** One band of a turned-like body: at each of its heights a closed outline radius(θ). */
interface Band {
  z: number[];
  radius: (row: number) => (angle: number) => number;
}

/** A solid out of bands that follow one another upward, closed by level caps at both ends. */
function solidOfBands(bands: Band[]): Shape3D {
  // one patch a sector over all bands: patches then share their borders exactly
  const rows = bands.flatMap((band, b) =>
    band.z.map((z, row) => ({ z, radius: band.radius(row) })).slice(b > 0 ? 1 : 0),
  );
  const faces = Array.from({ length: SECTORS }, (_, s) =>
    patch(
      rows.map(({ z, radius }) =>
        Array.from({ length: PER_SECTOR + 1 }, (_, k): Point3 => {
          const a = ((s + k / PER_SECTOR) / SECTORS) * 2 * Math.PI;
          return [radius(a) * Math.cos(a), radius(a) * Math.sin(a), z];
        }),
      ),
    ),
  );
  const ends = [bands[0]!.z[0]!, bands[bands.length - 1]!.z.at(-1)!];
  const caps = ends.map((z) => {
    const edges = faces
      .flatMap((f) => f.edges)
      .filter((e) => e.boundingBox.bounds.every((corner) => Math.abs(corner[2] - z) < 1e-4));
    return cad.makeFace(cad.assembleWire(edges));
  });
  return cad.makeSolid([...faces, ...caps]) as Shape3D;
}

/** Height of the gently S-shaped parting surface. */
function parting(x: number, y: number): number {
  return 2.2 * Math.sin((Math.PI * x) / 85) + 0.8 * Math.sin((Math.PI * y) / 65);
}

/** Everything below the parting surface, down to `bottom`, over a plan of 170 x 130. */
function belowParting(bottom: number, shift = 0): Solid {
  const wires: Wire[] = [];
  for (let k = 0; k <= 16; k++) {
    const x = -85 + (170 * k) / 16;
    const crest: Point[] = [];
    for (let j = 0; j <= 24; j++) {
      const y = -65 + (130 * j) / 24;
      crest.push([x, y, parting(x, y) + shift]);
    }
    const first = crest[0] as [number, number, number];
    const last = crest[crest.length - 1] as [number, number, number];
    wires.push(
      cad.assembleWire([
        cad.makeLine([x, -65, bottom], first),
        cad.makeBSplineApproximation(crest, { tolerance: 1e-4 }),
        cad.makeLine(last, [x, 65, bottom]),
        cad.makeLine([x, 65, bottom], [x, -65, bottom]),
      ]),
    );
  }
  return cad.loft(wires, { ruled: false }) as Solid;
}

const BOWL_DEPTH = 48;

/** The bowl's wall: twelve shallow flutes that fade towards the floor, 3 degrees of draft. */
function bowlRadius(z: number, offset: number): (angle: number) => number {
  const fade = 0.35 + (0.65 * (z + BOWL_DEPTH)) / BOWL_DEPTH;
  return (a) => 47.5 + offset + (z + BOWL_DEPTH) * DRAFT + 1.5 * fade * Math.cos(12 * a) + 1.2 * Math.cos(2 * a);
}

const steps = (n: number): number[] => Array.from({ length: n }, (_, k) => k / (n - 1));

/** The bowl as one solid: its wall, and the rounded edge of its floor at -BOWL_DEPTH. */
function bowl(offset: number, edge: number, to: number): Shape3D {
  const turn = Math.PI / 2 - Math.atan(DRAFT);
  const from = -BOWL_DEPTH + edge * (1 - Math.cos(turn));
  const arc = steps(6).map((t) => t * turn);
  const wall = steps(15).map((t) => from + (to - from) * t);
  return solidOfBands([
    {
      z: arc.map((t) => -BOWL_DEPTH + edge * (1 - Math.cos(t))),
      radius: (row) => (a) => bowlRadius(from, offset)(a) + edge * (Math.sin(arc[row]!) - Math.sin(turn)),
    },
    { z: wall, radius: (row) => bowlRadius(wall[row]!, offset) },
  ]);
}

const CONE_FOOT = -BOWL_DEPTH;
const CONE_TOP = -9;

/** The fluted cone that presses the fruit: eight ribs, steeper towards its tip. */
function coneRadius(z: number, offset: number): (angle: number) => number {
  const t = (CONE_TOP - z) / (CONE_TOP - CONE_FOOT);
  return (a) =>
    Math.max(0.5, 3.2 + offset + 18.5 * Math.pow(t, 0.85)) * (1 + 0.07 * Math.sqrt(Math.max(0, t)) * Math.cos(8 * a));
}

/** The cone as one solid: its flank, from 4 mm below the floor, and its rounded tip. */
function cone(offset: number, tip: number): Shape3D {
  const turn = 1.05;
  const to = CONE_TOP - tip * (1 - Math.cos(turn));
  const flank = steps(17).map((t) => CONE_FOOT - 4 + (to - CONE_FOOT + 4) * t);
  const arc = steps(6).map((t) => turn * (1 - 0.85 * t));
  return solidOfBands([
    { z: flank, radius: (row) => coneRadius(flank[row]!, offset) },
    {
      z: arc.map((t) => CONE_TOP - tip * (1 - Math.cos(t))),
      radius: (row) => (a) => coneRadius(to, offset)(a) - tip * (Math.sin(turn) - Math.sin(arc[row]!)),
    },
  ]);
}

function box(x0: number, y0: number, z0: number, x1: number, y1: number, z1: number): Shape3D {
  return cad.makeBaseBox(x1 - x0, y1 - y0, z1 - z0).translate([(x0 + x1) / 2, (y0 + y1) / 2, z0]) as Shape3D;
}

function roundedBox(x0: number, y0: number, x1: number, y1: number, r: number, z0: number, z1: number): Shape3D {
  return cad
    .drawRoundedRectangle(x1 - x0, y1 - y0, r)
    .translate((x0 + x1) / 2, (y0 + y1) / 2)
    .sketchOnPlane('XY', z0)
    .extrude(z1 - z0) as Shape3D;
}

function pin(x: number, y: number, r: number, z0: number, z1: number): Shape3D {
  return cad.makeCylinder(r, z1 - z0, [x, y, z0]) as Shape3D;
}

/** Picks the edges that lie in the plane z, within `reach` of the middle. */
function level(finder: cad.EdgeFinder, z: number, reach: number): cad.EdgeFinder {
  return finder.when(({ element }) => {
    const [low, high] = element.boundingBox.bounds;
    return Math.abs(low[2] - z) < 0.05 && Math.abs(high[2] - z) < 0.05 && high[0] < reach && low[0] > -reach;
  });
}

function pinHoles(shape: Shape3D, radius: number, z0: number): Shape3D {
  let out = shape;
  for (const [x, y] of [
    [-73, -53],
    [73, -53],
    [73, 53],
    [-73, 53],
  ] as const)
    out = out.cut(pin(x, y, radius, z0, 20));
  return out;
}

function cavityInsert(): Shape3D {
  let body: Shape3D = belowParting(-67);
  body = body.cut(bowl(0, 3, 8)).fuse(cone(0, 1.8));
  body = body.fillet(2, (e) => level(e, -BOWL_DEPTH, 30)) as Shape3D;
  body = body.cut(roundedBox(-82, -22, -62, 22, 6, -5, 12));
  body = body.cut(roundedBox(-12, 53, 12, 63.5, 4, -9, 12));
  body = body.cut(roundedBox(-12, -63.5, 12, -53, 4, -9, 12));
  body = body.cut(cad.makeCylinder(3, 60, [40, 0, 1.8], [1, 0, 0]) as Shape3D);
  return pinHoles(body, 6, -80);
}

function coreInsert(): Shape3D {
  const lift = 45;
  let body: Shape3D = belowParting(-25);
  let plug = bowl(-2.5, 2.5, 6).cut(cone(2.5, 3));
  // the bowl hangs downward in the cavity: the core is its mirror image, standing on the parting surface
  plug = plug.mirror('XY') as Shape3D;
  plug = plug.translate([0, 0, lift - BOWL_DEPTH]) as Shape3D;
  body = body.fuse(plug);
  body = body.cut(box(26, -1.5, lift - 12, 60, 1.5, lift + 5));
  body = body.cut(box(-60, -1.5, lift - 12, -26, 1.5, lift + 5));
  return pinHoles(body, 6, -60);
}

/** Half width and depth of the grip at x. */
function gripAt(x: number): { width: number; depth: number } {
  const t = (x + 62) / 124;
  const swell = Math.sqrt(Math.max(0, 1 - Math.pow(2 * t - 1, 6)));
  return {
    width: (11 + 4.5 * Math.sin(Math.PI * t * 1.6 + 0.4)) * swell + 1.5,
    depth: (9 + 2.2 * Math.cos(2 * Math.PI * t)) * swell + 1.2,
  };
}

function gripSection(x: number, top: number): Wire {
  const { width, depth } = gripAt(x);
  const points: Point[] = [];
  for (let k = 0; k <= 20; k++) {
    const a = Math.PI * (k / 20);
    const y = -width * Math.cos(a);
    points.push([x, y, -depth * Math.pow(Math.sin(a), 0.8)]);
  }
  const flare = (top + 0) * DRAFT * 2;
  return cad.assembleWire([
    cad.makeLine([x, -width - flare, top], [x, -width, 0]),
    cad.makeBSplineApproximation(points, { tolerance: 1e-3 }),
    cad.makeLine([x, width, 0], [x, width + flare, top]),
    cad.makeLine([x, width + flare, top], [x, -width - flare, top]),
  ]);
}

function trowelGrip(): Shape3D {
  const wires: Wire[] = [];
  for (let k = 0; k <= 14; k++) wires.push(gripSection(-61.9 + (123.8 * k) / 14, 6));
  const grip = cad.loft(wires, { ruled: false });
  let body: Shape3D = box(-95, -45, -40, 95, 45, 4);
  // flash land, and the gutter around it
  body = body.cut(roundedBox(-74, -27, 74, 27, 14, 0, 8));
  const gutter = roundedBox(-86, -38, 86, 38, 20, -3, 8).cut(roundedBox(-74, -27, 74, 27, 14, -4, 9));
  body = body.cut(gutter);
  body = body.cut(grip);
  for (const [x, y] of [
    [-88, -39],
    [88, 39],
  ] as const)
    body = body.cut(pin(x, y, 4, -20, 10));
  return body;
}

function binaryStl(shape: Shape3D): Uint8Array {
  const mesh = shape.mesh(MESH);
  const count = mesh.triangles.length / 3;
  const view = new DataView(new ArrayBuffer(84 + 50 * count));
  view.setUint32(80, count, true);
  for (let t = 0; t < count; t++)
    for (let c = 0; c < 3; c++)
      for (let k = 0; k < 3; k++)
        view.setFloat32(84 + 50 * t + 12 + 12 * c + 4 * k, mesh.vertices[3 * mesh.triangles[3 * t + c]! + k]!, true);
  return new Uint8Array(view.buffer);
}

/** A square pocket with sharp upright corners: what every round cutter leaves in a corner can be told by geometry. */
function squarePocket(): Shape3D {
  return box(-50, -50, -30, 50, 50, 0).cut(box(-35, -35, -12, 35, 35, 1));
}

/** A hole from the level z0 down: its wall `depth` deep, and a point of `angle` degrees under it; 0 for a level floor. */
function blindHole(x: number, y: number, r: number, z0: number, depth: number, angle = 118): Shape3D {
  const point = angle > 0 ? r / Math.tan((angle * Math.PI) / 360) : 0;
  const outline = cad
    .draw([0, z0 + 1])
    .lineTo([r, z0 + 1])
    .lineTo([r, z0 - depth])
    .lineTo([0, z0 - depth - point])
    .close();
  return outline.sketchOnPlane('XZ').revolve([0, 0, 1]).translate([x, y, 0]) as Shape3D;
}

/** The press's base plate: a pocket with an island, one that is open to a side, holes of every sort, and a broken top edge. */
function basePlate(): Shape3D {
  let body = roundedBox(-60, -40, 60, 40, 8, -20, 0);
  body = body.chamfer(1.5, (e) => level(e, 0, 70)) as Shape3D;
  body = body.cut(roundedBox(-42, -25, 2, 25, 6, -6, 5).cut(pin(-20, 3, 7, -6, 5)));
  body = body.cut(roundedBox(18, -14, 80, 14, 5, -10, 5));
  // screws, with room for their heads
  for (const [x, y] of [
    [-50, -31],
    [50, -31],
    [50, 31],
    [-50, 31],
  ] as const)
    body = body.cut(pin(x, y, 3.3, -25, 5)).cut(pin(x, y, 5.5, -6.8, 5));
  // dowels
  for (const [x, y] of [
    [-51, 0],
    [10, 0],
  ] as const)
    body = body.cut(pin(x, y, 4, -25, 5));
  // for threads M6 and M8
  for (const [x, y] of [
    [-20, 32.5],
    [14, 30],
    [34, 27],
    [-20, -32.5],
  ] as const)
    body = body.cut(blindHole(x, y, 2.5, 0, 14));
  for (const [x, y] of [
    [14, -30],
    [34, -27],
  ] as const)
    body = body.cut(blindHole(x, y, 3.4, 0, 16));
  // in the floor of the open pocket
  return body.cut(blindHole(40, 0, 2.5, -10, 6));
}

async function write(name: string, make: () => Shape3D): Promise<void> {
  const start = Date.now();
  const shape = make();
  const volume = cad.measureVolume(shape);
  writeFileSync(join(OUT, `${name}.stl`), binaryStl(shape));
  const step = await cad.exportSTEP([{ shape, name }]).text();
  // the modeller writes the moment into the header; a fixed one keeps the file the same from run to run
  writeFileSync(join(OUT, `${name}.step`), step.replace(/'\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d'/, "'2026-01-01T00:00:00'"));
  console.log(`${name}: ${volume.toFixed(1)} mm³, ${((Date.now() - start) / 1000).toFixed(1)} s`);
}

await startModeller();
mkdirSync(OUT, { recursive: true });
const only = process.argv[2];
for (const [name, make] of [
  ['citrus-cavity', cavityInsert],
  ['citrus-core', coreInsert],
  ['trowel-grip', trowelGrip],
  ['corner-check', squarePocket],
  ['base-plate', basePlate],
] as const)
  if (!only || only === name) await write(name, make);
