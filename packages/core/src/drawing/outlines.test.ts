import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EsquisseError } from '../base/errors';
import { boxOfPositions } from '../geometry/box';
import type { Point2 } from '../geometry/outline';
import { readOutlines } from './outlines';

type Tag = readonly [code: number, value: string | number];

const tagged = (tags: readonly Tag[]): string => tags.map(([code, value]) => `${code}\n${value}`).join('\n');
const section = (name: string, tags: readonly Tag[]): Tag[] => [[0, 'SECTION'], [2, name], ...tags, [0, 'ENDSEC']];
const dxf = (
  entities: readonly Tag[],
  { unit = 4, blocks = [], tables = [] }: { unit?: number; blocks?: Tag[]; tables?: Tag[] } = {},
): string =>
  tagged([
    ...section('HEADER', [
      [9, '$INSUNITS'],
      [70, unit],
    ]),
    ...section('TABLES', tables),
    ...section('BLOCKS', blocks),
    ...section('ENTITIES', entities),
    [0, 'EOF'],
  ]);
const line = ([x, y]: readonly number[], [u, v]: readonly number[], layer = '0'): Tag[] => [
  [0, 'LINE'],
  [8, layer],
  [10, x!],
  [20, y!],
  [11, u!],
  [21, v!],
];
const ring = (points: readonly (readonly number[])[], layer = '0'): Tag[][] =>
  points.map((p, k) => line(p, points[(k + 1) % points.length]!, layer));
const polyline = (corners: readonly (readonly [number, number, number])[]): Tag[] => [
  [0, 'LWPOLYLINE'],
  [8, '0'],
  [90, corners.length],
  [70, 1],
  ...corners.flatMap(([x, y, bulge]): Tag[] => [
    [10, x],
    [20, y],
    [42, bulge],
  ]),
];
const circle = (r: number, x = 0, y = 0): Tag[] => [
  [0, 'CIRCLE'],
  [10, x],
  [20, y],
  [40, r],
];
const areaOf = (name: string, text: string): number => readOutlines(name, text).outlines[0].area;
const boxOf = (name: string, text: string) =>
  boxOfPositions(readOutlines(name, text).outlines[0].points.flatMap(([x, y]) => [x, y, 0]));
const message = (name: string, text: string): string => {
  try {
    readOutlines(name, text);
  } catch (error) {
    if (error instanceof EsquisseError) return error.message;
    throw error;
  }
  return 'read';
};
/** Chords lie inside a convex curve by at most 0.01 mm all round. */
const chordsOf = (length: number): number => 0.01 * length;

describe('outlines of a DXF drawing', () => {
  it('a polyline with a half circle has the area of rectangle and half disc, whichever way it bulges', () => {
    for (const [bulge, sign] of [
      [1, 1],
      [-1, -1],
    ] as const) {
      const area = areaOf(
        'a.dxf',
        dxf(
          polyline([
            [0, 0, 0],
            [40, 0, bulge],
            [40, 20, 0],
            [0, 20, 0],
          ]),
        ),
      );
      expect(Math.abs(area - (800 + (sign * Math.PI * 100) / 2))).toBeLessThan(chordsOf(Math.PI * 10));
    }
  });

  it('every unit of the header is read, and one that is not known is refused', () => {
    const square = ring([
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]).flat();
    const mm: [number, number][] = [
      [1, 25.4],
      [2, 304.8],
      [5, 10],
      [6, 1000],
      [10, 914.4],
      [14, 100],
    ];
    for (const [unit, size] of mm) expect(areaOf('a.dxf', dxf(square, { unit }))).toBeCloseTo(size * size, 3);
    const none = readOutlines(
      'a.dxf',
      dxf(
        ring([
          [0, 0],
          [9, 0],
          [9, 9],
          [0, 9],
        ]).flat(),
        { unit: 0 },
      ),
    );
    expect(none.notes).toEqual(['The drawing names no unit and was read in mm.']);
    expect(message('a.dxf', dxf(square, { unit: 99 }))).toContain('unit that is not known (99)');
  });

  it('loose lines become one outline, in whatever order and direction they are drawn', () => {
    const corner = fc.tuple(fc.double({ min: 5, max: 50, noNaN: true }), fc.boolean());
    fc.assert(
      fc.property(fc.array(corner, { minLength: 3, maxLength: 40 }), fc.infiniteStream(fc.nat()), (corners, order) => {
        const points = corners.map(([r], k): Point2 => {
          const a = (2 * Math.PI * k) / corners.length;
          return [r * Math.cos(a), r * Math.sin(a)];
        });
        const sides = ring(points).map((side, k) =>
          corners[k]![1] ? side : line(points[(k + 1) % points.length]!, points[k]!),
        );
        // one side is drawn twice, as tracing does
        sides.push(sides[0]!);
        const drawn = sides.map((side) => ({ side, at: order.next().value as number })).sort((a, b) => a.at - b.at);
        const { outlines, notes } = readOutlines('a.dxf', dxf(drawn.flatMap((d) => d.side)));
        expect(outlines).toHaveLength(1);
        const whole = points.reduce((sum, [x, y], k) => {
          const [u, v] = points[(k + 1) % points.length]!;
          return sum + (x * v - u * y) / 2;
        }, 0);
        expect(outlines[0].area).toBeCloseTo(whole, 3);
        expect(notes).toEqual([]);
      }),
      { numRuns: 60, seed: 4 },
    );
  });

  // the shorter ones begin within reach of their own ends
  it.each([3000, 100, 20])(
    '50,000 loose lines of a circle of %s mm are joined, wherever they stand in the file',
    (radius) => {
      const count = 50_000;
      const points = Array.from({ length: count }, (_, k): Point2 => {
        const a = (2 * Math.PI * k) / count;
        return [radius * Math.cos(a), radius * Math.sin(a)];
      });
      const sides = ring(points);
      // every 7919th first: neighbours are far apart in the file
      const drawn = sides.map((_, k) => sides[(k * 7919) % count]!);
      expect(areaOf('a.dxf', dxf(drawn.flat())) / (Math.PI * radius * radius)).toBeCloseTo(1, 6);
    },
  );

  it('an ellipse and its part, and a spline of nine points that is a circle, keep to their curves', () => {
    const ellipse = (from: number, to: number): Tag[] => [
      [0, 'ELLIPSE'],
      [10, 5],
      [20, 6],
      [11, 0],
      [21, 40],
      [40, 0.5],
      [41, from],
      [42, to],
    ];
    expect(Math.abs(areaOf('a.dxf', dxf(ellipse(0, 2 * Math.PI))) - Math.PI * 800)).toBeLessThan(chordsOf(200));
    // its major axis points along Y: the first half lies to the left
    const half = [...ellipse(0, Math.PI), ...line([5, 46], [5, -34])];
    expect(Math.abs(areaOf('a.dxf', dxf(half)) - Math.PI * 400)).toBeLessThan(chordsOf(200));
    expect(boxOf('a.dxf', dxf(half))).toMatchObject({
      minX: expect.closeTo(-15, 1) as number,
      maxX: expect.closeTo(5, 6) as number,
    });
    const r = 30;
    const control = [
      [r, 0],
      [r, r],
      [0, r],
      [-r, r],
      [-r, 0],
      [-r, -r],
      [0, -r],
      [r, -r],
      [r, 0],
    ];
    const spline: Tag[] = [
      [0, 'SPLINE'],
      [71, 2],
      ...[0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4].map((k): Tag => [40, k]),
      ...control.map((_, k): Tag => [41, k % 2 === 0 ? 1 : Math.SQRT1_2]),
      ...control.flatMap(([x, y]): Tag[] => [
        [10, x!],
        [20, y!],
      ]),
    ];
    const { points } = readOutlines('a.dxf', dxf(spline)).outlines[0];
    for (const [x, y] of points) expect(Math.hypot(x, y)).toBeCloseTo(r, 9);
    expect(Math.abs(areaOf('a.dxf', dxf(spline)) - Math.PI * r * r)).toBeLessThan(chordsOf(2 * Math.PI * r));
    expect(message('a.dxf', dxf(spline.filter(([code, value]) => code !== 40 || value !== 4)))).toContain(
      '9 knots for 9 control points',
    );
  });

  it('a block is inserted turned, sized, in rows and columns, and within another', () => {
    const square = ring([
      [1, 1],
      [11, 1],
      [11, 11],
      [1, 11],
    ]).flat();
    const insert = (name: string, ...more: Tag[]): Tag[] => [[0, 'INSERT'], [2, name], [10, 100], [20, 0], ...more];
    const block = (name: string, entities: Tag[]): Tag[] => [
      [0, 'BLOCK'],
      [2, name],
      [10, 1],
      [20, 1],
      ...entities,
      [0, 'ENDBLK'],
    ];
    const blocks = [...block('A', square), ...block('B', insert('A', [41, 2], [42, 3]))];
    const turned = boxOf('a.dxf', dxf(insert('A', [50, 90], [41, 2], [42, 3]), { blocks }));
    // 20 by 30, turned by a quarter: 30 to the left, 20 up
    expect(turned).toMatchObject({
      minX: expect.closeTo(70, 9) as number,
      maxX: expect.closeTo(100, 9) as number,
      maxY: expect.closeTo(20, 9) as number,
    });
    expect(areaOf('a.dxf', dxf(insert('B'), { blocks }))).toBeCloseTo(600, 6);
    const grid = readOutlines('a.dxf', dxf(insert('A', [70, 3], [71, 2], [44, 20], [45, 20]), { blocks }));
    expect(grid.outlines).toHaveLength(6);
    expect(message('a.dxf', dxf(insert('C'), { blocks }))).toContain('"C" that the drawing does not hold');
    expect(message('a.dxf', dxf(insert('D'), { blocks: block('D', insert('D')) }))).toContain('into itself');
  });

  it('what is seen from below is mirrored; what is off, hidden or on paper is not taken', () => {
    const big = ring(
      [
        [0, 0],
        [90, 0],
        [90, 90],
        [0, 90],
      ],
      'scrap',
    ).flat();
    const small = circle(10, 30);
    const tables: Tag[] = [
      [0, 'TABLE'],
      [2, 'LAYER'],
      [0, 'LAYER'],
      [2, 'scrap'],
      [62, -7],
      [70, 0],
      [0, 'ENDTAB'],
    ];
    const { outlines, notes } = readOutlines('a.dxf', dxf([...big, ...small], { tables }));
    expect(Math.abs(outlines[0].area - 100 * Math.PI)).toBeLessThan(1);
    expect(notes[0]).toContain('4 drawn things are hidden');
    const below: Tag[] = [...small, [210, 0], [220, 0], [230, -1]];
    expect(boxOf('a.dxf', dxf(below)).minX).toBeCloseTo(-40, 1);
    expect(boxOf('a.dxf', dxf([...circle(40), [67, 1], ...small])).maxX).toBeCloseTo(40, 1);
  });

  it('where the outline that is meant may be another one, nothing is taken', () => {
    const open = ring([
      [0, 0],
      [90, 0],
      [90, 90],
      [0, 90],
    ])
      .slice(0, 3)
      .flat();
    expect(message('a.dxf', dxf([...open, ...line([0, 90], [0, 0.5]), ...circle(5, 40, 40)]))).toMatch(
      /stays open by 0\.500 mm at X 0\.000 Y 0\.[05]00/,
    );
    expect(message('a.dxf', dxf([[0, 'REGION'], [1, 'kept'], ...circle(5)]))).toContain(
      '1 REGION, which is not read and may be the outline',
    );
    // a mark smaller than the outline, words and an axis are no doubt
    const plate = ring([
      [0, 0],
      [90, 0],
      [90, 90],
      [0, 90],
    ]).flat();
    const solid: Tag[] = [
      [0, 'SOLID'],
      [10, 0],
      [20, 0],
      [11, 5],
      [21, 0],
      [12, 0],
      [22, 5],
    ];
    const text: Tag[] = [
      [0, 'TEXT'],
      [10, 0],
      [20, 0],
      [1, 'plate'],
    ];
    const { outlines, notes } = readOutlines(
      'a.dxf',
      dxf([...plate, ...solid, ...text, ...line([-50, 45], [150, 45])]),
    );
    expect(outlines[0].area).toBeCloseTo(8100, 6);
    expect(notes).toEqual(['Not read: 1 SOLID, 1 TEXT.', '1 line that stays open is not taken.']);
  });

  it('damage is told with its line and never goes on for ever', () => {
    const arc = (from: string): Tag[] => [
      [0, 'ARC'],
      [10, 0],
      [20, 0],
      [40, 10],
      [50, from],
      [51, 90],
    ];
    for (const angle of ['1e17', '-1e17', '1e400', 'NaN', ''])
      expect(message('a.dxf', dxf(arc(angle)))).toMatch(/angle of|no number/);
    expect(message('a.dxf', dxf(circle(1e12)))).toContain('more than a kilometre');
    expect(message('a.dxf', dxf(circle(-3)))).toContain('radius of -3');
    expect(message('a.dxf', dxf(circle(5)).replace('\n0\nEOF', ''))).toContain('cut off');
    expect(message('a.dxf', 'garbage')).toContain('cut off');
    expect(message('a.dxf', 'garbage\nmore')).toContain('line 1 is no group code');
    expect(message('a.dxf', `0\0${dxf(circle(5))}`)).toContain('not a text DXF');
    expect(message('c.pdf', '')).toContain('DXF or SVG');
  });
});

describe('outlines of an SVG drawing', () => {
  const svg = (body: string, more = 'width="100mm" viewBox="0 0 200 200"'): string =>
    `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" ${more}>${body}</svg>`;

  it('a circle, two arcs and a path of curves of the same size agree, in mm by the width of the drawing', () => {
    const whole = Math.PI * 400;
    for (const body of [
      '<circle cx="50" cy="50" r="40"/>',
      '<path d="M10 50 a40 40 0 1 0 80 0 a40 40 0 1 0 -80 0 Z"/>',
      '<path d="M10 50 A40 40 0 0 1 90 50 40 40 0 0 1 10 50"/>',
      '<ellipse cx="50" cy="50" rx="40" ry="40"/>',
    ])
      expect(Math.abs(areaOf('c.svg', svg(body)) - whole)).toBeLessThan(chordsOf(126));
    // a cubic's area in closed form: 3/5 of the control polygon's here
    expect(areaOf('c.svg', svg('<path d="M0 0 C0 100 100 100 100 0z"/>', 'viewBox="0 0 9 9"')) / 6000).toBeCloseTo(
      1,
      3,
    );
  });

  it('transforms add up, wherever they stand, and inner drawings keep their view boxes', () => {
    const square = '<rect x="1" y="1" width="10" height="10"/>';
    const mm = 'width="200mm" height="200mm" viewBox="0 0 200 200"';
    expect(
      areaOf('c.svg', svg(`<g transform="scale(2)"><g transform="rotate(30) skewX(20)">${square}</g></g>`, mm)),
    ).toBeCloseTo(400, 6);
    const moved = boxOf(
      'c.svg',
      svg(`<g transform="translate(5,7)"><g transform="rotate(90 1 1)">${square}</g></g>`, mm),
    );
    expect(moved).toMatchObject({
      minX: expect.closeTo(-4, 9) as number,
      maxX: expect.closeTo(6, 9) as number,
      maxY: expect.closeTo(-8, 9) as number,
    });
    expect(areaOf('c.svg', svg(`<g transform="matrix(0 1 -1 0 3 3)">${square}</g>`, mm))).toBeCloseTo(100, 6);
    const inner = '<svg x="10" y="10" width="60" height="30" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>';
    // 10 by 10 fits into 60 by 30 three times as large, in the middle
    expect(boxOf('c.svg', svg(inner, mm))).toMatchObject({
      minX: expect.closeTo(25, 9) as number,
      maxX: expect.closeTo(55, 9) as number,
    });
    expect(message('c.svg', svg(`<g transform="bend(3)">${square}</g>`))).toContain('not known: "bend(3)"');
    expect(message('c.svg', svg(`<g style="transform: scale(2)">${square}</g>`))).toContain('moved by its style');
  });

  it('lengths have units, corners are round, and what is used elsewhere is drawn there', () => {
    const r = 4;
    expect(
      Math.abs(
        areaOf('c.svg', svg(`<rect width="30mm" height="2cm" rx="${r}mm"/>`, '')) * (96 / 25.4) ** -2 -
          (600 - (4 - Math.PI) * r * r) * 1,
      ),
    ).toBeLessThan(1);
    expect(areaOf('c.svg', svg('<rect width="1in" height="72pt"/>', 'width="500px" height="500px"'))).toBeCloseTo(
      25.4 ** 2,
      6,
    );
    const used = '<defs><rect id="p" width="20" height="20"/></defs><use href="#p" x="50"/>';
    expect(boxOf('c.svg', svg(used, 'width="200mm" viewBox="0 0 200 200"')).minX).toBeCloseTo(50, 9);
    expect(message('c.svg', svg('<use href="#none"/>'))).toContain('"#none", which the drawing does not hold');
    expect(message('c.svg', svg('<g id="a"><use href="#a"/></g>'))).toContain('uses itself');
    expect(message('c.svg', svg('<rect width="50%" height="3"/>'))).toContain('not read: width "50%"');
  });

  it('clip paths, symbols, comments and what is hidden are no outlines; text is named', () => {
    const big = '<rect width="150" height="150"/>';
    const body = `<clipPath id="c">${big}</clipPath><symbol id="s">${big}</symbol><!-- ${big} --><g display="none">${big}</g><g style="display:none">${big}</g><text>${'plate'}</text><rect width="20" height="20"/>`;
    const { outlines, notes } = readOutlines('c.svg', svg(body, 'width="200mm" viewBox="0 0 200 200"'));
    expect(outlines.map((o) => Math.round(o.area))).toEqual([400]);
    expect(notes).toEqual(['Not read: 1 text.']);
  });

  it('damage is told with its place and never goes on for ever', () => {
    expect(message('c.svg', '<svg><g><rect width="9" height="9"/>')).toContain('no sound XML');
    expect(message('c.svg', `<svg>${'<g>'.repeat(100_000)}`)).toContain('no end');
    expect(message('c.svg', '<html/>')).toContain('no svg element');
    expect(message('c.svg', svg('<circle r="1e13"/>'))).toContain('kilometre');
    expect(message('c.svg', svg('<path d="M 0 0 L 5 five"/>'))).toContain('the path cannot be read');
    expect(message('c.svg', svg('<polygon points="0,0 9,0 9"/>'))).toContain('an X without its Y');
  });
});
