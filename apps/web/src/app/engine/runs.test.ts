import { describe, expect, it } from 'vitest';
import { pathOf } from '../../../../../packages/core/test/shapes';
import { runOf, stateOf } from './runs';
import type { ToldStep } from './views';

const step = (name: string): ToldStep =>
  ({ stepId: 's1', name, figures: { time: 1 }, path: pathOf([[0, 0, 0]]), times: Float64Array.of(0) }) as never;
const told = (...summaries: ToldStep[]) => stateOf({ revision: 0, serial: 0, fresh: [], summaries }).summaries;

describe('what the planner told', () => {
  it('stays the same object for as long as its result does, and is told with its motions', () => {
    const [first] = told(step('a'));
    const again = step('a');
    expect(told(again, step('b'))[0]).toBe(first);
    expect(runOf(first!).path).not.toBe(again.path);
    const other = told(step('c'))[0]!;
    expect(other).not.toBe(first);
    // nobody asks for what was told before the last time
    expect(told(step('a'))[0]).not.toBe(first);
  });
});
