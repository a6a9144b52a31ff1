import { describe, expect, it } from 'vitest';
import { Motion, PathBuilder } from '../path/toolpath';
import { withCutsForWays } from './calculate';

describe('ways through air that take steel all the same', () => {
  it('are cuts, whole or in part; others stay what they are', () => {
    const path = new PathBuilder();
    path.to(0, 0, 0, Motion.rapid);
    path.to(10, 0, 0, Motion.cut);
    path.to(20, 0, 0, Motion.link);
    path.to(30, 0, 0, Motion.link);
    path.to(30, 0, 5, Motion.link);
    const built = path.build();
    // the first way takes 0.1 mm² over its length, the second 0.001
    const told = withCutsForWays(built, Float32Array.of(0, 40, 1, 0.01, 0));
    expect(Array.from(told.kind)).toEqual([Motion.rapid, Motion.cut, Motion.cut, Motion.link, Motion.link]);
    expect(Array.from(built.kind)[2]).toBe(Motion.link);
    expect(told.x).toBe(built.x);
  });
});
