import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { bruteTip } from './brute';
import { CutterDrop, ProfileDrop } from '../src/tool/drop';
import {
  heightAt,
  pointedProfile,
  type Profile,
  type ProfilePiece,
  roundProfile,
  stackProfile,
  taperedBallProfile,
  withClearance,
} from '../src/tool/profile';
import { contactMesh } from '../src/geometry/contactMesh';
import { weld } from '../src/geometry/mesh';
import { meshOf, type Soup } from './shapes';

/** A surface (u, v) -> point, 0 <= u, v <= 1, as n x m squares. */
function surface(n: number, m: number, at: (u: number, v: number) => number[]): Soup {
  const soup: Soup = [];
  for (let j = 0; j < m; j++)
    for (let i = 0; i < n; i++) {
      const [a, b, c, d] = [
        at(i / n, j / m),
        at((i + 1) / n, j / m),
        at((i + 1) / n, (j + 1) / m),
        at(i / n, (j + 1) / m),
      ];
      soup.push(...a, ...b, ...c, ...a, ...c, ...d);
    }
  return soup;
}
const turn = (u: number): [number, number] => [Math.cos(2 * Math.PI * u), Math.sin(2 * Math.PI * u)];

/** Chord error of a circle of radius R in n facets. */
const sagitta = (R: number, n: number): number => R * (1 - Math.cos(Math.PI / n));

describe('contact on shapes with a closed form', () => {
  const ball = roundProfile(10, 5);
  const bull = roundProfile(12, 2);
  const N = 360;

  it('a ball on a sphere rests where the distance of their centres is the sum of the radii', () => {
    const R = 20;
    const mesh = contactMesh(
      meshOf(
        surface(N, N / 4, (u, v) => {
          const [c, s] = turn(u);
          const polar = (v * Math.PI) / 2;
          return [R * c * Math.sin(polar), R * s * Math.sin(polar), R * Math.cos(polar)];
        }),
      ),
    );
    const drop = new CutterDrop(mesh, ball);
    for (let k = 0; k < 300; k++) {
      const d = ((k * 0.618) % 1) * 15;
      const [c, s] = turn(k * 0.37);
      const wanted = Math.sqrt((R + 5) ** 2 - d * d) - 5;
      const tip = drop.at(d * c, d * s);
      expect(tip).toBeLessThan(wanted + 1e-9);
      expect(tip).toBeGreaterThan(wanted - 4 * sagitta(R, N));
    }
  });

  it('a bull-nose across a lying cylinder touches with its corner, one flat farther out', () => {
    const R = 15;
    const mesh = contactMesh(
      meshOf(
        surface(N, 1, (u, v) => {
          const a = u * Math.PI;
          return [v * 200 - 100, -R * Math.cos(a), R * Math.sin(a)];
        }),
      ),
    );
    const drop = new CutterDrop(mesh, bull);
    for (let y = -18; y <= 18; y += 0.37) {
      const beyond = Math.max(0, Math.abs(y) - 4);
      const wanted = Math.sqrt((R + 2) ** 2 - beyond * beyond) - 2;
      expect(drop.at(3.3, y)).toBeLessThan(wanted + 1e-9);
      expect(drop.at(3.3, y)).toBeGreaterThan(wanted - 4 * sagitta(R, N));
    }
  });

  it('a ball beside and on a lying torus rolls over its tube', () => {
    const [Rc, Rt] = [25, 6];
    const mesh = contactMesh(
      meshOf(
        surface(N, 90, (u, v) => {
          const [c, s] = turn(u);
          const a = v * 2 * Math.PI;
          const d = Rc + Rt * Math.cos(a);
          return [d * c, d * s, Rt * Math.sin(a)];
        }),
      ),
    );
    const drop = new CutterDrop(mesh, ball);
    for (let k = 0; k < 200; k++) {
      const d = Rc + ((k * 0.618) % 1) * 18 - 9;
      const [c, s] = turn(k * 0.377);
      const wanted = Math.sqrt((Rt + 5) ** 2 - (d - Rc) ** 2) - 5;
      // on the inner side chords lead closer to the axis than the torus
      expect(drop.at(d * c, d * s)).toBeLessThan(wanted + 4 * sagitta(Rc, N));
      expect(drop.at(d * c, d * s)).toBeGreaterThan(wanted - 4 * (sagitta(Rc + Rt, N) + sagitta(Rt, 90)));
    }
  });

  it('the contact point lies on the part, its normal leads to the cutter, and the slope of the tip is the normal’s', () => {
    const mesh = contactMesh(
      meshOf(surface(80, 80, (u, v) => [60 * u - 30, 60 * v - 30, 4 * Math.sin(7 * u) * Math.cos(6 * v)])),
    );
    for (const piece of [ball, bull, roundProfile(8, 0)]) {
      const drop = new CutterDrop(mesh, piece);
      let smooth = 0;
      for (let k = 0; k < 400; k++) {
        const x = ((k * 0.618) % 1) * 40 - 20;
        const y = ((k * 0.7548) % 1) * 40 - 20;
        const tip = drop.at(x, y);
        const c = drop.contact()!;
        const rise = heightAt(piece, Math.min(piece.radius, Math.hypot(c.x - x, c.y - y)));
        expect(tip + rise).toBeCloseTo(c.z, 6);
        const climb = drop.climb(0.6, 0.8);
        const step = 1e-6;
        const measured =
          (drop.at(x + 0.6 * step, y + 0.8 * step) - drop.at(x - 0.6 * step, y - 0.8 * step)) / (2 * step);
        if (Math.abs(measured - climb) < 1e-3 * (1 + Math.abs(climb))) smooth++;
      }
      // but where the contact changes from one element to the next between the two places
      expect(smooth).toBeGreaterThan(392);
    }
  });
});

describe('contact of compound profiles', () => {
  const coordinate = fc.integer({ min: -1000, max: 1000 }).map((n) => n / 100);
  const profiles: [string, Profile][] = [
    ['a tapered ball', taperedBallProfile(1.5, 8, 4)],
    ['a drill point', pointedProfile(0, 5, 118)],
    ['a chamfer cutter', pointedProfile(1, 6, 90)],
    [
      'a holder with clearance',
      withClearance(
        stackProfile(
          [
            { bottomDiameter: 6, topDiameter: 9, length: 7 },
            { bottomDiameter: 12, topDiameter: 12, length: 5 },
          ],
          20,
        ),
        0.5,
        1,
      ),
    ],
  ];
  const slimmer = (p: ProfilePiece): ProfilePiece => ({
    ...p,
    radius: p.radius - 1e-4,
    flat: Math.min(p.flat, p.radius - 1e-4),
  });

  for (const [name, profile] of profiles)
    it(`${name} stands on whatever vertex, edge or facet is reached first: no place of the mesh is inside it`, () => {
      fc.assert(
        fc.property(fc.array(coordinate, { minLength: 9, maxLength: 27 }), coordinate, coordinate, (numbers, x, y) => {
          const soup = numbers.slice(0, numbers.length - (numbers.length % 9));
          let mesh;
          try {
            mesh = contactMesh(weld(soup).mesh);
          } catch {
            return;
          }
          const tip = new ProfileDrop(mesh, profile).at(x / 2, y / 2);
          const wanted = Math.max(...profile.map((piece) => bruteTip(soup, piece, x / 2, y / 2)));
          if (wanted > -Infinity) expect(tip).toBeGreaterThanOrEqual(wanted - 1e-6);
          // on the very rim a search may miss a place that touches
          const narrow = new ProfileDrop(mesh, profile.map(slimmer)).at(x / 2, y / 2);
          if (Math.abs(narrow - tip) < 1e-3) expect(tip).toBeLessThanOrEqual(wanted + 1e-6);
        }),
        { numRuns: 60, seed: 9 },
      );
    });

  it('refuses angles and radii that make no cutter', () => {
    expect(() => taperedBallProfile(3, 5, 2)).toThrow('cannot widen');
    expect(() => pointedProfile(5, 4, 90)).toThrow('is no cutter');
  });
});
