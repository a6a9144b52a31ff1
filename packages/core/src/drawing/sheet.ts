import { EsquisseError } from '../base/errors';
import type { Point2 } from '../geometry/outline';

/** Chords leave curves by no more than this, mm. */
export const CHORD_MM = 0.01;
/** A drawing that reaches farther than a kilometre from its zero is damaged, mm. */
const FARTHEST_MM = 1e6;
/** Corners of all lines of a drawing at most; more need more memory and time than a drawing of an insert is worth. */
const MOST_POINTS = 2_000_000;

/** A kind of thing in a drawing that is not read. */
interface NotRead {
  count: number;
  /** Whether it could be part of an outline, unlike text and dimensions. */
  isShape: boolean;
  /** Points that it goes through, as far as they are known. */
  points: Point2[];
}

/** What a drawing holds: its lines in millimetres, Y upward, and what of it was not read. */
export class Sheet {
  readonly lines: Point2[][] = [];
  readonly notRead = new Map<string, NotRead>();
  /** What is to be told of the drawing, as sentences. */
  readonly notes: string[] = [];
  private count = 0;

  constructor(readonly fileName: string) {}

  /** An error about this drawing; `what` is put behind its name. */
  wrong(what: string, place?: string): EsquisseError {
    return new EsquisseError('file-unreadable', `"${this.fileName}" ${what}.`, place ?? this.fileName);
  }

  /** @throws EsquisseError when the line leaves all bounds */
  add(points: Point2[]): void {
    this.take(points.length);
    for (const point of points) this.bound(point);
    if (points.length > 1) this.lines.push(points);
  }

  /** @throws EsquisseError when a point leaves all bounds */
  bound([x, y]: Point2): void {
    if (!(Math.abs(x) <= FARTHEST_MM && Math.abs(y) <= FARTHEST_MM))
      throw this.wrong(`reaches X ${x} Y ${y} mm, more than a kilometre from its zero: it is damaged`);
  }

  /** Counts corners before they are made. @throws EsquisseError when there are too many */
  take(points: number): void {
    this.count += points;
    if (!(this.count <= MOST_POINTS))
      throw this.wrong(`comes to more than ${MOST_POINTS} corners of lines; save only the outline`);
  }

  /** Notes something that is not read. @param points where it lies, for what could be part of an outline */
  skip(what: string, isShape: boolean, points: readonly Point2[] = []): void {
    const known = this.notRead.get(what) ?? { count: 0, isShape, points: [] };
    known.count++;
    for (const point of points) known.points.push(point);
    this.notRead.set(what, known);
  }
}
