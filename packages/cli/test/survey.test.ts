import {
  adviceOf,
  AS_DRAWN,
  boxOf,
  compareRevisions,
  contactMesh,
  endsOf,
  hiddenFromAbove,
  isBorder,
  largestRadius,
  layMesh,
  layTurned,
  measuresBetween,
  measuresOf,
  outlineArea,
  outlineThrough,
  pickAt,
  pocketsAmong,
  type Picked,
  readPart,
  revisionSentence,
  type Survey,
  type Surface,
  surfaceOf,
  surveyOf,
  type Vec3,
  weld,
} from '@esquisse/core';
import * as cad from 'replicad';
import init from 'replicad-opencascadejs';
import { beforeAll, describe, expect, it } from 'vitest';
import { readStepFile } from '../src/stepReader';

const POCKET = { x: 40, y: 24, depth: 20, corner: 5, foot: 2 };
const BLOCK = { x: 80, y: 60, z: 40 };

/** Reference: parts with known fillets, holes and drafts, made and measured by a general solid modeller (checks 13, 15, 23). */
function madePart(shift = 0): cad.Shape3D {
  const box = (x: number, y: number, z: number, at: [number, number, number]): cad.Shape3D =>
    cad.makeBaseBox(x, y, z).translate(at) as cad.Shape3D;
  const pocket = (
    box(POCKET.x, POCKET.y, POCKET.depth + 10, [0, 0, -POCKET.depth]).fillet(POCKET.corner, (e) =>
      e.inDirection('Z'),
    ) as cad.Shape3D
  ).fillet(POCKET.foot, (e) => e.inPlane('XY', -POCKET.depth)) as cad.Shape3D;
  let part = box(BLOCK.x, BLOCK.y, BLOCK.z, [0, 0, -BLOCK.z]).cut(pocket) as cad.Shape3D;
  const drill = (r: number, depth: number, x: number, y: number): void => {
    part = part.cut(cad.makeCylinder(r, depth, [x, y, -depth]) as cad.Shape3D) as cad.Shape3D;
  };
  drill(3, 50, 34, 24);
  drill(5.5, 6, 34, 24);
  drill(4, 15, -34 + shift, 24);
  return part;
}

async function meshed(shape: cad.Shape3D) {
  const text = await cad.exportSTEP([{ shape, name: 'made' }]).text();
  return (await readPart('made.step', new TextEncoder().encode(text), 'mm', readStepFile)).mesh;
}

describe('survey of a part made by a solid modeller', () => {
  let solid: cad.Shape3D;
  let surface: Surface;
  let survey: Survey;
  beforeAll(async () => {
    cad.setOC(await init());
    solid = madePart();
    const mesh = await meshed(solid);
    surface = surfaceOf(mesh);
    survey = surveyOf(surface, contactMesh(mesh));
  });

  it('has the size, volume and area that the modeller measures', () => {
    expect(Math.abs(survey.volume / cad.measureVolume(solid) - 1)).toBeLessThan(1e-4);
    expect(Math.abs(survey.area / cad.measureArea(solid) - 1)).toBeLessThan(1e-3);
    expect(survey.box.maxX - survey.box.minX).toBeCloseTo(BLOCK.x, 6);
    expect(survey.slope.reduce((a, b) => a + b, 0)).toBeCloseTo(survey.area, 6);
    expect(survey.faces).toBe(solid.faces.length);
  });

  it('finds the inside radii of fillets within 0.5 %, the tightest of them on its fillet', () => {
    const [tight] = survey.tightness.bends;
    expect(Math.abs(tight!.value / POCKET.foot - 1)).toBeLessThan(0.005);
    expect(tight!.at[2]).toBeLessThan(-POCKET.depth + POCKET.foot + 0.01);
    expect(survey.tightness.bends.some((b) => Math.abs(b.value / POCKET.corner - 1) < 0.005)).toBe(true);
  });

  it('an inside radius of 2 mm asks for a corner radius of at most 1.9 mm (check 15, common practice)', () => {
    expect(largestRadius(2)).toBe(1.9);
    const advised = largestRadius(survey.tightness.bends[0]!.value);
    expect(advised).toBeLessThanOrEqual(1.9);
    expect(advised).toBeGreaterThan(1.8);
    expect(adviceOf(survey)).toContain(`A corner radius of ${advised.toFixed(2)} mm or less`);
  });

  it('the same part as a mesh without faces, in single precision, is never told more room than there is', () => {
    const { positions, indices } = surface.mesh;
    const soup = Array.from(indices, (v) => [...positions.slice(3 * v, 3 * v + 3)].map(Math.fround)).flat();
    const { mesh } = weld(soup);
    const bare = surfaceOf(mesh);
    const found = surveyOf(bare, contactMesh(mesh));
    expect(found.facesFromFile).toBe(false);
    const advised = largestRadius(found.tightness.bends[0]!.value, false);
    expect(advised).toBeLessThanOrEqual(1.9);
    expect(advised).toBeGreaterThan(1.5);
    expect(found.holes.map((h) => h.diameter.toFixed(2)).sort()).toEqual(['6.00', '8.00']);
  });

  it('a place 20 mm deep asks for about 5 mm more of stick-out (check 13, common practice)', () => {
    expect(survey.deepest.depth).toBeCloseTo(POCKET.depth, 6);
    expect(adviceOf(survey)).toMatch(/stick-out of about 25 mm/);
  });

  it('the smallest gap is the width of the pocket: a ball between its walls, holes left aside', () => {
    expect(survey.tightness.gap!.value).toBeCloseTo(POCKET.y, 1);
  });

  it('tells flats by height, and closed pockets from open faces', () => {
    const floor = survey.flats.find((f) => Math.abs(f.z + POCKET.depth) < 1e-6)!;
    expect(floor.closed).toBeCloseTo(1, 6);
    const inset = 2 * POCKET.foot;
    const corner = POCKET.corner - POCKET.foot;
    expect(floor.area).toBeCloseTo((POCKET.x - inset) * (POCKET.y - inset) - (4 - Math.PI) * corner ** 2, 0);
    const top = survey.flats.find((f) => Math.abs(f.z) < 1e-6)!;
    expect(top.closed).toBe(0);
  });

  it('a closed pocket is as deep as the modeller was told, and encloses its outline on top', () => {
    const [pocket, ...others] = pocketsAmong(survey.flats.filter((f) => f.area > 100));
    expect(others).toHaveLength(0);
    expect(pocket!.depth).toBeCloseTo(POCKET.depth, 6);
    expect(pocket!.openLength).toBeCloseTo(0, 6);
    // pointing at its upper edge means the plan of the opening: the larger outline there is the block's own hole or the pocket's
    const rim = Array.from({ length: 3 * surface.count }, (_, h) => h).find((h) => {
      const at = endsOf(surface.mesh, h).map((v) => [0, 1, 2].map((k) => surface.mesh.positions[3 * v + k]!));
      return isBorder(surface, survey.faceOf, h) && at.every(([x, y, z]) => z! > -1e-6 && Math.abs(x!) < 21 && y! > 11);
    })!;
    const opening = outlineThrough(surface, survey.faceOf, [rim])!;
    const corners = (4 - Math.PI) * POCKET.corner ** 2;
    expect(outlineArea(opening) / (POCKET.x * POCKET.y - corners)).toBeCloseTo(1, 2);
    // the whole top: its outer border is the block's plan
    const top = Array.from({ length: 3 * surface.count }, (_, h) => h).filter(
      (h) => surface.normals[3 * Math.floor(h / 3) + 2]! > 0.999 && isBorder(surface, survey.faceOf, h),
    );
    const whole = outlineThrough(surface, survey.faceOf, top)!;
    expect(outlineArea(whole)).toBeCloseTo(BLOCK.x * BLOCK.y, 6);
    expect(whole).toHaveLength(4);
  });

  it('a slot is open along its two ends, and a hole bored across the block is undercut along its ceiling', async () => {
    const slot = { width: 12, depth: 9 };
    const bore = { r: 4, length: BLOCK.x };
    const box = cad.makeBaseBox(BLOCK.x, BLOCK.y, BLOCK.z).translate([0, 0, -BLOCK.z]) as cad.Shape3D;
    const cut = cad.makeBaseBox(2 * BLOCK.x, slot.width, slot.depth).translate([0, 0, -slot.depth]) as cad.Shape3D;
    const across = cad.makeCylinder(bore.r, 2 * BLOCK.x, [-BLOCK.x, 20, -25], [1, 0, 0]) as cad.Shape3D;
    const mesh = await meshed((box.cut(cut) as cad.Shape3D).cut(across) as cad.Shape3D);
    const found = surveyOf(surfaceOf(mesh), contactMesh(mesh));
    const [pocket] = pocketsAmong(found.flats);
    expect(pocket!.depth).toBeCloseTo(slot.depth, 6);
    expect(pocket!.openLength).toBeCloseTo(2 * slot.width, 6);
    // the upper half of the bore looks down, to one facet either way
    const half = Math.PI * bore.r * bore.length;
    expect(found.hidden.undercut.area / half).toBeGreaterThan(0.93);
    expect(found.hidden.undercut.area / half).toBeLessThan(1.07);
    expect(found.hidden.undercut.lean).toBeGreaterThan(75);
    // its lower half is seen by nobody either
    expect(found.hidden.area / (2 * half)).toBeGreaterThan(0.93);
    expect(survey.hidden.undercut.area).toBe(0);
  });

  it('tells holes with diameter, depth, counterbore, through or blind', () => {
    expect(survey.holes).toHaveLength(2);
    const through = survey.holes.find((h) => h.through)!;
    expect(through.diameter).toBeCloseTo(6, 3);
    expect(through.top - through.bottom).toBeCloseTo(BLOCK.z, 6);
    expect(through.counterbore!.diameter).toBeCloseTo(11, 3);
    expect(through.counterbore!.depth).toBeCloseTo(6, 6);
    const blind = survey.holes.find((h) => !h.through)!;
    expect([blind.x, blind.y, blind.diameter, blind.bottom].map((v) => Math.round(v * 100) / 100)).toEqual([
      -34, 24, 8, -15,
    ]);
    expect(blind.pointed).toBe(false);
  });

  it('lying upside down, its pocket is not seen from above, and the survey says which way up is better', () => {
    expect(survey.hidden.share).toBeLessThan(0.01);
    const over = surfaceOf(layMesh(surface.mesh, layTurned(AS_DRAWN, 'X', 180)));
    const hidden = hiddenFromAbove(over);
    // walls count as seen; the floor and its fillets do not
    expect(hidden.area).toBeGreaterThan((POCKET.x - 4) * (POCKET.y - 4) * 0.9);
    const turned = surveyOf(over, contactMesh(over.mesh));
    const best = [...turned.directions].sort((a, b) => a.share - b.share)[0]!;
    expect(best.up).toEqual([0, 0, -1]);
  });

  it('measures between picks what the modeller was told', () => {
    const pick = (where: (x: number, y: number, z: number, n: Vec3) => boolean, reach = 0): Picked => {
      const { mesh, normals } = surface;
      for (let t = 0; t < surface.count; t++) {
        const m = [0, 1, 2].map(
          (k) => [0, 1, 2].reduce((s, c) => s + mesh.positions[3 * mesh.indices[3 * t + c]! + k]!, 0) / 3,
        ) as Vec3;
        const n: Vec3 = [normals[3 * t]!, normals[3 * t + 1]!, normals[3 * t + 2]!];
        if (where(...m, n)) return pickAt(surface, survey.faceOf, survey.holes, t, m, reach);
      }
      throw new Error('no such place');
    };
    const top = pick((_x, _y, z, n) => z > -1e-6 && n[2] > 0.999);
    const floor = pick((_x, _y, z, n) => Math.abs(z + POCKET.depth) < 1e-6 && n[2] > 0.999);
    const left = pick((x, _y, z, n) => Math.abs(x + POCKET.x / 2) < 1e-6 && z < -3 && n[0] > 0.999);
    const right = pick((x, _y, z, n) => Math.abs(x - POCKET.x / 2) < 1e-6 && z < -3 && n[0] < -0.999);
    const value = (a: Picked, b: Picked, label: string): number =>
      measuresBetween(a, b).find((m) => m.label === label)!.value;
    expect(value(top, floor, 'distance')).toBeCloseTo(POCKET.depth, 6);
    expect(value(left, right, 'distance')).toBeCloseTo(POCKET.x, 6);
    expect(value(top, left, 'angle')).toBeCloseTo(90, 6);
    expect(measuresOf(floor, 0).find((m) => m.label === 'thickness behind')!.value).toBeCloseTo(
      BLOCK.z - POCKET.depth,
      6,
    );
    const corner = pick(
      (x, y, z, n) =>
        z < -1 &&
        z > -POCKET.depth + POCKET.foot &&
        x > 15 &&
        x < 20 &&
        y > 7 &&
        y < 12 &&
        Math.abs(n[0]) > 0.1 &&
        Math.abs(n[1]) > 0.1,
    );
    expect(corner.kind).toBe('cylinder');
    expect(corner.radius).toBeCloseTo(POCKET.corner, 3);
    const hole = pick((x, y, z) => Math.hypot(x + 34, y - 24) < 4.01 && z < -1 && z > -14);
    expect(hole.kind).toBe('hole');
    expect(hole.at.map((v) => Math.round(v * 1e4) / 1e4)).toEqual([-34, 24, 0]);
  });

  it('a new revision with a hole moved by 4 mm tells the faces that moved, and how far', async () => {
    const { report } = compareRevisions(surface.mesh, await meshed(madePart(4)));
    expect(report.gone).toHaveLength(0);
    expect(report.added).toHaveLength(0);
    // the hole's wall and floor; the top face lost and won a disc elsewhere
    const far = report.moved.filter((m) => Math.abs(m.distance - 4) < 0.01);
    expect(far).toHaveLength(2);
    expect(report.same + report.moved.length).toBe(solid.faces.length);
    expect(revisionSentence(report)).toMatch(/moved or changed \(by up to 4.00 mm\)/);
    expect(compareRevisions(surface.mesh, surface.mesh).report.moved).toHaveLength(0);
  });

  it('draft: a wall cast at 3° is told with 3°', async () => {
    const tan = Math.tan((3 * Math.PI) / 180);
    const outline = cad
      .draw([0, 0])
      .lineTo([20, 0])
      .lineTo([20 + 20 * tan, -20])
      .lineTo([0, -20])
      .close();
    const frustum = outline.sketchOnPlane('XZ').revolve([0, 0, 1]) as cad.Shape3D;
    const mesh = await meshed(frustum);
    const found = surveyOf(surfaceOf(mesh), contactMesh(mesh));
    expect(found.draft.least).toBeGreaterThan(2.8);
    expect(found.draft.least).toBeLessThanOrEqual(3);
    expect(boxOf(mesh).maxZ - boxOf(mesh).minZ).toBeCloseTo(20, 6);
  });
});
