import { beforeAll, describe, expect, it } from 'vitest';
import { calculated, cribOf, sheet, testJob } from '../../test/shapes';
import { LOAD_QUANTITIES, type LoadQuantity } from '../load/loadAlong';
import type { Session } from './session';

/** A pocket of 40 by 30 mm, 5 deep. */
const pocket = sheet([-26, -21, 26, 21], 1, -12, (x, y) => (Math.abs(x) < 20 && Math.abs(y) < 15 ? -5 : 0));
const job = testJob(
  [{ kind: 'level-roughing', assemblyId: 'mill', values: { ap: 2.5, ae: 3, stairs: null, sideAllowance: 0.1 } }],
  0,
  { cell: 0.25, crib: cribOf({ mill: ['flat', 8, 0, 30, 7, 50] }) },
);

describe('the load over the steel', () => {
  let session: Session;
  const field = (motion: number, quantity: LoadQuantity = 'angle'): Float32Array =>
    session.loadField('s1', session.steelAt('s1', motion), motion, quantity);
  beforeAll(async () => {
    session = await calculated(job, pocket);
  });

  it('is told where the step took steel and nowhere else, and nowhere above the most of the whole step', () => {
    const { path, steel, figures } = session.results.get('s1')!;
    const all = field(path.x.length - 1);
    let [told, missed, beside] = [0, 0, 0];
    all.forEach((value, o) => {
      const isTaken = steel.after.heights[o]! < steel.before.heights[o]! - 1e-3;
      if (isTaken && Number.isNaN(value)) missed++;
      else if (!isTaken && !Number.isNaN(value)) beside++;
      else if (isTaken) told++;
    });
    // a cell at the rim belongs to either
    expect(missed / told).toBeLessThan(0.01);
    expect(beside / told).toBeLessThan(0.03);
    for (const { id } of LOAD_QUANTITIES) {
      const values = field(path.x.length - 1, id).filter((v) => !Number.isNaN(v));
      // ways in are full slots, which angle and width do not count in the figures
      if (id !== 'angle' && id !== 'width')
        expect(values.reduce((a, b) => Math.max(a, b))).toBeCloseTo(figures.load![id].most, 3);
    }
  });

  it('grows from motion to motion', () => {
    const { path } = session.results.get('s1')!;
    let before = field(0);
    for (const share of [0.2, 0.5, 0.8, 1]) {
      const now = field(Math.floor(share * (path.x.length - 1)));
      before.forEach((value, o) => {
        if (!Number.isNaN(value)) expect(now[o]!).toBeGreaterThanOrEqual(value);
      });
      before = now;
    }
    expect(before.some((v) => !Number.isNaN(v))).toBe(true);
  });

  it('is refused of a step that is not up to date', () => {
    const step = job.steps[0]!;
    session.take({ ...job, steps: [{ ...step, values: { ...step.values, ap: 2 } }] }, session.snapshot.piece);
    expect(() => field(10)).toThrow('once the step is calculated');
  });
});
