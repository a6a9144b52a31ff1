import { describe, expect, it } from 'vitest';
import { meshOf, pathOf, squarePocket } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { Motion } from '../path/toolpath';
import { roundProfile } from '../tool/profile';
import { clearShare, joinedLengths, reachAlong } from './reachAlong';

/** 20 wide and 20 deep; a holder of Ø 30 always stands over the block around it. */
const part = contactMesh(meshOf(squarePocket(40, 10, 20, -30)));
const holder = [roundProfile(30, 0)];

describe('stick-out wanted along a path', () => {
  it('is the depth of the tip under what the holder stands over: evenly spread along one straight way down', () => {
    const path = pathOf([
      [-5, 0, 0],
      [5, 0, -20],
    ]);
    const lengths = reachAlong({ part, path, holder, span: [0, 2] });
    expect(lengths.reduce((sum, l) => sum + l, 0)).toBeCloseTo(Math.hypot(10, 20), 9);
    for (const stickOut of [5, 10, 15]) expect(clearShare(lengths, stickOut)).toBeCloseTo(stickOut / 20, 1);
    expect(clearShare(lengths, 20)).toBe(1);
  });

  it('rapids do not count, and spans of short motions come to the same as the whole', () => {
    const points = Array.from({ length: 201 }, (_, k): [number, number, number] => [k / 20 - 5, 0, -k / 10]);
    const path = pathOf([...points, [5, 0, 5, Motion.rapid]]);
    const whole = reachAlong({ part, path, holder, span: [0, 202] });
    const halves = joinedLengths(
      [[0, 101] as const, [101, 202] as const].map((span) => reachAlong({ part, path, holder, span })),
    );
    expect(halves.reduce((sum, l) => sum + l, 0)).toBeCloseTo(Math.hypot(10, 20), 9);
    for (const stickOut of [5, 10, 15])
      expect(clearShare(halves, stickOut)).toBeCloseTo(clearShare(whole, stickOut), 1);
  });
});
