import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, sheet } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { blockMap } from '../steel/heightMap';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { TipSurface } from './tipSurface';
import { leftBy, Wanted } from './wanted';

const ball = (DC: number): RoundPiece => roundProfile(DC, DC / 2) as RoundPiece;
/** A groove whose sides rise by 45°, its bottom at x = 0, z = 0. */
const groove = contactMesh(meshOf(sheet([-20, -10, 20, 10], 1, -10, (x) => Math.abs(x))));
const steel = blockMap({ minX: -20, minY: -10, minZ: -10, maxX: 20, maxY: 10, maxZ: 25 }, 0.5);
/** A place of its right side, `s` mm up along it. */
const onSide = (s: number) => ({
  x: s / Math.SQRT2,
  y: 0.1,
  z: s / Math.SQRT2,
  nx: -Math.SQRT1_2,
  ny: 0,
  nz: Math.SQRT1_2,
});

describe('what a cutter leaves by its shape', () => {
  it('in a square groove a ball stays off a side by the law of cosines, and from its radius on it touches', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.05, max: 9, noNaN: true }), fc.integer({ min: 2, max: 12 }), (s, DC) => {
        const r = DC / 2;
        const surface = new TipSurface({ mesh: groove, piece: ball(DC), side: 0, floor: 0 });
        const lift = Math.max(0, (r - s) * Math.SQRT2);
        const left = Math.sqrt(r * r + 2 * r * lift * Math.SQRT1_2 + lift * lift) - r;
        expect(leftBy(surface, ball(DC), onSide(s))).toBeCloseTo(left, 3);
      }),
    );
  });

  it('the rest of a cutter lies where that is more than is asked about, whatever its corner', () => {
    for (const [DC, RE] of [
      [8, 4],
      [10, 1],
    ] as const) {
      const piece = roundProfile(DC, RE) as RoundPiece;
      const rest = { spec: { mesh: groove, piece, side: 0, floor: 0 }, thicker: 0.05 };
      const wanted = new Wanted({ slopes: [0, Math.PI / 2], rest }, ball(2), steel);
      const surface = new TipSurface(rest.spec);
      for (let s = 0.1; s < 12; s += 0.3) {
        const at = onSide(s);
        expect(wanted.at(at, at.x, at.y, at.z)).toBe(leftBy(surface, piece, at) > 0.05);
      }
      // a bull-nose stands on its corners: as far up as its flat is wide, and the corner
      const touches = (DC / 2 - RE) * Math.SQRT2 + RE;
      expect(wanted.at(onSide(touches + 0.1), 0, 0, 0)).toBe(false);
      expect(wanted.at(onSide(touches - 1), 0, 0, 0)).toBe(true);
    }
  });

  it('slopes count to their borders, and steel by how thick it stands', () => {
    const at = onSide(5);
    const within = (from: number, to: number): boolean =>
      new Wanted({ slopes: [(from * Math.PI) / 180, (to * Math.PI) / 180] }, ball(2), steel).at(at, at.x, at.y, at.z);
    expect([within(0, 45), within(45, 90), within(0, 44), within(46, 90)]).toEqual([true, true, false, false]);
    const thick = (z: number): boolean =>
      new Wanted({ slopes: [0, Math.PI / 2], thicker: 0.5 }, ball(6), steel).at(at, 0, 0, z);
    // the block's top is 25: a tip half a millimetre below it reaches no deeper
    expect([thick(24.6), thick(24.4)]).toEqual([false, true]);
  });
});
