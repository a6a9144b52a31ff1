import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { testJob } from '../../test/shapes';
import type { Box } from '../geometry/box';
import { layWithZ } from '../part/lay';
import { type BoundHeights, offsetOf } from './boundHeights';
import { followBound, placeOf } from './followBound';
import { workZeroPoint } from './frame';
import type { Job } from './job';

const part: Box = { minX: 0, maxX: 80, minY: 0, maxY: 50, minZ: -7, maxZ: 30 };
const FLOOR = 17.5;
const bound: BoundHeights = {
  top: { to: 'top', what: '', at: part.maxZ },
  bottom: { to: 'place', what: 'floor', at: FLOOR },
};
/** The first step is held between the part's top + 0.3 and a floor - 0.2, the second down to a typed height. */
const job: Job = (() => {
  const plain = testJob([
    { kind: 'level-roughing', assemblyId: 't2', values: { top: 0.3, bottom: FLOOR - part.maxZ - 0.2 } },
    { kind: 'level-roughing', assemblyId: 't2', values: { bottom: -20 } },
  ]);
  return { ...plain, steps: plain.steps.map((s, i) => (i === 0 ? { ...s, bound } : s)) };
})();
const before = { job, boxes: { part } };
/** A revision that has no place of the part before. */
const GONE = { moved: () => undefined };
const height = numberIn(-40, 40);
/** What the values of the first step stand above their places, in another job. */
const offsets = (now: Job, boxes: { part: Box }): number[] => {
  const zero = workZeroPoint(now, boxes)[2];
  return ['top', 'bottom'].map((key) =>
    offsetOf(now.steps[0]!.values[key] as number, now.steps[0]!.bound![key]!, zero),
  );
};

describe('heights that are bound to places of the part', () => {
  it('stay where they are in the part when its zero moves; a typed height goes with the zero', () => {
    fc.assert(
      fc.property(height, (z) => {
        const workZero = { ...job.setup.workZero, of: 'picked' as const, at: [0, 0, z] as [number, number, number] };
        const after = { job: { ...job, setup: { ...job.setup, workZero } }, boxes: { part } };
        const { job: now, followed } = followBound(before, after);
        expect(offsets(now, after.boxes)).toEqual([0.3, -0.2]);
        // 0.3 above the part's top, wherever that is told from
        expect(now.steps[0]!.values['top']).toBeCloseTo(part.maxZ + 0.3 - z, 4);
        expect(now.steps[1]).toBe(job.steps[1]);
        expect(followed.every(({ isLost }) => !isLost)).toBe(true);
      }),
    );
  });

  it('keep their offsets in a new revision of the part, whose top, lowest place and floors moved', () => {
    fc.assert(
      fc.property(height, height, (top, floor) => {
        const boxes = { part: { ...part, maxZ: part.maxZ + top } };
        const { job: now } = followBound(
          before,
          { job, boxes },
          { moved: (z) => (z === FLOOR ? { height: FLOOR + floor } : undefined) },
        );
        expect(offsets(now, boxes)).toEqual([0.3, -0.2]);
        expect(now.steps[0]!.bound).toMatchObject({
          top: { at: placeOf('top', boxes) },
          bottom: { at: FLOOR + floor },
        });
      }),
    );
    const low = { ...bound, bottom: { to: 'lowest' as const, what: '', at: placeOf('lowest', { part }) } };
    const held = { ...job, steps: job.steps.map((s, i) => (i === 0 ? { ...s, bound: low } : s)) };
    const deeper = { part: { ...part, minZ: -9 } };
    const { job: now } = followBound({ job: held, boxes: { part } }, { job: held, boxes: deeper }, GONE);
    expect(now.steps[0]!.values['bottom']).toBeCloseTo(FLOOR - part.maxZ - 0.2 - 2, 6);
  });

  it('are bound no more, and told, where their place is gone or the part lies another way; the value stands', () => {
    const gone = followBound(before, before, GONE);
    expect(gone.job.steps[0]!.bound).toEqual({ top: bound['top'] });
    expect(gone.job.steps[0]!.values).toEqual(job.steps[0]!.values);
    expect(gone.followed).toEqual([expect.objectContaining({ label: expect.any(String), isLost: true })]);
    const lay = layWithZ(job.part!.lay, [1, 0, 0]);
    const turned = followBound(before, { job: { ...job, part: { ...job.part!, lay } }, boxes: { part } });
    expect(turned.job.steps[0]!.bound).toBeUndefined();
    expect(turned.job.steps[0]!.values).toEqual(job.steps[0]!.values);
    expect(turned.followed.map((f) => f.isLost)).toEqual([true, true]);
  });

  it('are left alone by a change that moves none of it', () => {
    const { job: now, followed } = followBound(before, before);
    expect(now).toBe(job);
    expect(followed).toEqual([]);
  });
});
