import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib } from '../../test/shapes';
import { type Crib, cribSchema, refusesMilling, toolsOf } from './library';
import { gaugeLength, holderProfile, overhangOf, shapeOf } from './shape';
import { cribToCsv, csvIntoCrib, TABLE_COLUMNS } from './table';

const crib = testCrib();
const empty: Crib = { ...crib, cutters: [], assemblies: [] };
const cell = fc.oneof(
  fc.string(),
  fc.double().map(String),
  fc.integer().map(String),
  fc.constant('Holder'),
  fc.constant('flat'),
);

describe('the crib as a table', () => {
  it('what is written is read back the same, into an empty crib and into itself', () => {
    const { crib: back, report } = csvIntoCrib(cribToCsv(crib), empty, 'tools.csv');
    expect(report).toEqual({ added: 4, changed: 0, same: 0, problems: [], changes: [] });
    const bare = (c: Crib): unknown =>
      toolsOf(c).map(({ assembly: { number, stickOut, n, fz }, cutter }) => [
        number,
        stickOut,
        n,
        fz,
        { ...cutter, id: '' },
      ]);
    expect(bare(back)).toEqual(bare(crib));
    const again = csvIntoCrib(cribToCsv(crib), crib, 'tools.csv');
    expect(again.report).toEqual({ added: 0, changed: 0, same: 4, problems: [], changes: [] });
    expect(again.crib).toEqual(cribSchema.parse(crib));
  });

  it('what the maker tells of a cutter goes out and in, and a table that does not tell it takes none away', () => {
    const bears = { FHA: 42, largestPitch: 95, RMPX: 2.5, DMIN: 1.6 * crib.cutters[0]!.DC, mostAp: 1.5, mostAe: 4 };
    const told: Crib = { ...crib, cutters: [{ ...crib.cutters[0]!, ...bears }, ...crib.cutters.slice(1)] };
    const { crib: back } = csvIntoCrib(cribToCsv(told), crib, 'tools.csv');
    expect(back.cutters[0]).toMatchObject(bears);
    const without = cribToCsv(crib)
      .split('\r\n')
      .map((line) =>
        line
          .split(',')
          .filter((_, i) => !(TABLE_COLUMNS[i]! in bears))
          .join(','),
      )
      .join('\r\n');
    expect(csvIntoCrib(without, told, 'tools.csv').crib.cutters[0]).toMatchObject(bears);
  });

  it('bad rows are told with row and column, good ones taken, and the crib given stays as it was', () => {
    const before = JSON.stringify(crib);
    const lines = cribToCsv(crib).split('\r\n');
    const row = (change: Record<string, string>): string =>
      TABLE_COLUMNS.map((c, i) => change[c] ?? lines[1]!.split(',')[i]!).join(',');
    const text = [
      lines[0],
      row({ T: '11', name: 'new one' }),
      row({ T: '12', DC: 'ten' }),
      row({ T: '13', holder: 'nobody' }),
      row({ T: '14', kind: 'ball' }),
      row({ T: '2' }),
      row({ T: '15', stickOut: '500' }),
    ].join('\n');
    const { crib: next, report } = csvIntoCrib(text, crib, 'tools.csv');
    expect(report.added).toBe(1);
    expect(report.problems.map((p) => [p.row, p.column])).toEqual([
      [2, 'DC'],
      [3, 'holder'],
      [4, 'RE'],
      [5, 'T'],
      [6, 'stickOut'],
    ]);
    expect(next.assemblies).toHaveLength(5);
    expect(JSON.stringify(crib)).toBe(before);
  });

  it('no table, whatever is in it, breaks the crib or throws anything but a sentence', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: TABLE_COLUMNS.length, maxLength: TABLE_COLUMNS.length }), {
          maxLength: 6,
        }),
        (rows) => {
          const quoted = rows.map((r) => r.map((c) => `"${c.replace(/"/g, '""')}"`).join(','));
          const { crib: next, report } = csvIntoCrib([TABLE_COLUMNS.join(','), ...quoted].join('\n'), crib, 'x.csv');
          expect(cribSchema.safeParse(next).success).toBe(true);
          expect(report.added + report.changed + report.problems.length).toBeLessThanOrEqual(rows.length);
        },
      ),
    );
    fc.assert(
      fc.property(fc.string(), (text) => {
        expect(() => csvIntoCrib(text, crib, 'x.csv')).toThrowError(/lacks/);
      }),
    );
  });

  it('five thousand rows are written and read back', () => {
    const one = crib.assemblies[0]!;
    const many: Crib = {
      ...crib,
      assemblies: Array.from({ length: 4999 }, (_, k) => ({ ...one, id: `m${k}`, number: k + 1 })),
    };
    const { report } = csvIntoCrib(cribToCsv(many), empty, 'many.csv');
    expect(report).toMatchObject({ added: 4999, changed: 0, problems: [] });
  });

  it('a table without the newer columns leaves what it does not tell as it was, also what changes', () => {
    const extension = {
      id: 'e1',
      name: 'Long neck',
      DCONWS: 12,
      clampFrom: null,
      DCONMS: 20,
      stack: [{ bottomDiameter: 18, topDiameter: 20, length: 60 }],
    };
    const [first, ...others] = crib.assemblies;
    const rich: Crib = cribSchema.parse({
      ...crib,
      cutters: crib.cutters.map((c) => ({
        ...c,
        grade: 'HW',
        DCONMS: 12,
        DN: c.DMM - 0.5,
        LN: c.APMX + 2,
        neckTaper: 0.5,
        neckCone: 20,
      })),
      extensions: [extension],
      assemblies: [{ ...first!, extensionIds: ['e1'], retired: true, measuredLength: 180 }, ...others],
    });
    const old = ['grade', 'DCONMS', 'extensions', 'DN', 'LN', 'neckTaper', 'neckCone'];
    const lines = cribToCsv(rich)
      .split('\r\n')
      .map((line) =>
        line
          .split(',')
          .filter((_, k) => !old.includes(TABLE_COLUMNS[k]!))
          .join(','),
      );
    const { crib: back, report } = csvIntoCrib(lines.join('\n'), rich, 'old.csv');
    expect(report.problems).toEqual([]);
    expect(back).toEqual(rich);
    // a figure that the table sets otherwise is no relation any more, and one that it does not still is
    const related: Crib = {
      ...rich,
      assemblies: rich.assemblies.map((a) => ({ ...a, relations: { stickOut: { expr: '4 DC', unit: 'mm' } } })),
    };
    const longer = csvIntoCrib(cribToCsv(rich), related, 'all.csv').crib;
    expect(longer.assemblies[0]!.relations).toEqual({ stickOut: { expr: '4 DC', unit: 'mm' } });
    const other = { ...rich, assemblies: rich.assemblies.map((a) => ({ ...a, stickOut: a.stickOut + 1 })) };
    expect(csvIntoCrib(cribToCsv(other), related, 'all.csv').crib.assemblies[0]!.relations).toEqual({});
    // whole, it comes back whole, and an unknown extension is told with its column
    expect(
      csvIntoCrib(cribToCsv(rich), { ...rich, assemblies: [] }, 'all.csv').crib.assemblies[0]!.extensionIds,
    ).toEqual(['e1']);
    const { report: wrong } = csvIntoCrib(cribToCsv(rich), crib, 'all.csv');
    expect(wrong.problems).toEqual([expect.objectContaining({ row: 1, column: 'extensions' })]);
  });

  it('a comma is told apart by the column, by the table, or asked about; what changes is told with both values', () => {
    const lines = cribToCsv(crib).split('\r\n');
    const read = (mark: string, change: Record<string, string>) => {
      const cells = TABLE_COLUMNS.map((c, i) => change[c] ?? lines[1]!.split(',')[i]!.replace('.', mark));
      const text = [TABLE_COLUMNS, cells].map((row) => row.join(';')).join('\n');
      const { crib: next, report } = csvIntoCrib(text, crib, 'x.csv');
      const made = next.assemblies.find((a) => a.number === 21);
      return made ? { n: made.n, fz: made.fz, stickOut: made.stickOut } : report.problems[0]!.message;
    };
    const row = { T: '21', name: 'new one' };
    const usual = { n: 4200, fz: 0.08, stickOut: 45.5 };
    const comma = { ...row, fz: '0,08', stickOut: '45,5' };
    const point = { ...row, fz: '0.08', stickOut: '45.5' };
    // one column shows what a comma is, the others are read by it
    for (const n of ['4200', '4.200', '4.200,0', "4'200"]) expect(read(',', { ...comma, n })).toEqual(usual);
    for (const n of ['4200', '4,200', '4,200.0', "4'200"]) expect(read('.', { ...point, n })).toEqual(usual);
    // a table that shows both, or nothing
    expect(read('.', { ...comma, n: '4,200' })).toContain('"4,200" may be 4.2 or 4200');
    const whole = Object.fromEntries(TABLE_COLUMNS.map((c, i) => [c, lines[1]!.split(',')[i]!.replace(/\.\d+$/, '')]));
    expect(read('.', { ...whole, ...row, fz: '1', n: '4,200' })).toContain('"4,200" may be 4.2 or 4200');
    for (const n of ['4,20,0', '4.2.00', '0x10', '4..2', '1.2345,6', 'Infinity'])
      expect(read('.', { ...point, n })).toContain('is not a number');
    const { n, stickOut } = crib.assemblies[0]!;
    const lower = lines.map((line, k) => (k === 1 ? line.replace(`,${n},`, `,${n + 500},`) : line)).join('\n');
    const { report } = csvIntoCrib(lower, crib, 'x.csv');
    expect(stickOut).not.toBe(n);
    expect(report).toMatchObject({ changed: 1, same: 3 });
    expect(report.changes).toEqual([{ row: 1, number: 1, column: 'n', from: String(n), to: String(n + 500) }]);
  });

  it('what does not fit into its clamp, or shares a length offset, is refused with both names and sizes', () => {
    const of = (change: object, assembly: object = {}): string => {
      const read = cribSchema.safeParse({
        ...crib,
        cutters: crib.cutters.map((c) => ({ ...c, DCONMS: 12 })),
        holders: [{ ...crib.holders[0]!, ...change }],
        assemblies: [{ ...crib.assemblies[0]!, ...assembly }, ...crib.assemblies.slice(1)],
      });
      return read.success ? '' : read.error.issues[0]!.message;
    };
    expect(of({ DCONWS: 12 })).toBe('');
    expect(of({ DCONWS: 20, clampFrom: 10 })).toBe('');
    expect(of({ DCONWS: 10 })).toMatch(/connection of 12 mm, but "[^"]+" takes 10 mm/);
    expect(of({ DCONWS: 20, clampFrom: 13 })).toMatch(/takes 13 to 20 mm/);
    expect(of({}, { extensionIds: ['none'] })).toMatch(/an extension that is not in the crib/);
    // H of one place is the place of another: the wrong length would be used
    expect(of({}, { lengthOffset: 2 })).toMatch(/T2 and T1 would share the length offset H2/);
    expect(of({}, { lengthOffset: 51 })).toBe('');
  });

  it('an extension stands between cutter and holder: the holder begins, and the tool is gauged, that much higher', () => {
    const stack = [{ bottomDiameter: 18, topDiameter: 20, length: 60 }];
    const extension = { id: 'e1', name: 'Long neck', DCONWS: null, clampFrom: null, DCONMS: null, stack };
    const bare = toolsOf(crib)[0]!;
    const long = { ...bare, extensions: [extension] };
    expect(gaugeLength(long) - gaugeLength(bare)).toBe(60);
    expect(overhangOf(long)).toBe(bare.assembly.stickOut + 60);
    expect(holderProfile(shapeOf(long))[0]!.z).toBe(bare.assembly.stickOut);
    expect(holderProfile(shapeOf(long)).at(-1)!.z).toBeCloseTo(holderProfile(shapeOf(bare)).at(-1)!.z + 60, 9);
  });

  it('drills, taps and the like stand in the crib, but do not mill surfaces', () => {
    for (const kind of ['drill', 'tap', 'chamfer', 'bore'] as const)
      expect(refusesMilling({ kind })).toMatch(/choose an end mill/);
    for (const kind of ['flat', 'ball', 'bull', 'high-feed', 'face'] as const)
      expect(refusesMilling({ kind })).toBeUndefined();
  });
});
