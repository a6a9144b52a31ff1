import { SVGPathData } from 'svg-pathdata';
import { type EsquisseError, messageOf } from '../base/errors';
import type { Point2 } from '../geometry/outline';
import { after, type Affine, IDENTITY, mapped, shift, stretch, turn } from './affine';
import { type Arc, arcPoints, circleArc, curvePoints } from './curves';
import type { Sheet } from './sheet';
import { readXml, type XmlElement } from '../base/xml';

/** User units (px, 96 an inch: CSS) in the units of lengths. */
const UNIT_PX: Readonly<Record<string, number>> = {
  '': 1,
  px: 1,
  mm: 96 / 25.4,
  q: 96 / 101.6,
  cm: 96 / 2.54,
  in: 96,
  pt: 96 / 72,
  pc: 16,
};
const PX_MM = 25.4 / 96;
/** Elements that are drawn only where others use them, or not at all. */
const NOT_DRAWN: ReadonlySet<string> = new Set([
  'defs',
  'clipPath',
  'mask',
  'symbol',
  'pattern',
  'marker',
  'filter',
  'linearGradient',
  'radialGradient',
  'metadata',
  'title',
  'desc',
  'style',
  'script',
  'namedview',
]);
/** Elements that hold others and draw nothing. */
const GROUPS: ReadonlySet<string> = new Set(['g', 'a', 'switch']);
/** Elements that are words or pictures. */
const WORDS: ReadonlySet<string> = new Set(['text', 'image', 'foreignObject']);
/** Uses within uses deeper than this are a circle. */
const DEEPEST = 16;

/**
 * Reads the lines of an SVG drawing (W3C, Scalable Vector Graphics 2): paths and all basic shapes, with their transforms,
 * inner drawings, view boxes and uses, Y turned upward.
 *
 * @throws EsquisseError `file-unreadable` with what is wrong
 */
export function readSvg(text: string, sheet: Sheet): void {
  const root = readXml(text, `"${sheet.fileName}"`);
  if (root.name !== 'svg') throw sheet.wrong('is no SVG drawing: it has no svg element');
  new SvgReading(sheet, root).read();
}

class SvgReading {
  private readonly named = new Map<string, XmlElement>();
  private hasStyles = false;

  constructor(
    private readonly sheet: Sheet,
    private readonly root: XmlElement,
  ) {
    const look = (element: XmlElement): void => {
      const { id } = element.attributes;
      if (id !== undefined) this.named.set(id, element);
      this.hasStyles ||= element.name === 'style';
      element.children.forEach(look);
    };
    look(root);
  }

  read(): void {
    const { root } = this;
    const { width, height, viewBox } = root.attributes;
    const said = [width, height].find((v) => v !== undefined && !v.trim().endsWith('%'));
    if (said === undefined) this.sheet.notes.push('The drawing says no size: its units were read as mm.');
    // drawings have Y downward
    const paper = said === undefined ? stretch(1, -1) : stretch(PX_MM, -PX_MM);
    const box = viewBox === undefined ? undefined : this.box(viewBox);
    const own = said !== undefined && box ? this.fitted(root, box, 0, 0) : IDENTITY;
    const map = after(paper, after(own, this.transform(root)));
    if (this.hasStyles)
      this.sheet.notes.push('Style sheets are not followed: what they hide or move is drawn as it stands.');
    for (const child of root.children) this.draw(child, map, 0);
  }

  private draw(element: XmlElement, outer: Affine, depth: number): void {
    const { name, attributes } = element;
    const style = attributes['style'] ?? '';
    if (NOT_DRAWN.has(name) || attributes['display'] === 'none' || /(^|[;\s])display\s*:\s*none/.test(style)) return;
    if (attributes['visibility'] === 'hidden' || /visibility\s*:\s*hidden/.test(style)) return;
    if (/(^|[;\s])(transform|translate|rotate|scale|d)\s*:/.test(style))
      throw this.wrong(element, 'is moved by its style; save it with all transforms worked in');
    const map = after(outer, this.transform(element));
    if (GROUPS.has(name)) for (const child of element.children) this.draw(child, map, depth);
    else if (name === 'svg') this.inner(element, map, depth);
    else if (name === 'use') this.use(element, map, depth);
    else if (WORDS.has(name)) this.sheet.skip(name, false);
    else if (name === 'path') this.path(attributes['d'] ?? '', map, element);
    else this.shape(element, map);
  }

  private inner(element: XmlElement, map: Affine, depth: number): void {
    const [x, y] = [this.length(element, 'x', 0), this.length(element, 'y', 0)];
    const { viewBox } = element.attributes;
    const own = viewBox === undefined ? shift(x, y) : this.fitted(element, this.box(viewBox), x, y);
    for (const child of element.children) this.draw(child, after(map, own), depth);
  }

  private use(element: XmlElement, map: Affine, depth: number): void {
    const link = element.attributes['href'] ?? element.attributes['xlink:href'] ?? '';
    const used = link.startsWith('#') ? this.named.get(link.slice(1)) : undefined;
    if (!used) throw this.wrong(element, `names "${link.slice(0, 40)}", which the drawing does not hold`);
    if (depth >= DEEPEST) throw this.wrong(element, `of "${link}" uses itself`);
    const moved = after(map, shift(this.length(element, 'x', 0), this.length(element, 'y', 0)));
    this.sheet.take(1 + used.children.length);
    if (used.name === 'symbol' && used.attributes['viewBox'] !== undefined)
      throw this.wrong(element, `uses a symbol "${link}" of its own scale; save it as plain lines`);
    const children = used.name === 'symbol' ? used.children : [used];
    for (const child of children) this.draw(child, moved, depth + 1);
  }

  private shape(element: XmlElement, map: Affine): void {
    const { name, attributes } = element;
    const of = (key: string, usual = 0): number => this.length(element, key, usual);
    const add = (points: Point2[]): void => {
      this.sheet.take(points.length);
      this.sheet.add(points.map((p) => mapped(map, p)));
    };
    const arc = (a: Arc): void => this.sheet.add(arcPoints(this.sheet, map, a));
    switch (name) {
      case 'rect':
        return this.rectangle(element, map);
      case 'circle': {
        const r = of('r');
        if (r < 0) throw this.wrong(element, `has a radius of ${r}`);
        return r > 0 ? arc(circleArc([of('cx'), of('cy')], r)) : undefined;
      }
      case 'ellipse': {
        const [rx, ry] = [of('rx', of('ry')), of('ry', of('rx'))];
        if (rx < 0 || ry < 0) throw this.wrong(element, `has radii of ${rx} and ${ry}`);
        if (rx === 0 || ry === 0) return;
        return arc({ centre: [of('cx'), of('cy')], u: [rx, 0], v: [0, ry], from: 0, to: 2 * Math.PI });
      }
      case 'line':
        return add([
          [of('x1'), of('y1')],
          [of('x2'), of('y2')],
        ]);
      case 'polygon':
      case 'polyline': {
        const values = this.numbers(attributes['points'] ?? '', element);
        if (values.length % 2 !== 0) throw this.wrong(element, 'has an X without its Y');
        const points: Point2[] = [];
        for (let k = 0; k < values.length; k += 2) points.push([values[k]!, values[k + 1]!]);
        if (name === 'polygon' && points[0]) points.push([...points[0]]);
        return add(points);
      }
      default:
        this.sheet.skip(name, false);
    }
  }

  /** A rectangle, its corners round where rx or ry say so (SVG 2, 10.2). */
  private rectangle(element: XmlElement, map: Affine): void {
    const of = (key: string, usual = 0): number => this.length(element, key, usual);
    const [x, y, w, h] = [of('x'), of('y'), of('width'), of('height')];
    if (w < 0 || h < 0) throw this.wrong(element, `is ${w} wide and ${h} high`);
    if (w === 0 || h === 0) return;
    const [rx, ry] = [Math.min(w / 2, of('rx', of('ry'))), Math.min(h / 2, of('ry', of('rx')))];
    const corners: Point2[] = [
      [x, y],
      [x + w, y],
      [x + w, y + h],
      [x, y + h],
    ];
    const points: Point2[] = [];
    if (rx > 0 && ry > 0)
      corners.forEach(([cx, cy], k) => {
        const centre: Point2 = [cx + (k === 1 || k === 2 ? -rx : rx), cy + (k >= 2 ? -ry : ry)];
        const from = Math.PI + (k * Math.PI) / 2;
        points.push(...arcPoints(this.sheet, map, { centre, u: [rx, 0], v: [0, ry], from, to: from + Math.PI / 2 }));
      });
    else points.push(...corners.map((p) => mapped(map, p)));
    points.push([...points[0]!]);
    this.sheet.add(points);
  }

  private path(d: string, map: Affine, element: XmlElement): void {
    let commands;
    try {
      commands = new SVGPathData(d).toAbs().normalizeHVZ(false, true, true).normalizeST().commands;
    } catch (error) {
      throw this.wrong(element, `cannot be read: ${messageOf(error)}`);
    }
    let line: Point2[] | undefined;
    let at: Point2 = [0, 0];
    let start: Point2 | undefined;
    const lines: Point2[][] = [];
    const go = (points: readonly Point2[]): void => {
      if (!start) throw this.wrong(element, 'does not begin with a place to start from');
      if (!line) lines.push((line = [mapped(map, at)]));
      this.sheet.take(points.length);
      for (const p of points) line.push(p);
    };
    for (const c of commands) {
      if (c.type === SVGPathData.CLOSE_PATH) {
        if (!start) throw this.wrong(element, 'ends before it begins');
        go([mapped(map, start)]);
        at = start;
        line = undefined;
        continue;
      }
      if (!('x' in c && 'y' in c)) throw this.wrong(element, 'holds a command that is not read');
      const to: Point2 = [c.x, c.y];
      if (c.type === SVGPathData.MOVE_TO) {
        start = to;
        line = undefined;
      } else if (c.type === SVGPathData.LINE_TO) go([mapped(map, to)]);
      else if (c.type === SVGPathData.CURVE_TO)
        go(curvePoints(this.sheet, map, [at, [c.x1, c.y1], [c.x2, c.y2], to]).slice(1));
      else if (c.type === SVGPathData.QUAD_TO) go(curvePoints(this.sheet, map, [at, [c.x1, c.y1], to]).slice(1));
      else if (c.type === SVGPathData.ARC) {
        const arc = arcBetween(at, to, c.rX, c.rY, (c.xRot * Math.PI) / 180, c.lArcFlag === 1, c.sweepFlag === 1);
        go(arc ? arcPoints(this.sheet, map, arc).slice(1) : [mapped(map, to)]);
      }
      at = to;
    }
    for (const each of lines) this.sheet.add(each);
  }

  /** The map from a view box into its place (SVG 2, 8.2: preserveAspectRatio). */
  private fitted(element: XmlElement, [bx, by, bw, bh]: readonly number[], x: number, y: number): Affine {
    const size = (key: string, other: number): number => {
      const text = element.attributes[key];
      return text === undefined || text.trim().endsWith('%') ? other : this.length(element, key, other);
    };
    const known = { width: size('width', NaN), height: size('height', NaN) };
    const width = Number.isNaN(known.width) ? (known.height * bw!) / bh! : known.width;
    const height = Number.isNaN(known.height) ? (width * bh!) / bw! : known.height;
    if (Number.isNaN(width)) return shift(x - bx!, y - by!);
    const words = (element.attributes['preserveAspectRatio'] ?? 'xMidYMid meet').trim().split(/\s+/);
    let [sx, sy] = [width / bw!, height / bh!];
    if (words[0] !== 'none') sx = sy = words[1] === 'slice' ? Math.max(sx, sy) : Math.min(sx, sy);
    const share = (word: string): number => (word.includes('Min') ? 0 : word.includes('Max') ? 1 : 0.5);
    const [ax, ay] = [(words[0] ?? '').slice(0, 4), (words[0] ?? '').slice(4)];
    const [dx, dy] = [(width - sx * bw!) * share(ax), (height - sy * bh!) * share(ay)];
    return after(shift(x + dx, y + dy), after(stretch(sx, sy), shift(-bx!, -by!)));
  }

  private box(text: string): number[] {
    const box = this.numbers(text, this.root);
    if (box.length !== 4 || !(box[2]! > 0 && box[3]! > 0))
      throw this.sheet.wrong(`has a view box that is none: "${text.slice(0, 60)}"`, 'viewBox');
    return box;
  }

  private transform(element: XmlElement): Affine {
    const text = element.attributes['transform'];
    if (text === undefined) return IDENTITY;
    let map = IDENTITY;
    const rest = text.replace(/([a-zA-Z]+)\s*\(([^()]*)\)[\s,]*/g, (_, name: string, inner: string) => {
      const own = transformOf(name, this.numbers(inner, element));
      if (!own) throw this.wrong(element, `has a transform that is not known: "${name}(${inner.slice(0, 40)})"`);
      map = after(map, own);
      return '';
    });
    if (rest.trim() !== '') throw this.wrong(element, `has a transform that cannot be read: "${text.slice(0, 60)}"`);
    return map;
  }

  /** A length in user units. */
  private length(element: XmlElement, key: string, usual: number): number {
    const text = element.attributes[key]?.trim();
    if (text === undefined || text === 'auto') return usual;
    const [, number, unit] = /^([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([a-zA-Z%]*)$/.exec(text) ?? [];
    const px = UNIT_PX[(unit ?? '?').toLowerCase()];
    const value = Number(number) * (px ?? NaN);
    if (!Number.isFinite(value))
      throw this.wrong(element, `has a length that is not read: ${key} "${text.slice(0, 40)}"`);
    return value;
  }

  private numbers(text: string, element: XmlElement): number[] {
    const words = text.trim() === '' ? [] : text.trim().split(/\s*,\s*|\s+/);
    return words.map((word) => {
      const value = /^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$/.test(word) ? Number(word) : NaN;
      if (!Number.isFinite(value)) throw this.wrong(element, `holds "${word.slice(0, 40)}", which is no number`);
      return value;
    });
  }

  private wrong({ name, attributes }: XmlElement, what: string): EsquisseError {
    const id = attributes['id'] === undefined ? '' : ` "${attributes['id'].slice(0, 40)}"`;
    return this.sheet.wrong(`cannot be read: the ${name}${id} ${what}`, name);
  }
}

function transformOf(name: string, v: readonly number[]): Affine | undefined {
  const degrees = (d: number): number => (d * Math.PI) / 180;
  const [a, b, c] = v;
  switch (`${name} ${v.length}`) {
    case 'matrix 6':
      return [v[0]!, v[1]!, v[2]!, v[3]!, v[4]!, v[5]!];
    case 'translate 1':
    case 'translate 2':
      return shift(a!, b ?? 0);
    case 'scale 1':
    case 'scale 2':
      return stretch(a!, b ?? a!);
    case 'rotate 1':
      return turn(degrees(a!));
    case 'rotate 3':
      return after(shift(b!, c!), after(turn(degrees(a!)), shift(-b!, -c!)));
    case 'skewX 1':
      return [1, 0, Math.tan(degrees(a!)), 1, 0, 0];
    case 'skewY 1':
      return [1, Math.tan(degrees(a!)), 0, 1, 0, 0];
    default:
      return undefined;
  }
}

/** The arc of an ellipse by its ends (SVG 2, B.2.4 and B.2.5); undefined for a straight line. */
function arcBetween(
  from: Point2,
  to: Point2,
  rX: number,
  rY: number,
  turned: number,
  isLarge: boolean,
  isSweep: boolean,
): Arc | undefined {
  let [rx, ry] = [Math.abs(rX), Math.abs(rY)];
  if (rx === 0 || ry === 0 || (from[0] === to[0] && from[1] === to[1])) return undefined;
  const [cos, sin] = [Math.cos(turned), Math.sin(turned)];
  const [hx, hy] = [(from[0] - to[0]) / 2, (from[1] - to[1]) / 2];
  const [x, y] = [cos * hx + sin * hy, -sin * hx + cos * hy];
  const grown = (x / rx) ** 2 + (y / ry) ** 2;
  if (grown > 1) [rx, ry] = [rx * Math.sqrt(grown), ry * Math.sqrt(grown)];
  const rest = Math.max(0, 1 / ((x / rx) ** 2 + (y / ry) ** 2) - 1);
  const side = Math.sqrt(rest) * (isLarge === isSweep ? -1 : 1);
  const [cx, cy] = [(side * rx * y) / ry, (-side * ry * x) / rx];
  const begin = Math.atan2((y - cy) / ry, (x - cx) / rx);
  const end = Math.atan2((-y - cy) / ry, (-x - cx) / rx);
  const full = 2 * Math.PI;
  const span = isSweep ? (((end - begin) % full) + full) % full : -((((begin - end) % full) + full) % full);
  const centre: Point2 = [cos * cx - sin * cy + (from[0] + to[0]) / 2, sin * cx + cos * cy + (from[1] + to[1]) / 2];
  return { centre, u: [cos * rx, sin * rx], v: [-sin * ry, cos * ry], from: begin, to: begin + span };
}
