import DxfParser from 'dxf-parser';
import { SVGPathData } from 'svg-pathdata';
import { EsquisseError, messageOf } from '../base/errors';

export type Point2 = [number, number];

/** A closed outline in plan, mm, with the area inside it, mm². */
export interface Outline {
  points: Point2[];
  area: number;
}

/** Chords leave arcs by no more than this, mm. */
const CHORD_MM = 0.01;
/** Ends of lines nearer than this meet, mm. */
const MEET_MM = 0.02;
/** mm for the unit numbers of a drawing's header ($INSUNITS). */
const DXF_UNITS: Record<number, number> = { 0: 1, 1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000 };
/** mm for the units of a drawing's width; 96 px an inch (CSS). */
const SVG_UNITS: Record<string, number> = { mm: 1, cm: 10, in: 25.4, pt: 25.4 / 72, px: 25.4 / 96, '': 25.4 / 96 };

/** Area inside a closed outline, mm². */
export function outlineArea(points: readonly (readonly [number, number])[]): number {
  let twice = 0;
  points.forEach(([x, y], i) => {
    const [u, v] = points[(i + 1) % points.length]!;
    twice += x * v - u * y;
  });
  return Math.abs(twice) / 2;
}

/**
 * Reads the closed outlines of a drawing, DXF or SVG by its ending, largest first; Y upward.
 *
 * @throws EsquisseError `file-kind`, `file-unreadable` with what is wrong
 */
export function readOutlines(fileName: string, text: string): Outline[] {
  const ending = fileName.split('.').pop()?.toLowerCase();
  if (ending !== 'dxf' && ending !== 'svg')
    throw new EsquisseError('file-kind', `"${fileName}" is no drawing that is read: outlines come as DXF or SVG.`);
  const lines = ending === 'dxf' ? dxfLines(text, fileName) : svgLines(text, fileName);
  const outlines = chained(lines)
    .map((points) => ({ points, area: outlineArea(points) }))
    .filter((o) => o.points.length >= 3 && o.area > 1)
    .sort((a, b) => b.area - a.area);
  if (outlines.length === 0)
    throw new EsquisseError(
      'file-unreadable',
      `"${fileName}" holds no closed outline: its lines end more than ${MEET_MM} mm apart.`,
      fileName,
    );
  return outlines;
}

interface DxfEntity {
  type: string;
  vertices?: { x: number; y: number; bulge?: number }[];
  shape?: boolean;
  center?: { x: number; y: number };
  radius?: number;
  startAngle?: number;
  endAngle?: number;
}

function dxfLines(text: string, fileName: string): Point2[][] {
  let drawing;
  try {
    drawing = new DxfParser().parseSync(text);
  } catch (error) {
    throw new EsquisseError(
      'file-unreadable',
      `"${fileName}" is no readable DXF drawing: ${messageOf(error)}.`,
      fileName,
    );
  }
  if (!drawing) throw new EsquisseError('file-unreadable', `"${fileName}" is no readable DXF drawing.`, fileName);
  const scale = DXF_UNITS[Number(drawing.header?.['$INSUNITS'] ?? 0)] ?? 1;
  const out: Point2[][] = [];
  for (const entity of drawing.entities as unknown as DxfEntity[]) {
    const line = dxfLine(entity, scale);
    if (line) out.push(line.map(([x, y]) => [x * scale, y * scale]));
  }
  return out;
}

function dxfLine(entity: DxfEntity, scale: number): Point2[] | undefined {
  const { type, vertices, center, radius } = entity;
  if (type === 'LINE' && vertices) return vertices.map((v) => [v.x, v.y]);
  if ((type === 'LWPOLYLINE' || type === 'POLYLINE') && vertices) {
    const points: Point2[] = [];
    const n = vertices.length;
    vertices.forEach((v, i) => {
      points.push([v.x, v.y]);
      const next = vertices[i + 1] ?? (entity.shape ? vertices[0] : undefined);
      if (next && v.bulge) points.push(...bulgePoints([v.x, v.y], [next.x, next.y], v.bulge, scale));
    });
    if (entity.shape && n > 0) points.push([vertices[0]!.x, vertices[0]!.y]);
    return points;
  }
  if (type === 'CIRCLE' && center && radius) return arcPoints(center.x, center.y, radius, 0, 2 * Math.PI, scale);
  if (type === 'ARC' && center && radius) {
    const from = entity.startAngle ?? 0;
    let to = entity.endAngle ?? 0;
    while (to <= from) to += 2 * Math.PI;
    return arcPoints(center.x, center.y, radius, from, to, scale);
  }
  return undefined;
}

/** Points on an arc, both ends included, angles in radians. */
function arcPoints(x: number, y: number, r: number, from: number, to: number, scale: number): Point2[] {
  const most = 2 * Math.acos(Math.max(0.5, 1 - CHORD_MM / Math.max(r * scale, CHORD_MM)));
  const n = Math.max(2, Math.ceil(Math.abs(to - from) / most));
  return Array.from({ length: n + 1 }, (_, k) => {
    const a = from + ((to - from) * k) / n;
    return [x + r * Math.cos(a), y + r * Math.sin(a)];
  });
}

/** Points between the ends of a polyline's arc; its bulge is the tangent of a quarter of the angle. */
function bulgePoints(a: Point2, b: Point2, bulge: number, scale: number): Point2[] {
  const angle = 4 * Math.atan(bulge);
  const chord = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const r = chord / 2 / Math.sin(Math.abs(angle) / 2);
  const h = r * Math.cos(angle / 2) * Math.sign(bulge);
  const x = (a[0] + b[0]) / 2 - (h * (b[1] - a[1])) / chord;
  const y = (a[1] + b[1]) / 2 + (h * (b[0] - a[0])) / chord;
  const from = Math.atan2(a[1] - y, a[0] - x);
  return arcPoints(x, y, r, from, from + angle, scale).slice(1, -1);
}

/** Paths, rectangles, circles, ellipses, polygons and polylines of an SVG drawing; transforms are not followed but told. */
function svgLines(text: string, fileName: string): Point2[][] {
  const root = /<svg\b[^>]*>/i.exec(text)?.[0];
  if (!root)
    throw new EsquisseError('file-unreadable', `"${fileName}" is no SVG drawing: it has no svg element.`, fileName);
  if (/<(g|path|rect|circle|ellipse|polygon|polyline)\b[^>]*\btransform\s*=/i.test(text))
    throw new EsquisseError(
      'file-unreadable',
      `"${fileName}" holds transforms, which are not followed; save it with all transforms worked in.`,
      fileName,
    );
  const scale = svgScale(root);
  const lines: Point2[][] = [];
  for (const match of text.matchAll(/<(path|rect|circle|ellipse|polygon|polyline|line)\b([^>]*)>/gi)) {
    const get = (name: string): string | undefined =>
      new RegExp(`(?:^|\\s)${name}\\s*=\\s*(?:"([^"]*)"|'([^']*)')`, 'i')
        .exec(match[2]!)
        ?.slice(1)
        .find((v) => v !== undefined);
    const number = (name: string): number => Number.parseFloat(get(name) ?? '0');
    const shape = match[1]!.toLowerCase();
    if (shape === 'path') lines.push(...pathLines(get('d') ?? '', scale, fileName));
    else if (shape === 'rect') {
      const [x, y, w, h] = [number('x'), number('y'), number('width'), number('height')];
      lines.push([
        [x, y],
        [x + w, y],
        [x + w, y + h],
        [x, y + h],
        [x, y],
      ]);
    } else if (shape === 'circle')
      lines.push(arcPoints(number('cx'), number('cy'), number('r'), 0, 2 * Math.PI, scale));
    else if (shape === 'ellipse') {
      const [rx, ry] = [number('rx'), number('ry')];
      lines.push(
        arcPoints(0, 0, Math.max(rx, ry), 0, 2 * Math.PI, scale).map(([u, v]) => {
          const r = Math.max(rx, ry) || 1;
          return [number('cx') + (u * rx) / r, number('cy') + (v * ry) / r];
        }),
      );
    } else {
      const values = (get('points') ?? `${get('x1') ?? 0},${get('y1') ?? 0} ${get('x2') ?? 0},${get('y2') ?? 0}`)
        .trim()
        .split(/[\s,]+/)
        .map(Number);
      const points: Point2[] = [];
      for (let k = 0; k + 1 < values.length; k += 2) points.push([values[k]!, values[k + 1]!]);
      if (shape === 'polygon' && points[0]) points.push([...points[0]]);
      lines.push(points);
    }
  }
  // drawings have Y downward
  return lines.map((line) => line.map(([x, y]) => [x * scale, -y * scale]));
}

/** mm a user unit: from width and viewBox. */
function svgScale(root: string): number {
  const width = /\bwidth\s*=\s*["']([\d.]+)\s*([a-z]*)["']/i.exec(root);
  const box = /\bviewBox\s*=\s*["']\s*([-\d.eE]+)[\s,]+([-\d.eE]+)[\s,]+([\d.eE]+)[\s,]+([\d.eE]+)/i.exec(root);
  const unit = width ? (SVG_UNITS[width[2]!.toLowerCase()] ?? SVG_UNITS['']!) : SVG_UNITS['']!;
  if (width && box && Number(box[3]) > 0) return (Number(width[1]) * unit) / Number(box[3]);
  return width ? unit : 1;
}

function pathLines(d: string, scale: number, fileName: string): Point2[][] {
  let commands;
  try {
    commands = new SVGPathData(d).toAbs().normalizeHVZ().normalizeST().qtToC().aToC().commands;
  } catch (error) {
    throw new EsquisseError(
      'file-unreadable',
      `"${fileName}" has a path that cannot be read: ${messageOf(error)}.`,
      fileName,
    );
  }
  const lines: Point2[][] = [];
  let line: Point2[] = [];
  for (const c of commands) {
    if (c.type === SVGPathData.MOVE_TO) {
      line = [[c.x, c.y]];
      lines.push(line);
    } else if (c.type === SVGPathData.LINE_TO) line.push([c.x, c.y]);
    else if (c.type === SVGPathData.CURVE_TO || c.type === SVGPathData.QUAD_TO) {
      const p0 = line[line.length - 1]!;
      const p1: Point2 = [c.x1, c.y1];
      const p2: Point2 = c.type === SVGPathData.CURVE_TO ? [c.x2, c.y2] : p1;
      const p3: Point2 = [c.x, c.y];
      // chords of a cubic leave it by at most 1/8 of the second difference over n²
      const bend =
        6 *
        scale *
        Math.max(
          Math.hypot(p0[0] - 2 * p1[0] + p2[0], p0[1] - 2 * p1[1] + p2[1]),
          Math.hypot(p1[0] - 2 * p2[0] + p3[0], p1[1] - 2 * p2[1] + p3[1]),
        );
      const n = Math.min(500, Math.max(1, Math.ceil(Math.sqrt(bend / 8 / CHORD_MM))));
      for (let k = 1; k <= n; k++) {
        const t = k / n;
        const s = 1 - t;
        const at = (i: 0 | 1): number =>
          c.type === SVGPathData.QUAD_TO
            ? s * s * p0[i] + 2 * s * t * p1[i] + t * t * p3[i]
            : s * s * s * p0[i] + 3 * s * s * t * p1[i] + 3 * s * t * t * p2[i] + t * t * t * p3[i];
        line.push([at(0), at(1)]);
      }
    }
  }
  return lines;
}

/** Joins lines whose ends meet; gives the closed ones, without the repeated last point. */
function chained(lines: readonly Point2[][]): Point2[][] {
  const meet = (a: Point2, b: Point2): boolean => Math.hypot(a[0] - b[0], a[1] - b[1]) <= MEET_MM;
  const open = lines.filter((l) => l.length >= 2).map((l) => [...l]);
  const closed: Point2[][] = [];
  while (open.length > 0) {
    const line = open.pop()!;
    for (;;) {
      if (line.length > 2 && meet(line[0]!, line[line.length - 1]!)) {
        closed.push(line.slice(0, -1));
        break;
      }
      const end = line[line.length - 1]!;
      const next = open.findIndex((l) => meet(l[0]!, end) || meet(l[l.length - 1]!, end));
      if (next < 0) break;
      const piece = open.splice(next, 1)[0]!;
      line.push(...(meet(piece[0]!, end) ? piece : piece.reverse()).slice(1));
    }
  }
  return closed;
}
