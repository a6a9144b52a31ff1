import { describe, expect, it } from 'vitest';
import { mostly } from '../../test/mostly';
import { cuts, finished } from '../../test/finishing';
import { calculated, cribOf, type EndMill, revolved, type Soup, testJob } from '../../test/shapes';
import { clearShare } from '../check/reachAlong';

const DEEP = 30;
/** Radius of the holder's lower end, mm. */
const HOLDER = 10;
/** A round bowl with walls of 80°, deep in a block. */
const SLOPE = Math.tan((80 * Math.PI) / 180);
const bowl: Soup = revolved(
  [
    [0, -DEEP],
    [20 - DEEP / SLOPE, -DEEP],
    [20, 0],
    [40, 0],
    [40, -50],
    [0, -50],
  ],
  180,
);
/** Ball, its neck, and a stick-out too short for the bowl. */
const short: EndMill = ['ball', 6, 3, 12, 5.6, 22];
const long: EndMill = ['ball', 6, 3, 12, 5.6, 45];

describe('what a holder keeps a cutter from', () => {
  it('the chart of a finishing step tells from which depth on the holder is too low', async () => {
    const { result } = await finished(bowl, [{ kind: 'waterline', cutter: short, values: { scallop: 0.05 } }]);
    const { reach, findings } = result.figures;
    // and nothing else: no way from height to height dips into an edge
    expect(findings.map((f) => f.kind)).toEqual(['holder']);
    // by the wall the holder stands over the block: as deep as the tip is, so far it has to stand out
    expect(clearShare(reach, DEEP + 1)).toBe(1);
    expect(clearShare(reach, 22)).toBeLessThan(0.85);
    expect(clearShare(reach, 22)).toBeGreaterThan(0.5);
  });

  it.each(mostly(2, ['waterline', 'even-scallop', 'parallel-passes', 'slope-split']))(
    '%s that keeps what is safe cuts as deep as the holder clears, and touches nothing',
    async (kind) => {
      const { result } = await finished(bowl, [{ kind, cutter: short, values: { scallop: 0.05 } }], { safe: true });
      expect(result.figures.findings).toEqual([]);
      // a millimetre is kept under and beside the holder: its end goes below the edge only where it is that far within the bowl
      const free = (z: number): number => 20 + (z + 22 - 1) / SLOPE - HOLDER - 1;
      const all = cuts(result);
      for (const c of all.filter(({ z }) => z + 22 < 1 - 1e-3))
        expect(Math.hypot(c.x, c.y)).toBeLessThan(free(c.z) + 0.02);
      // and no more than needed is left: by the wall it is cut down to there
      const lowest = Math.min(...all.filter((c) => Math.hypot(c.x, c.y) > 10).map((c) => c.z));
      // to the height before, where it is cut at heights
      expect(lowest).toBeLessThan(-21 + 1.1);
    },
  );

  it('a longer one does exactly the rest, with an overlap', async () => {
    const { results } = await finished(
      bowl,
      [
        { kind: 'waterline', cutter: short, values: { scallop: 0.05 } },
        {
          kind: 'waterline',
          cutter: long,
          values: { scallop: 0.05, restOf: 'finish0', restBy: 'assembly', restOverlap: 0.5 },
        },
      ],
      { safe: [true, false] },
    );
    const [first, second] = results.map((r) => cuts(r).map((c) => c.z));
    expect(results[1]!.figures.findings).toEqual([]);
    expect(Math.min(...first!)).toBeGreaterThan(-21.001);
    // from half a millimetre above where the other ended
    expect(Math.max(...second!)).toBeLessThan(-20.3);
    expect(Math.max(...second!)).toBeGreaterThan(-20.5 - 1.1);
    // what stays on the bowl's own wall lies on its foot, which the ball does not enter
    const stays = results[1]!.figures.unfinished?.places.filter((p) => Math.hypot(p.x, p.y) < 22 && p.z > 2 - DEEP);
    expect(stays ?? []).toEqual([]);
  });

  it('roughing that keeps what is safe ends with the level that the holder clears, allowance and room kept', async () => {
    const crib = cribOf({ rough: ['bull', 8, 1, 12, 7.6, 20], longer: ['bull', 8, 1, 12, 7.6, 45] });
    const job = testJob(
      [
        { kind: 'level-roughing', assemblyId: 'rough', values: { sideAllowance: 0.3, floorAllowance: 0.3, ap: 1 } },
        { kind: 'rest-roughing', assemblyId: 'longer', values: { sideAllowance: 0.3, floorAllowance: 0.3, ap: 1 } },
      ],
      0,
      { cell: 0.25, crib },
    );
    job.steps[0]!.travel.reach = 'safe';
    const session = await calculated(job, bowl);
    const [first, second] = ['s1', 's2'].map((id) => session.results.get(id)!);
    expect(first!.figures.findings).toEqual([]);
    expect(second!.figures.findings).toEqual([]);
    // beside the bowl's wall: the block's corners stand free
    const lowest = (result: typeof first): number =>
      Math.min(
        ...cuts(result!)
          .filter((c) => Math.abs(Math.hypot(c.x, c.y) - 15) < 7)
          .map((c) => c.z),
      );
    // 1 mm of room and 0.3 of allowance above the edge of the bowl
    expect(lowest(first)).toBeGreaterThan(-20 + 1.3 - 0.01);
    expect(lowest(first)).toBeLessThan(-20 + 1.3 + 1);
    expect(lowest(second)).toBeLessThan(-DEEP + 0.4);
  });
});
