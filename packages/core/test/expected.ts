import { expect } from 'vitest';
import { cuts, finished, lengthOf } from './finishing';
import { crewHere, type EndMill, type Soup } from './shapes';

const ball: EndMill = ['ball', 6, 3, 14, 5.6, 60];
const patterns: [kind: string, own: object][] = [
  ['parallel-passes', { extra: 'none', angleDeg: 30 }],
  ['parallel-passes', { extra: 'between', angleDeg: 0 }],
  ['even-scallop', {}],
  ['slope-split', {}],
  ['waterline', { fromSlopeDeg: 40 }],
];

/** Over a ground each kind of finishing is told within 10 % and 20 mm of its length, before it is planned. */
export async function lengthsTold(soup: Soup): Promise<void> {
  for (const [kind, own] of patterns) {
    const values = { scallop: 0.02, tolerance: 0.004, ...own };
    const { result, session } = await finished(soup, [{ kind, cutter: ball, values }]);
    const told = (await session.expected('s2', crewHere()))!;
    const length = lengthOf(cuts(result));
    expect(Math.abs(told.length! - length), `${kind} ${told.length} ${length}`).toBeLessThan(0.1 * length + 20);
  }
}
