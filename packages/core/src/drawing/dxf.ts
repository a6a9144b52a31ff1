import { EsquisseError } from '../base/errors';
import type { Point2 } from '../geometry/outline';
import { after, type Affine, IDENTITY, mapped, shift, stretch, turn } from './affine';
import { type Arc, arcPoints, bulgeArc, circleArc, splineFault, splinePoints } from './curves';
import type { Sheet } from './sheet';

/**
 * mm for the unit numbers of a drawing's header ($INSUNITS), in their order: none, inch, foot, mile, mm, cm, m, km, microinch,
 * thou, yard, angstrom, nm, µm, dm, dam, hm, Gm, astronomical unit, light year, parsec. (From memory of the public format.)
 */
const UNIT_MM = [
  1, 25.4, 304.8, 1_609_344, 1, 10, 1000, 1e6, 2.54e-5, 0.0254, 914.4, 1e-7, 1e-6, 1e-3, 100, 1e4, 1e5, 1e12,
  1.495_978_707e14, 9.460_730_47e18, 3.085_677_58e19,
];
/** Things in a drawing that are words, marks or helps to draw: never part of an outline. */
const WORDS: ReadonlySet<string> = new Set([
  'TEXT',
  'MTEXT',
  'ATTDEF',
  'ATTRIB',
  'DIMENSION',
  'ARC_DIMENSION',
  'LEADER',
  'MULTILEADER',
  'TOLERANCE',
  'POINT',
  'HATCH',
  'VIEWPORT',
  'XLINE',
  'RAY',
  'IMAGE',
  'WIPEOUT',
  'ACAD_TABLE',
]);
/** Blocks within blocks deeper than this are a circle. */
const DEEPEST = 16;
/** Rows times columns of an inserted block at most. */
const MOST_INSERTS = 10_000;
/** Angles beyond a thousand turns are damage, degrees. */
const MOST_DEGREES = 360_000;

interface Tag {
  readonly code: number;
  readonly value: string;
  readonly line: number;
}

/** Something drawn, as its tags, with what follows and belongs to it. */
interface Entity {
  readonly type: string;
  readonly line: number;
  readonly tags: Tag[];
  readonly vertices: Entity[];
}

interface Block {
  readonly base: Point2;
  readonly entities: Entity[];
}

/**
 * Reads the lines of a text DXF drawing: LINE, ARC, CIRCLE, ELLIPSE, SPLINE, LWPOLYLINE and POLYLINE with bulges, and blocks
 * inserted (INSERT); in the model's space, on layers that are on. All else is named as not read. The text is gone through once.
 *
 * @throws EsquisseError `file-kind`, `file-truncated`, `file-unreadable`, naming the line
 */
export function readDxf(text: string, sheet: Sheet): void {
  new DxfReading(sheet).read(tagsOf(text, sheet));
}

function tagsOf(text: string, sheet: Sheet): Tag[] {
  if (text.includes('\0'))
    throw new EsquisseError(
      'file-kind',
      `"${sheet.fileName}" is not a text DXF drawing; save it as text.`,
      sheet.fileName,
    );
  const lines = text.split(/\r\n|\n|\r/);
  const tags: Tag[] = [];
  for (let k = 0; k + 1 < lines.length; k += 2) {
    const word = lines[k]!.trim();
    if (!/^-?\d{1,4}$/.test(word))
      throw sheet.wrong(
        `is no readable DXF drawing: line ${k + 1} is no group code: "${word.slice(0, 40)}"`,
        `line ${k + 1}`,
      );
    tags.push({ code: Number(word), value: lines[k + 1]!.trim(), line: k + 2 });
    if (word === '0' && lines[k + 1]!.trim() === 'EOF') return tags;
  }
  throw new EsquisseError(
    'file-truncated',
    `"${sheet.fileName}" has no EOF at its end: it was cut off at line ${lines.length}.`,
    `line ${lines.length}`,
  );
}

class DxfReading {
  private readonly blocks = new Map<string, Block>();
  private readonly hiddenLayers = new Set<string>();
  private readonly entities: Entity[] = [];
  private unit = 0;
  private hidden = 0;

  constructor(private readonly sheet: Sheet) {}

  read(tags: readonly Tag[]): void {
    let section = '';
    for (let k = 0; k < tags.length;) {
      const { code, value } = tags[k]!;
      if (code === 0 && value === 'SECTION') {
        section = tags[k + 1]?.code === 2 ? tags[k + 1]!.value : '';
        k += 2;
      } else if (code === 0 && value === 'ENDSEC') {
        section = '';
        k++;
      } else if (code === 9 && section === 'HEADER' && value === '$INSUNITS') {
        this.unit = tags[k + 1] ? this.number(tags[k + 1]!) : 0;
        k += 2;
      } else if (code === 0 && section === 'TABLES') k = this.layer(tags, k);
      else if (code === 0 && section === 'BLOCKS') k = this.block(tags, k);
      else if (code === 0 && section === 'ENTITIES') {
        const { entity, next } = entityAt(tags, k);
        this.entities.push(entity);
        k = next;
      } else k++;
    }
    const scale = UNIT_MM[this.unit];
    if (scale === undefined)
      throw this.sheet.wrong(
        `is drawn in a unit that is not known (${this.unit}); save it in mm or inches`,
        '$INSUNITS',
      );
    if (this.unit === 0) this.sheet.notes.push('The drawing names no unit and was read in mm.');
    for (const entity of this.entities) this.draw(entity, stretch(scale, scale), 0);
    if (this.hidden > 0)
      this.sheet.notes.push(
        `${this.hidden} drawn ${this.hidden === 1 ? 'thing is' : 'things are'} hidden or on layers that are off, and not taken.`,
      );
  }

  private layer(tags: readonly Tag[], k: number): number {
    const { entity, next } = entityAt(tags, k);
    if (entity.type !== 'LAYER') return next;
    const name = entity.tags.find((t) => t.code === 2)?.value ?? '';
    // frozen, or switched off, which is written as a colour below zero
    const flags = this.value(entity, 70, 0);
    if ((flags & 1) === 1 || this.value(entity, 62, 7) < 0) this.hiddenLayers.add(name);
    return next;
  }

  private block(tags: readonly Tag[], k: number): number {
    const { entity, next } = entityAt(tags, k);
    if (entity.type !== 'BLOCK') return next;
    const entities: Entity[] = [];
    let at = next;
    while (at < tags.length && !(tags[at]!.code === 0 && ['ENDBLK', 'ENDSEC'].includes(tags[at]!.value))) {
      const found = entityAt(tags, at);
      entities.push(found.entity);
      at = found.next;
    }
    const name = entity.tags.find((t) => t.code === 2)?.value ?? '';
    this.blocks.set(name, { base: this.point(entity, 0), entities });
    return at;
  }

  private draw(entity: Entity, outer: Affine, depth: number): void {
    const { type } = entity;
    if (this.value(entity, 67, 0) === 1) return;
    const layer = entity.tags.find((t) => t.code === 8)?.value ?? '0';
    if (this.value(entity, 60, 0) === 1 || this.hiddenLayers.has(layer)) {
      this.hidden++;
      return;
    }
    const isText = WORDS.has(type);
    if (isText) {
      this.sheet.skip(type, false);
      return;
    }
    const tilt = [this.value(entity, 210, 0), this.value(entity, 220, 0), this.value(entity, 230, 1)];
    const isLevel = Math.abs(tilt[0]!) < 1e-9 && Math.abs(tilt[1]!) < 1e-9;
    const isBelow = isLevel && tilt[2]! < 0;
    // what is given in a plane of its own is mirrored when that plane is looked at from below
    const map = isBelow ? after(outer, stretch(-1, 1)) : outer;
    const tilted = (): void => this.sheet.skip(`tilted ${type}`, true, this.points(entity, outer));
    switch (type) {
      case 'LINE':
        return this.sheet.add([mapped(outer, this.point(entity, 0)), mapped(outer, this.point(entity, 1))]);
      case 'CIRCLE':
      case 'ARC':
        return isLevel ? this.sheet.add(arcPoints(this.sheet, map, this.arc(entity))) : tilted();
      case 'ELLIPSE':
        return isLevel ? this.sheet.add(arcPoints(this.sheet, outer, this.ellipse(entity, isBelow))) : tilted();
      case 'SPLINE':
        return this.spline(entity, outer);
      case 'LWPOLYLINE':
        return isLevel
          ? this.polyline(
              entity,
              map,
              cornersOf(entity, (t) => this.number(t)),
            )
          : tilted();
      case 'POLYLINE':
        return isLevel ? this.oldPolyline(entity, map) : tilted();
      case 'INSERT':
        return isLevel ? this.insert(entity, map, depth) : this.sheet.skip('tilted INSERT', true);
      default:
        this.sheet.skip(type, true, this.points(entity, outer));
    }
  }

  private arc(entity: Entity): Arc {
    const centre = this.point(entity, 0);
    const r = this.value(entity, 40);
    if (!(r > 0)) throw this.wrong(entity, `has a radius of ${r}`);
    if (entity.type === 'CIRCLE') return circleArc(centre, r);
    const from = this.angle(entity, 50);
    return circleArc(centre, r, from, from + spanOf(from, this.angle(entity, 51)));
  }

  private ellipse(entity: Entity, isBelow: boolean): Arc {
    const ratio = this.value(entity, 40);
    if (!(ratio > 0)) throw this.wrong(entity, `has half axes in the ratio of ${ratio}`);
    const u = this.point(entity, 1);
    const side = isBelow ? -ratio : ratio;
    const [from, to] = [this.value(entity, 41, 0), this.value(entity, 42, 2 * Math.PI)];
    if (Math.abs(from) > MOST_DEGREES || Math.abs(to) > MOST_DEGREES)
      throw this.wrong(entity, 'has angles that are none');
    return { centre: this.point(entity, 0), u, v: [-u[1] * side, u[0] * side], from, to: from + spanOf(from, to) };
  }

  private spline(entity: Entity, map: Affine): void {
    const list = (code: number): number[] => entity.tags.filter((t) => t.code === code).map((t) => this.number(t));
    const points = (code: number): Point2[] => {
      const ys = list(code + 10);
      return list(code).map((x, i): Point2 => [x, ys[i] ?? NaN]);
    };
    const control = points(10);
    if (control.length === 0) {
      this.sheet.skip(
        'SPLINE without control points',
        true,
        points(11).map((p) => mapped(map, p)),
      );
      return;
    }
    const spline = { degree: this.value(entity, 71, 3), knots: list(40), control, weights: list(41) };
    const fault = control.some(([, y]) => Number.isNaN(y)) ? 'has control points without Y' : splineFault(spline);
    if (fault) throw this.wrong(entity, fault);
    this.sheet.add(splinePoints(this.sheet, map, spline));
  }

  private oldPolyline(entity: Entity, map: Affine): void {
    const flags = this.value(entity, 70, 0);
    // meshes and nets of faces
    if ((flags & (16 | 64)) !== 0) {
      this.sheet.skip(
        'POLYLINE mesh',
        true,
        entity.vertices.flatMap((v) => this.points(v, map)),
      );
      return;
    }
    // the frame of a spline is no part of the line
    const corners = entity.vertices
      .filter((v) => v.type === 'VERTEX' && (this.value(v, 70, 0) & 16) === 0)
      .map((v) => ({ at: this.point(v, 0), bulge: this.value(v, 42, 0) }));
    this.polyline(entity, map, corners);
  }

  private polyline(entity: Entity, map: Affine, corners: readonly Corner[]): void {
    const isClosed = (this.value(entity, 70, 0) & 1) === 1;
    const points: Point2[] = [];
    corners.forEach(({ at, bulge }, k) => {
      const next = corners[k + 1] ?? (isClosed ? corners[0] : undefined);
      if (!next || bulge === 0 || (at[0] === next.at[0] && at[1] === next.at[1])) points.push(mapped(map, at));
      else points.push(...arcPoints(this.sheet, map, bulgeArc(at, next.at, bulge)).slice(0, -1));
    });
    if (isClosed && points.length > 0) points.push([...points[0]!]);
    this.sheet.take(points.length);
    this.sheet.add(points);
  }

  private insert(entity: Entity, map: Affine, depth: number): void {
    const name = entity.tags.find((t) => t.code === 2)?.value ?? '';
    const block = this.blocks.get(name);
    if (!block) throw this.wrong(entity, `names a block "${name}" that the drawing does not hold`);
    if (depth >= DEEPEST) throw this.wrong(entity, `puts the block "${name}" into itself`);
    const [x, y] = this.point(entity, 0);
    const [columns, rows] = [this.value(entity, 70, 1) || 1, this.value(entity, 71, 1) || 1];
    if (!(columns >= 1 && rows >= 1 && columns * rows <= MOST_INSERTS))
      throw this.wrong(entity, `inserts ${columns} x ${rows} blocks`);
    const turned = turn(this.angle(entity, 50, 0));
    const size = stretch(this.value(entity, 41, 1), this.value(entity, 42, 1));
    for (let i = 0; i < columns; i++)
      for (let j = 0; j < rows; j++) {
        const step = shift(i * this.value(entity, 44, 0), j * this.value(entity, 45, 0));
        const own = [shift(x, y), turned, step, size, shift(-block.base[0], -block.base[1])].reduce(after, IDENTITY);
        const inner = after(map, own);
        this.sheet.take(block.entities.length);
        for (const each of block.entities) this.draw(each, inner, depth + 1);
      }
  }

  /** All points that an entity names, for what is not read. */
  private points(entity: Entity, map: Affine): Point2[] {
    const out: Point2[] = [];
    for (let k = 0; k + 1 < entity.tags.length; k++) {
      const [a, b] = [entity.tags[k]!, entity.tags[k + 1]!];
      if (a.code >= 10 && a.code <= 18 && b.code === a.code + 10)
        out.push(mapped(map, [this.number(a), this.number(b)]));
    }
    return out;
  }

  private point(entity: Entity, which: number): Point2 {
    return [this.value(entity, 10 + which), this.value(entity, 20 + which)];
  }

  private angle(entity: Entity, code: number, usual?: number): number {
    const degrees = this.value(entity, code, usual);
    if (!(Math.abs(degrees) <= MOST_DEGREES)) throw this.wrong(entity, `has an angle of ${degrees} degrees`);
    return (degrees * Math.PI) / 180;
  }

  /** The first number of a code. @throws EsquisseError when there is none, and no usual one */
  private value(entity: Entity, code: number, usual?: number): number {
    const tag = entity.tags.find((t) => t.code === code);
    if (tag) return this.number(tag);
    if (usual === undefined) throw this.wrong(entity, `lacks its number of code ${code}`);
    return usual;
  }

  private number({ value, line }: Tag): number {
    const number = value === '' ? NaN : Number(value);
    if (Number.isFinite(number) && /^[\d.eE+-]+$/.test(value)) return number;
    throw this.sheet.wrong(`has no number in line ${line}: "${value.slice(0, 40)}"`, `line ${line}`);
  }

  private wrong({ type, line }: Entity, what: string): EsquisseError {
    return this.sheet.wrong(`cannot be read: the ${type} of line ${line} ${what}`, `line ${line}`);
  }
}

interface Corner {
  readonly at: Point2;
  readonly bulge: number;
}

/** Corners of a polyline that holds them itself: X, Y, and a bulge where there is one. */
function cornersOf(entity: Entity, number: (tag: Tag) => number): Corner[] {
  const out: { at: Point2; bulge: number }[] = [];
  for (const tag of entity.tags) {
    if (tag.code === 10) out.push({ at: [number(tag), 0], bulge: 0 });
    const corner = out[out.length - 1];
    if (!corner) continue;
    if (tag.code === 20) corner.at[1] = number(tag);
    if (tag.code === 42) corner.bulge = number(tag);
  }
  return out;
}

/** What stands at a tag of code 0, up to the next; with its vertices or words, up to their end. */
function entityAt(tags: readonly Tag[], at: number): { entity: Entity; next: number } {
  const entity: Entity = { type: tags[at]!.value, line: tags[at]!.line, tags: [], vertices: [] };
  let k = at + 1;
  while (k < tags.length && tags[k]!.code !== 0) entity.tags.push(tags[k++]!);
  const holdsMore =
    entity.type === 'POLYLINE' ||
    (entity.type === 'INSERT' && entity.tags.some((t) => t.code === 66 && t.value === '1'));
  while (holdsMore && (tags[k]?.value === 'VERTEX' || tags[k]?.value === 'ATTRIB') && tags[k]!.code === 0) {
    const inner = entityAt(tags, k);
    entity.vertices.push(inner.entity);
    k = inner.next;
  }
  if (holdsMore && tags[k]?.code === 0 && tags[k]?.value === 'SEQEND') k = entityAt(tags, k).next;
  return { entity, next: k };
}

/** Counter-clockwise from one angle to another, rad; a full turn when they are the same. */
function spanOf(from: number, to: number): number {
  const full = 2 * Math.PI;
  const span = (((to - from) % full) + full) % full;
  return span < 1e-12 ? full : span;
}
