import { describe, expect, it } from 'vitest';
import { cribOf } from '../../test/shapes';
import { toolsOf } from '../tool/library';
import { toolSettings } from './settings';

describe('what is set at the machine', () => {
  const [rough, fine] = toolsOf(cribOf({ rough: ['bull', 12, 1.5, 25, 11, 60], fine: ['ball', 6, 3, 18, 5.6, 45] }));
  const plain = {};
  const worn = { wear: [{ first: 1, end: 3, side: 'left' as const }] };
  const as = (tool: typeof rough, offsets: object) => ({
    ...tool!,
    assembly: { ...tool!.assembly, ...offsets },
  });

  it('each tool once, in the order of its first call; offsets are those of its place unless it has its own', () => {
    const other = as(fine, { number: 7, lengthOffset: 31 });
    const list = toolSettings([
      { tool: other, path: plain },
      { tool: rough!, path: plain },
      { tool: other, path: plain },
    ]);
    expect(list).toMatchObject([
      { number: 7, stickOut: 45, lengthOffset: 31 },
      { number: rough!.assembly.number, stickOut: 60, lengthOffset: rough!.assembly.number },
    ]);
    expect(list.every((t) => !('wearOffset' in t))).toBe(true);
  });

  it('the offset of wear is told where any of its steps leaves wear to the control', () => {
    const other = as(fine, { radiusOffset: 40 });
    for (const paths of [
      [worn, plain],
      [plain, worn],
    ])
      expect(toolSettings(paths.map((path) => ({ tool: other, path })))).toMatchObject([{ wearOffset: 40 }]);
    expect(toolSettings([{ tool: rough!, path: worn }])).toMatchObject([{ wearOffset: rough!.assembly.number }]);
  });
});
