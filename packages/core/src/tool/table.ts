import Papa from 'papaparse';
import { EsquisseError } from '../base/errors';
import { DecimalMarks } from './decimals';
import {
  type Assembly,
  assemblySchema,
  type Crib,
  cribSchema,
  type Cutter,
  CUTTER_BOUNDS,
  cutterSchema,
  type Tool,
  toolsOf,
} from './library';

/** Columns of the crib as a table: ISO 13399 symbols where there is one. */
export const TABLE_COLUMNS = [
  'T',
  'name',
  'kind',
  'DC',
  'RE',
  'APMX',
  'DMM',
  'OAL',
  'ZEFP',
  'SIG',
  'TP',
  'DN',
  'LN',
  'neckTaper',
  'neckCone',
  'centreCutting',
  ...CUTTER_BOUNDS,
  'grade',
  'DCONMS',
  'holder',
  'extensions',
  'stickOut',
  'n',
  'fz',
] as const;

/** Columns that a table may lack: what they tell then stays as it is, or is the usual. */
const OPTIONAL: readonly string[] = [
  'SIG',
  'TP',
  'DN',
  'LN',
  'neckTaper',
  'neckCone',
  'centreCutting',
  ...CUTTER_BOUNDS,
  'grade',
  'DCONMS',
  'extensions',
];
/** Between the names of several extensions. */
const THEN = ' + ';

/** What became of the rows of a table. Rows count from 1, the first one after the heading. */
export interface TableReport {
  added: number;
  changed: number;
  /** Rows that say what the crib says already. */
  same: number;
  problems: { row: number; column: string; message: string }[];
  /** What was taken and is to be looked at. */
  doubts?: { row: number; column: string; message: string }[];
  /** Values of known assemblies that the table set otherwise. */
  changes: { row: number; number: number; column: string; from: string; to: string }[];
}

/** Columns that hold numbers. */
const NUMBERS = [
  'T',
  'DC',
  'RE',
  'APMX',
  'DMM',
  'OAL',
  'ZEFP',
  'SIG',
  'TP',
  'DN',
  'LN',
  'neckTaper',
  'neckCone',
  ...CUTTER_BOUNDS,
  'DCONMS',
  'stickOut',
  'n',
  'fz',
] as const;

/** The crib's assemblies as comma-separated text with a heading. */
export function cribToCsv(crib: Crib): string {
  return Papa.unparse({
    fields: [...TABLE_COLUMNS],
    data: toolsOf(crib).map(rowOf),
  });
}

/** A tool as the table has it, in the order of its columns. */
function rowOf({ assembly: a, cutter: c, extensions, holder }: Tool): (string | number)[] {
  return [
    a.number,
    c.name,
    c.kind,
    c.DC,
    c.RE,
    c.APMX,
    c.DMM,
    c.OAL,
    c.ZEFP,
    c.SIG,
    c.TP,
    c.DN ?? '',
    c.LN ?? '',
    c.neckTaper,
    c.neckCone,
    c.centreCutting ? 'yes' : 'no',
    ...CUTTER_BOUNDS.map((key) => c[key] ?? ''),
    c.grade,
    c.DCONMS ?? '',
    holder.name,
    extensions.map((e) => e.name).join(THEN),
    a.stickOut,
    a.n,
    a.fz,
  ];
}

/**
 * Takes rows of a table into a crib. A row whose number and cutter's name are known changes that assembly; a row with a new
 * number adds one; every other row is left out and told with its column. The crib given stays as it was.
 *
 * @throws EsquisseError `file-kind` when the heading lacks a column, `value-invalid` when the crib cannot hold all of it
 */
export function csvIntoCrib(text: string, crib: Crib, source: string): { crib: Crib; report: TableReport } {
  const parsed = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
  });
  const fields = parsed.meta.fields ?? [];
  const twice = Object.values(parsed.meta.renamedHeaders ?? {}).find((name) => name !== '');
  if (twice !== undefined)
    throw new EsquisseError('file-kind', `The heading of "${source}" names ${twice} twice.`, 'heading');
  const missing = TABLE_COLUMNS.filter((c) => !fields.includes(c) && !OPTIONAL.includes(c));
  if (missing.length > 0)
    throw new EsquisseError(
      'file-kind',
      `"${source}" is no table of cutters: its heading lacks ${missing.join(', ')}.`,
      'heading',
    );
  const report: TableReport = { added: 0, changed: 0, same: 0, problems: [], changes: [] };
  const marks = new DecimalMarks(new Map(NUMBERS.map((c) => [c, parsed.data.map((cells) => cells[c] ?? '')])));
  const next = {
    cutters: [...crib.cutters],
    holders: crib.holders,
    extensions: crib.extensions,
    assemblies: [...crib.assemblies],
  };
  const byNumber = new Map(next.assemblies.map((a, i) => [a.number, i]));
  const cutterIndex = new Map(next.cutters.map((c, i) => [c.id, i]));
  const clamps: Clamps = {
    holders: new Map(crib.holders.map((h) => [h.name, h.id])),
    extensions: new Map(crib.extensions.map((e) => [e.name, e.id])),
  };
  const ids = new Set([...next.cutters.map((c) => c.id), ...next.assemblies.map((a) => a.id)]);
  const fresh = (prefix: string): string => {
    let n = ids.size + 1;
    while (ids.has(`${prefix}${n}`)) n++;
    ids.add(`${prefix}${n}`);
    return `${prefix}${n}`;
  };
  parsed.data.forEach((cells, k) => {
    const row = k + 1;
    const read = readRow(cells, row, clamps, report, marks);
    if (!read) return;
    const known = byNumber.get(read.assembly.number);
    if (known === undefined) {
      const cutterId = fresh('c');
      next.cutters.push({ ...read.cutter, id: cutterId });
      byNumber.set(read.assembly.number, next.assemblies.length);
      cutterIndex.set(cutterId, next.cutters.length - 1);
      next.assemblies.push({ ...read.assembly, id: fresh('t'), cutterId });
      report.added++;
      return;
    }
    const old = next.assemblies[known]!;
    const place = cutterIndex.get(old.cutterId)!;
    if (next.cutters[place]!.name !== read.cutter.name) {
      report.problems.push({
        row,
        column: 'T',
        message: `T${old.number} is "${next.cutters[place]!.name}" in the crib; give "${read.cutter.name}" another number.`,
      });
      return;
    }
    next.assemblies[known] = changed(old, read.assembly, fields.includes('extensions'));
    const before = next.cutters[place]!;
    if (!fields.includes('grade')) read.cutter.grade = before.grade;
    if (!fields.includes('DCONMS')) read.cutter.DCONMS = before.DCONMS;
    // a table that tells nothing of necks takes none away
    if (!fields.includes('DN') && !fields.includes('LN')) Object.assign(read.cutter, { DN: before.DN, LN: before.LN });
    if (!fields.includes('neckTaper')) read.cutter.neckTaper = before.neckTaper;
    if (!fields.includes('neckCone')) read.cutter.neckCone = before.neckCone;
    for (const key of CUTTER_BOUNDS) if (!fields.includes(key)) read.cutter[key] = before[key];
    if (!sameSizes(before, read.cutter)) {
      // a cutter that stands in another assembly too stays as it is there
      const shared = next.assemblies.some((a, i) => i !== known && a.cutterId === old.cutterId);
      const cutterId = shared ? fresh('c') : old.cutterId;
      if (shared) {
        cutterIndex.set(cutterId, next.cutters.length);
        next.cutters.push({ ...read.cutter, id: cutterId });
        next.assemblies[known] = { ...next.assemblies[known]!, cutterId };
      } else next.cutters[place] = { ...read.cutter, id: cutterId };
    }
    const now = next.assemblies[known]!;
    const one = (assembly: Assembly, cutter: Cutter): Crib => ({ ...next, cutters: [cutter], assemblies: [assembly] });
    const was = rowOf(toolsOf(one(old, before))[0]!);
    const is = rowOf(toolsOf(one(now, next.cutters[cutterIndex.get(now.cutterId)!]!))[0]!);
    const changes = TABLE_COLUMNS.flatMap((column, c) => {
      const [from, to] = [String(was[c]), String(is[c])];
      return from === to ? [] : [{ row, number: old.number, column, from, to }];
    });
    report.changes.push(...changes);
    if (changes.length > 0) report.changed++;
    else report.same++;
  });
  const checked = cribSchema.safeParse(next);
  if (checked.success) return { crib: checked.data, report };
  const issue = checked.error.issues[0]!;
  throw new EsquisseError(
    'value-invalid',
    `"${source}" does not fit into the crib: ${issue.message}`,
    issue.path.join('.'),
  );
}

/** What a table does not tell of an assembly stays; speed and feed that it sets otherwise are set by hand. */
function changed(old: Assembly, now: Assembly, tellsExtensions: boolean): Assembly {
  const { holderId, stickOut, n, fz } = now;
  const extensionIds = tellsExtensions ? now.extensionIds : old.extensionIds;
  const next = {
    ...old,
    holderId,
    extensionIds,
    stickOut,
    n,
    fz,
    data: n === old.n && fz === old.fz ? old.data : null,
  };
  // what the table sets otherwise is no relation any more
  const kept = Object.entries(old.relations ?? {}).filter(
    ([key]) => next[key as keyof Assembly] === old[key as keyof Assembly],
  );
  return old.relations ? { ...next, relations: Object.fromEntries(kept) } : next;
}

function sameSizes(a: Cutter, b: Cutter): boolean {
  const bare = (cutter: Cutter): string =>
    JSON.stringify({ ...cutterSchema.parse(cutter), id: '', relations: undefined });
  return bare(a) === bare(b);
}

/** Ids of what clamps, by name. */
interface Clamps {
  holders: ReadonlyMap<string, string>;
  extensions: ReadonlyMap<string, string>;
}

function readRow(
  cells: Record<string, string>,
  row: number,
  { holders, extensions }: Clamps,
  report: TableReport,
  marks: DecimalMarks,
): { cutter: Cutter; assembly: Assembly } | undefined {
  const wrong = (column: string, message: string): undefined => {
    report.problems.push({ row, column, message });
    return undefined;
  };
  const number = (column: string, empty = NaN): number => {
    const text = (cells[column] ?? '').trim();
    return text === '' ? empty : (marks.read(column, text) ?? NaN);
  };
  for (const column of NUMBERS) {
    const text = (cells[column] ?? '').trim();
    if (text === '' && OPTIONAL.includes(column)) continue;
    if (text !== '' && marks.read(column, text) === undefined)
      return wrong(
        column,
        `"${text}" may be ${Number(text.replace(',', '.'))} or ${text.replace(/[.,]/, '')}, and the table does not tell which: write it without the mark between thousands.`,
      );
    if (!Number.isFinite(number(column))) return wrong(column, `"${text}" is not a number.`);
  }
  const holderId = holders.get((cells['holder'] ?? '').trim());
  if (holderId === undefined) return wrong('holder', `There is no holder "${cells['holder'] ?? ''}" in the crib.`);
  const between = (cells['extensions'] ?? '')
    .split(THEN)
    .map((n) => n.trim())
    .filter(Boolean);
  const unknown = between.find((n) => !extensions.has(n));
  if (unknown !== undefined) return wrong('extensions', `There is no extension "${unknown}" in the crib.`);
  const isGiven = (column: string): boolean => (cells[column] ?? '').trim() !== '';
  const orNone = (column: (typeof NUMBERS)[number]): number | null => (isGiven(column) ? number(column) : null);
  const given = (column: 'neckTaper' | 'neckCone'): object => (isGiven(column) ? { [column]: number(column) } : {});
  const cutter = cutterSchema.safeParse({
    id: 'new',
    name: (cells['name'] ?? '').trim(),
    kind: (cells['kind'] ?? '').trim(),
    DC: number('DC'),
    RE: number('RE'),
    APMX: number('APMX'),
    DMM: number('DMM'),
    OAL: number('OAL'),
    ZEFP: number('ZEFP'),
    SIG: number('SIG', 0),
    TP: number('TP', 0),
    DN: orNone('DN'),
    LN: orNone('LN'),
    ...given('neckTaper'),
    ...given('neckCone'),
    ...Object.fromEntries(CUTTER_BOUNDS.map((key) => [key, orNone(key)])),
    centreCutting: /^(yes|true|1)$/i.test((cells['centreCutting'] ?? '').trim()),
    grade: (cells['grade'] ?? '').trim() || undefined,
    DCONMS: orNone('DCONMS'),
  });
  if (!cutter.success) return wrong(String(cutter.error.issues[0]!.path[0] ?? 'name'), cutter.error.issues[0]!.message);
  const assembly = assemblySchema.safeParse({
    id: 'new',
    number: number('T'),
    cutterId: 'new',
    holderId,
    extensionIds: between.map((n) => extensions.get(n)!),
    stickOut: number('stickOut'),
    n: number('n'),
    fz: number('fz'),
  });
  if (!assembly.success)
    return wrong(String(assembly.error.issues[0]!.path[0] ?? 'T'), assembly.error.issues[0]!.message);
  const { APMX, OAL } = cutter.data;
  if (assembly.data.stickOut < APMX || assembly.data.stickOut > OAL)
    return wrong('stickOut', `A stick-out of ${assembly.data.stickOut} mm is not between APMX ${APMX} and OAL ${OAL}.`);
  return { cutter: cutter.data, assembly: assembly.data };
}
