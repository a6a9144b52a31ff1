import { describe, expect, it } from 'vitest';
import { Motion, PathBuilder } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { withCutsForWays } from './waysInSteel';

const none: Engagement = {
  motion: new Uint32Array(),
  share: new Float32Array(),
  length: new Float32Array(),
  area: new Float32Array(),
  surface: new Float32Array(),
  angle: new Float32Array(),
  width: new Float32Array(),
  depth: new Float32Array(),
  chip: new Float32Array(),
};

function ways() {
  const path = new PathBuilder();
  path.to(0, 0, 0, Motion.rapid);
  path.to(10, 0, 0, Motion.cut);
  path.to(20, 0, 0, Motion.link);
  path.to(30, 0, 0, Motion.link);
  path.to(30, 0, 5, Motion.link);
  return path.build();
}

describe('ways through air that take steel all the same', () => {
  it('are cuts, whole or in part; others stay what they are', () => {
    const built = ways();
    // the first way takes 0.1 mm² over its length, the second 0.001
    const told = withCutsForWays(built, Float32Array.of(0, 40, 1, 0.01, 0), none);
    expect(Array.from(told.kind)).toEqual([Motion.rapid, Motion.cut, Motion.cut, Motion.link, Motion.link]);
    expect(Array.from(built.kind)[2]).toBe(Motion.link);
    expect(told.x).toBe(built.x);
  });

  it('are cuts over the whole stretch of which it is told, not beyond it', () => {
    // it ends with the third way and begins 3 mm before that
    const some = { ...none, motion: Uint32Array.of(4), length: Float32Array.of(8), area: Float32Array.of(0.1) };
    const told = withCutsForWays(ways(), new Float32Array(5), some);
    expect(Array.from(told.kind)).toEqual([Motion.rapid, Motion.cut, Motion.link, Motion.cut, Motion.cut]);
  });
});
