/** What parts whole from fraction in a column of numbers. */
type Mark = '.' | ',';

/** What the numbers of a column or of a whole table show about their marks. */
interface Evidence {
  readonly decimal: ReadonlySet<Mark>;
  /** Marks between thousands. */
  readonly grouping: ReadonlySet<Mark>;
}

/**
 * Tells what a comma or a point in the numbers of a table means: decimals in one country, thousands in another. A column is
 * told by what its own numbers can only mean; a column that leaves it open by all other columns.
 */
export class DecimalMarks {
  private readonly columns = new Map<string, Evidence>();
  private readonly all: Evidence;

  /** @param cells the texts of each column */
  constructor(cells: ReadonlyMap<string, readonly string[]>) {
    for (const [column, texts] of cells) this.columns.set(column, evidenceOf(texts));
    this.all = evidenceOf([...cells.values()].flat());
  }

  /** The number that a cell holds; NaN for none, `undefined` where it can mean two. */
  read(column: string, cell: string): number | undefined {
    const text = cell.trim().replace(/['\s\u00a0\u202f](?=\d{3}(?:\D|$))/g, '');
    if (!/^[+-]?[\d.,]*\d[\d.,]*(?:[eE][+-]?\d+)?$/.test(text)) return NaN;
    if (!/[.,]/.test(text)) return Number(text);
    const mark = this.decimalMark(column, text);
    if (mark === undefined) return undefined;
    const other = mark === ',' ? '.' : ',';
    const [whole, ...fractions] = text.split(mark);
    const groups = whole!.replace(/^[+-]/, '').split(other);
    // thousands stand in groups of three, and nowhere behind the decimals
    const isGrouped =
      groups.length === 1 || (/^\d{1,3}$/.test(groups[0]!) && groups.slice(1).every((g) => /^\d{3}$/.test(g)));
    if (!isGrouped || fractions.length > 1 || fractions[0]?.includes(other)) return NaN;
    return Number(`${whole!.split(other).join('')}.${fractions[0] ?? ''}`);
  }

  private decimalMark(column: string, text: string): Mark | undefined {
    for (const { decimal, grouping } of [evidenceOf([text]), this.columns.get(column)!, this.all]) {
      const marks = (['.', ','] as const).filter((m) => decimal.has(m) || grouping.has(m === '.' ? ',' : '.'));
      if (marks.length === 1) return marks[0];
      // a column that speaks for both tells nothing
      if (marks.length === 2) return undefined;
    }
    // nothing in the table tells: a point is the decimal point of CSV, a comma may be either
    return text.includes(',') ? undefined : '.';
  }
}

function evidenceOf(texts: readonly string[]): Evidence {
  const decimal = new Set<Mark>();
  const grouping = new Set<Mark>();
  for (const text of texts) {
    const marks = [...text].filter((c): c is Mark => c === '.' || c === ',');
    const last = marks[marks.length - 1];
    if (!last) continue;
    if (new Set(marks).size === 2) {
      decimal.add(last);
      grouping.add(marks[0]!);
    } else if (marks.length > 1) grouping.add(last);
    else {
      const [whole, fraction] = text.trim().replace(/^[+-]/, '').split(last);
      // thousands: one to three digits that do not begin with a nought, and three behind them
      if (!/^[1-9]\d{0,2}$/.test(whole!) || !/^\d{3}$/.test(fraction!)) decimal.add(last);
    }
  }
  return { decimal, grouping };
}
