import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib } from '../../test/shapes';
import { toolsOf } from './library';
import { measuredIntoCrib, PRESETTER_COLUMNS, presetterList } from './presetter';
import { gaugeLength } from './shape';

const crib = testCrib();
const tools = toolsOf(crib);
const heading = PRESETTER_COLUMNS.join(',');
const read = (rows: string[], head = heading) => measuredIntoCrib([head, ...rows].join('\r\n'), crib, 'list.csv');

describe('the list of the presetter', () => {
  it('tells the length from the tip to the gauge line, and comes back with nothing measured as it went', () => {
    const text = presetterList(tools);
    const [head, ...rows] = text.split('\r\n').map((line) => line.split(','));
    expect(rows.map((r) => Number(r[0]))).toEqual(tools.map((t) => t.assembly.number).sort((a, b) => a - b));
    for (const tool of tools) {
      const row = rows.find((r) => Number(r[0]) === tool.assembly.number)!;
      expect(Number(row[head!.indexOf('length')])).toBeCloseTo(gaugeLength(tool), 3);
    }
    const { crib: back, report } = measuredIntoCrib(text, crib, 'list.csv');
    expect(report).toMatchObject({ changed: 0, same: tools.length, problems: [] });
    expect(toolsOf(back).map((t) => t.assembly)).toEqual(tools.map((t) => t.assembly));
  });

  it('what was measured is taken, of the tools that it names alone, and goes out again as it came in', () => {
    const off = fc.integer({ min: -900, max: 900 });
    fc.assert(
      fc.property(fc.nat(tools.length - 1), off, off, fc.constantFrom('.', ','), (k, length, size, mark) => {
        const tool = tools[k]!;
        const L = Math.round(1e3 * gaugeLength(tool) + length) / 1e3;
        const D = Math.round(1e6 * tool.cutter.DC * (1 + (0.029 * size) / 900)) / 1e6;
        const cells = [tool.assembly.number, L.toFixed(4), D.toFixed(4)].map((c) => String(c).replace('.', mark));
        const { crib: next, report } = read([cells.join(';')], 'T;measuredLength;measuredDiameter');
        expect(report.problems).toEqual([]);
        for (const { assembly } of toolsOf(next)) {
          const before = tools.find((t) => t.assembly.id === assembly.id)!.assembly;
          const sizes = { measuredLength: L, measuredDiameter: Number(D.toFixed(4)) };
          expect(assembly).toEqual(assembly.id === tool.assembly.id ? { ...before, ...sizes } : before);
        }
        expect(measuredIntoCrib(presetterList(toolsOf(next)), next, 'again').report).toMatchObject({ changed: 0 });
      }),
    );
  });

  it('a length that is not the nominal one is taken, and told; within a millimetre it is not', () => {
    const [tool] = tools;
    const of = (off: number) =>
      read([`${tool!.assembly.number},${gaugeLength(tool!) + off}`], 'T,measuredLength').report;
    expect(of(1.5)).toMatchObject({ changed: 1, problems: [], doubts: [{ row: 1, column: 'measuredLength' }] });
    expect(of(-0.9)).toMatchObject({ changed: 1, doubts: [] });
  });

  it('another cutter, an unknown or doubled T, and what is no size are left out and told', () => {
    const [tool] = tools;
    const { number } = tool!.assembly;
    const L = gaugeLength(tool!);
    const of = (...cells: (string | number)[]): unknown => {
      const { crib: next, report } = read([cells.join(',')], 'T,measuredLength,measuredDiameter,measuredRadius');
      expect(toolsOf(next).map((t) => t.assembly)).toEqual(tools.map((t) => t.assembly));
      return report.problems.map((p) => p.column);
    };
    expect(of(number, L, tool!.cutter.DC * 1.04, '')).toEqual(['measuredDiameter']);
    expect(of(number, L, '', tool!.cutter.RE + 0.04 * tool!.cutter.DC)).toEqual(['measuredRadius']);
    expect(of(number, 'long', '', '')).toEqual(['measuredLength']);
    expect(of(number, L, 0, '')).toEqual(['measuredDiameter']);
    expect(of(number, L, -tool!.cutter.DC, '')).toEqual(['measuredDiameter']);
    expect(of(4711, L, '', '')).toEqual(['T']);
    expect(read([`${number},${L}`, `${number},${L}`], 'T,measuredLength').report.problems).toHaveLength(1);
    expect(() => read(['1'], 'T,length')).toThrow(/no list of the presetter/);
  });
});
