import { beforeAll, describe, expect, it } from 'vitest';
import { calculated, cribOf, sheet, testJob } from '../../test/shapes';
import { LOAD_QUANTITIES, type LoadQuantity } from '../load/loadAlong';
import { blockMap } from '../steel/heightMap';
import { loadField } from './loadLens';
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

  it('lies where the rim passed over the length of each stretch, back over the motions before it up to a rapid', () => {
    const at = session.snapshot.step('s1')!;
    const map = blockMap({ minX: -6.2, minY: -5.1, minZ: -9, maxX: 17.3, maxY: 14.9, maxZ: 0 }, 0.4);
    const radius = at.shape.DC / 2;
    // along X, along Y, down, and on along X
    const places = [
      [2, 1, 0],
      [8, 1, 0],
      [8, 6, 0],
      [8, 6, -1],
      [11, 6, -1],
    ];
    const [x, y, z] = [0, 1, 2].map((c) => Float64Array.from(places, (p) => p[c]!));
    const field = (kinds: number[], motion: number, share: number, length: number, last = 9): Float32Array =>
      loadField(
        session.snapshot,
        at,
        {
          path: { x, y, z, kind: Uint8Array.from(kinds), feed: new Float32Array(5).fill(600) },
          engagement: {
            ...{ motion: Uint32Array.of(motion), share: Float32Array.of(share), length: Float32Array.of(length) },
            ...{ area: Float32Array.of(1), surface: Float32Array.of(1), angle: Float32Array.of(1) },
            ...{ width: Float32Array.of(2), depth: Float32Array.of(3), chip: Float32Array.of(0.5) },
          },
        } as never,
        map,
        last,
        'depth',
      );
    /** The share of cells that are marked otherwise than those within the rim of a straight way. */
    const amiss = (marked: Float32Array, [ax, ay]: readonly number[], [bx, by]: readonly number[]): number => {
      let wrong = 0;
      for (let o = 0; o < marked.length; o++) {
        const px = map.x0 + ((o % map.nx) + 0.5) * map.cell;
        const py = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
        const [dx, dy] = [bx! - ax!, by! - ay!];
        const square = dx * dx + dy * dy;
        const t = square > 0 ? Math.max(0, Math.min(1, ((px - ax!) * dx + (py - ay!) * dy) / square)) : 0;
        const d = Math.hypot(px - ax! - t * dx, py - ay! - t * dy);
        // what lies inside the disc where it begins was passed before
        const inner = Math.hypot(px - ax!, py - ay!);
        const isWanted = d <= radius && (square === 0 || inner > radius - 2 * map.cell);
        const isUnsure = Math.abs(d - radius) < 0.05 || (square > 0 && Math.abs(inner - radius) < 2 * map.cell + 0.05);
        if (!isUnsure && Number.isNaN(marked[o]!) === isWanted) wrong++;
        if (!Number.isNaN(marked[o]!)) expect(marked[o]).toBe(3);
      }
      return wrong;
    };
    const cut = [0, 1, 1, 1, 1];
    expect(amiss(field(cut, 1, 0.5, 2), [3, 1], [5, 1])).toBe(0);
    expect(amiss(field(cut, 2, 1, 4), [8, 2], [8, 6])).toBe(0);
    // 3 mm along X, 1 mm down and 2 mm along Y: from where it begins straight to where it ends
    expect(amiss(field(cut, 4, 1, 6), [8, 4], [11, 6])).toBe(0);
    // not beyond a rapid, nor before the path
    expect(amiss(field([0, 1, 1, 0, 1], 4, 1, 6), [8, 6], [11, 6])).toBe(0);
    expect(amiss(field(cut, 1, 1, 60), [2, 1], [8, 1])).toBe(0);
    // a motion later than the one that is looked at tells nothing, that itself does
    expect(field(cut, 2, 1, 4, 1).every(Number.isNaN)).toBe(true);
    expect(field(cut, 2, 1, 4, 2).every(Number.isNaN)).toBe(false);
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
