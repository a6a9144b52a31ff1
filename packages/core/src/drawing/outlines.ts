import { insideOutline, outlineArea, type Point2 } from '../geometry/outline';
import { EsquisseError } from '../base/errors';
import { chained, MEET_MM } from './chain';
import { readDxf } from './dxf';
import { Sheet } from './sheet';
import { readSvg } from './svg';

/** A closed outline in plan, mm, with the area inside it, mm². */
export interface Outline {
  points: Point2[];
  area: number;
}

/** The closed outlines of a drawing, largest first, and what is to be told of it, as sentences. */
export interface Outlines {
  outlines: [Outline, ...Outline[]];
  notes: string[];
}

/** A kind of drawing that outlines are read from. */
export interface DrawingFormat {
  name: string;
  ending: string;
  read: (text: string, sheet: Sheet) => void;
}

/** All kinds. A new one is a file and an entry here. */
export const DRAWING_FORMATS: readonly DrawingFormat[] = [
  { name: 'DXF', ending: 'dxf', read: readDxf },
  { name: 'SVG', ending: 'svg', read: readSvg },
];

/** Outlines smaller than this are marks, mm². */
const LEAST_MM2 = 1;

/**
 * Reads the closed outlines of a drawing by its ending; Y upward. Where something that is not read, or a line that stays open,
 * could be a larger outline than the largest one found, nothing is taken.
 *
 * @throws EsquisseError `file-kind`, `file-truncated` or `file-unreadable` with what is wrong
 */
export function readOutlines(fileName: string, text: string): Outlines {
  const ending = fileName.split('.').pop()?.toLowerCase();
  const format = DRAWING_FORMATS.find((f) => f.ending === ending);
  if (!format)
    throw new EsquisseError(
      'file-kind',
      `"${fileName}" is no drawing that is read: outlines come as ${DRAWING_FORMATS.map((f) => f.name).join(' or ')}.`,
    );
  const sheet = new Sheet(fileName);
  format.read(text, sheet);
  const { closed, open } = chained(sheet.lines);
  const outlines = closed
    .map((points) => ({ points, area: outlineArea(points) }))
    .filter((o) => o.points.length >= 3 && o.area > LEAST_MM2)
    .sort((a, b) => b.area - a.area);
  const [largest, ...others] = outlines;
  const widest = open
    .map((points) => ({ points, area: outlineArea(points) }))
    .filter(({ points, area }) => area > (largest?.area ?? 0) && gapOf(points) < lengthOf(points) / 2)
    .sort((a, b) => b.area - a.area)[0];
  if (widest) {
    const [x, y] = widest.points[widest.points.length - 1]!;
    const than = largest ? 'a line that encloses more than its largest closed outline' : 'its largest line';
    throw sheet.wrong(
      `holds no closed outline that is sure to be meant: ${than} stays open by ${gapOf(widest.points).toFixed(3)} mm at X ${x.toFixed(3)} Y ${y.toFixed(3)}; lines meet within ${MEET_MM} mm`,
    );
  }
  refuseUnread(sheet, largest?.area ?? 0);
  if (!largest) throw sheet.wrong(`holds no closed outline${unreadWords(sheet)}`);
  const notes = [...sheet.notes];
  if (sheet.notRead.size > 0)
    notes.push(`Not read: ${[...sheet.notRead].map(([w, n]) => `${n.count} ${w}`).join(', ')}.`);
  const besides = others.filter((o) => !insideOutline(largest.points, ...o.points[0]!)).length;
  if (besides > 0)
    notes.push(
      `${besides} ${besides === 1 ? 'outline lies' : 'outlines lie'} beside the largest and ${besides === 1 ? 'is' : 'are'} not taken.`,
    );
  if (open.length > 0)
    notes.push(
      `${open.length} ${open.length === 1 ? 'line that stays' : 'lines that stay'} open ${open.length === 1 ? 'is' : 'are'} not taken.`,
    );
  return { outlines: [largest, ...others], notes };
}

/** @throws EsquisseError when something that is not read could be a larger outline than the largest one found */
function refuseUnread(sheet: Sheet, area: number): void {
  for (const [what, { count, isShape, points }] of sheet.notRead) {
    if (!isShape) continue;
    const width = (c: 0 | 1): number => {
      const values = points.map((p) => p[c]);
      return values.reduce((a, b) => Math.max(a, b), -Infinity) - values.reduce((a, b) => Math.min(a, b), Infinity);
    };
    // of a shape without points nothing is known
    if (points.length > 0 && width(0) * width(1) <= area) continue;
    throw sheet.wrong(
      `holds ${count} ${what}, which ${count === 1 ? 'is' : 'are'} not read and may be the outline; save it as lines, arcs and curves`,
    );
  }
}

function unreadWords(sheet: Sheet): string {
  const words = [...sheet.notRead].map(([what, { count }]) => `${count} ${what}`);
  return words.length > 0 ? `; not read: ${words.join(', ')}` : '';
}

function gapOf(line: readonly Point2[]): number {
  const [a, b] = [line[0]!, line[line.length - 1]!];
  return Math.hypot(a[0] - b[0], a[1] - b[1]);
}

function lengthOf(line: readonly Point2[]): number {
  let length = 0;
  for (let k = 1; k < line.length; k++)
    length += Math.hypot(line[k]![0] - line[k - 1]![0], line[k]![1] - line[k - 1]![1]);
  return length;
}
