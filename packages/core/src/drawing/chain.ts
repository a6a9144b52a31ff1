import type { Point2 } from '../geometry/outline';

/** Ends of lines nearer than this meet, mm. */
export const MEET_MM = 0.02;

/** Lines that agree within this lie twice on the same place, mm. */
const SAME_MM = 1e-4;

/** Lines joined at their ends. */
export interface Chains {
  /** Closed outlines, without the repeated last point. */
  readonly closed: Point2[][];
  readonly open: Point2[][];
}

/** Joins lines whose ends meet, each end with the nearest free one; time proportional to the number of lines. */
export function chained(lines: readonly Point2[][]): Chains {
  const closed: Point2[][] = [];
  const open: Point2[][] = [];
  const loose = withoutDoubles(lines);
  const ends = new Ends(loose);
  loose.forEach((line, first) => {
    if (!ends.take(first)) return;
    let chain = line;
    for (const isTurned of [false, true]) {
      // a line that stays open is followed from its other end too
      if (isTurned) chain.reverse();
      for (;;) {
        const next = ends.at(last(chain));
        // it is closed when its beginning is nearer than any other line: short ones begin within reach of their own end
        if (isClosed(chain) && !(next && next.away < gap(chain))) break;
        if (!next) break;
        ends.take(next.line);
        const piece = loose[next.line]!;
        const ordered = next.isEnd ? [...piece].reverse() : piece;
        if (chain === line) chain = [...line];
        for (let k = 1; k < ordered.length; k++) chain.push(ordered[k]!);
      }
    }
    if (isClosed(chain)) closed.push(chain.slice(0, -1));
    else open.push(chain);
  });
  return { closed, open };
}

const last = (line: readonly Point2[]): Point2 => line[line.length - 1]!;
/** How far a line's ends are apart, mm. */
const gap = (line: readonly Point2[]): number => Math.hypot(line[0]![0] - last(line)[0], line[0]![1] - last(line)[1]);
const isClosed = (line: readonly Point2[]): boolean => line.length > 2 && gap(line) <= MEET_MM;
const key = (x: number, y: number): string => `${x},${y}`;
const place = (v: number): number => Math.floor(v / MEET_MM);

/** Lines of some length, those that lie twice on the same place once: one drawn over another would close with it. */
function withoutDoubles(lines: readonly Point2[][]): Point2[][] {
  const seen = new Set<string>();
  return lines
    .filter((line) => line.length > 2 || gap(line) > 0)
    .filter((line) => {
      const rounded = line.map(([x, y]) => key(Math.round(x / SAME_MM), Math.round(y / SAME_MM)));
      const way = rounded.join(' ');
      if (seen.has(way)) return false;
      seen.add(way).add(rounded.reverse().join(' '));
      return true;
    });
}

interface End {
  readonly line: number;
  readonly isEnd: boolean;
}

/** The ends of lines that are still free, by where they lie. */
class Ends {
  private readonly cells = new Map<string, End[]>();
  private readonly taken: Uint8Array;

  constructor(private readonly lines: readonly Point2[][]) {
    this.taken = new Uint8Array(lines.length);
    lines.forEach((points, line) => {
      for (const isEnd of [false, true]) {
        const [x, y] = isEnd ? last(points) : points[0]!;
        const cell = key(place(x), place(y));
        const there = this.cells.get(cell);
        if (there) there.push({ line, isEnd });
        else this.cells.set(cell, [{ line, isEnd }]);
      }
    });
  }

  /** Takes a line's ends away; false when it was taken before. */
  take(line: number): boolean {
    if (this.taken[line]) return false;
    this.taken[line] = 1;
    return true;
  }

  /** The nearest free end that meets a point. */
  at([x, y]: Point2): (End & { away: number }) | undefined {
    let best: (End & { away: number }) | undefined;
    let nearest = MEET_MM;
    for (let i = place(x) - 1; i <= place(x) + 1; i++)
      for (let j = place(y) - 1; j <= place(y) + 1; j++) {
        const there = this.cells.get(key(i, j));
        if (!there) continue;
        // ends that were taken are looked at once only
        const free = there.filter(({ line }) => !this.taken[line]);
        if (free.length < there.length) this.cells.set(key(i, j), free);
        for (const end of free) {
          const [u, v] = end.isEnd ? last(this.lines[end.line]!) : this.lines[end.line]![0]!;
          const far = Math.hypot(u - x, v - y);
          if (far <= nearest) [best, nearest] = [{ ...end, away: far }, far];
        }
      }
    return best;
  }
}
