import Papa from 'papaparse';
import { EsquisseError } from '../base/errors';
import { DecimalMarks } from './decimals';
import { type Assembly, type Crib, cribSchema, type Tool, toolsOf } from './library';
import { gaugeLength } from './shape';
import type { TableReport } from './table';

const MEASURED = ['measuredLength', 'measuredDiameter', 'measuredRadius'] as const;
type Measured = (typeof MEASURED)[number];

/** Columns of the list for the presetter: what is to be built and measured, and room for what was. */
export const PRESETTER_COLUMNS = [
  'T',
  'H',
  'cutter',
  'holder',
  'stickOut',
  'length',
  'diameter',
  'radius',
  ...MEASURED,
] as const;

/** A length that was measured this far from the nominal one means that the assembly is built otherwise, mm (common practice). */
const LENGTH_OFF_MM = 1;
/** A diameter or radius so far from the nominal one is that of another cutter, as a share of the diameter (common practice). */
const SIZE_OFF = 0.03;

/** The list for the presetter, as comma-separated text with a heading; lengths in mm, from the tip to the spindle's gauge line. */
export function presetterList(tools: readonly Tool[]): string {
  return Papa.unparse({
    fields: [...PRESETTER_COLUMNS],
    data: [...tools]
      .sort((a, b) => a.assembly.number - b.assembly.number)
      .map((tool) => {
        const { assembly: a, cutter, extensions, holder } = tool;
        return [
          a.number,
          a.lengthOffset ?? a.number,
          cutter.name,
          [...extensions, holder].map((c) => c.name).join(' + '),
          a.stickOut,
          Math.round(1e3 * gaugeLength(tool)) / 1e3,
          cutter.DC,
          cutter.RE,
          ...MEASURED.map((key) => a[key] ?? ''),
        ];
      }),
  });
}

/** Whether a table is what came back from the presetter, and not a table of cutters. */
export function isMeasuredList(text: string): boolean {
  const { fields = [] } = Papa.parse(text.replace(/^\uFEFF/, ''), { header: true, preview: 1 }).meta;
  return MEASURED.some((key) => fields.includes(key)) && !fields.includes('kind');
}

/**
 * Takes what the presetter measured into a crib: rows by their T, other columns than the measured ones are not looked at, and
 * an empty cell leaves what is there. A size that can only be another cutter's is left out and told; a length that is not the
 * nominal one is taken, and told. The crib given stays.
 *
 * @throws EsquisseError `file-kind` when the heading lacks T or all of the measured sizes
 */
export function measuredIntoCrib(text: string, crib: Crib, source: string): { crib: Crib; report: TableReport } {
  const { data, meta } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
  });
  const fields = meta.fields ?? [];
  const told = MEASURED.filter((key) => fields.includes(key));
  if (!fields.includes('T') || told.length === 0)
    throw new EsquisseError(
      'file-kind',
      `"${source}" is no list of the presetter: its heading wants T and one of ${MEASURED.join(', ')}.`,
      'heading',
    );
  const doubts: NonNullable<TableReport['doubts']> = [];
  const report: TableReport = { added: 0, changed: 0, same: 0, problems: [], doubts, changes: [] };
  const marks = new DecimalMarks(new Map(['T', ...told].map((c) => [c, data.map((cells) => cells[c] ?? '')])));
  const byNumber = new Map(toolsOf(crib).map((tool) => [tool.assembly.number, tool]));
  const changed = new Map<string, Assembly>();
  const seen = new Set<number>();
  data.forEach((cells, k) => {
    const row = k + 1;
    const wrong = (column: string, message: string): void => void report.problems.push({ row, column, message });
    const number = marks.read('T', cells['T'] ?? '');
    const tool = byNumber.get(number ?? NaN);
    if (!tool) return wrong('T', `There is no T${(cells['T'] ?? '').trim()} in the crib.`);
    if (seen.has(number!)) return wrong('T', `T${number} is there twice.`);
    seen.add(number!);
    const sizes: Partial<Record<Measured, number>> = {};
    for (const column of told) {
      const cell = (cells[column] ?? '').trim();
      if (cell === '') continue;
      const value = marks.read(column, cell);
      const problem =
        value === undefined ? `"${cell}" may be two numbers: write it with a point.` : doubt(tool, column, value);
      if (problem) return wrong(column, problem);
      sizes[column] = value!;
      const off = column === 'measuredLength' ? builtOtherwise(tool, value!) : undefined;
      if (off) doubts.push({ row, column, message: off });
    }
    const changes = (Object.keys(sizes) as Measured[]).filter((key) => sizes[key] !== tool.assembly[key]);
    if (changes.length === 0) {
      report.same++;
      return;
    }
    report.changed++;
    for (const column of changes)
      report.changes.push({
        row,
        number: number!,
        column,
        from: String(tool.assembly[column] ?? 'not measured'),
        to: String(sizes[column]),
      });
    changed.set(tool.assembly.id, { ...tool.assembly, ...sizes });
  });
  const next = { ...crib, assemblies: crib.assemblies.map((a) => changed.get(a.id) ?? a) };
  const checked = cribSchema.safeParse(next);
  if (checked.success) return { crib: checked.data, report };
  throw new EsquisseError('value-invalid', `"${source}": ${checked.error.issues[0]!.message}`);
}

/** Why a measured size cannot be taken for a tool. */
function doubt(tool: Tool, column: Measured, value: number): string | undefined {
  const { cutter, assembly } = tool;
  if (!Number.isFinite(value) || value < 0 || (value === 0 && column !== 'measuredRadius')) return 'It is no size.';
  if (column === 'measuredLength') return undefined;
  const nominal = column === 'measuredDiameter' ? cutter.DC : cutter.RE;
  return Math.abs(value - nominal) > SIZE_OFF * cutter.DC
    ? `T${assembly.number} measures ${value} mm, and is to be ${nominal} mm: it is another cutter.`
    : undefined;
}

/** That an assembly stands out otherwise than it is checked for, if its measured length says so. */
function builtOtherwise(tool: Tool, measured: number): string | undefined {
  const nominal = Math.round(1e3 * gaugeLength(tool)) / 1e3;
  const number = `T${tool.assembly.number}`;
  return Math.abs(measured - nominal) > LENGTH_OFF_MM
    ? `${number} measures ${measured} mm, and is to be ${nominal} mm: shank and holder are checked for that unless it is taken as measured. Look at its stick-out and gauge line.`
    : undefined;
}
