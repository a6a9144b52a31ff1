import { type Flat, HIDDEN_SHARE, type Hole, pocketsAmong, type Survey, type Vec3 } from '@esquisse/core';
import { figure } from '../../shared/numbers';
import { area, length, unitOf } from '../../shared/units';

/** Title of the section of holes. */
export const HOLES = 'Upright holes';
/** Flats smaller than this are left out of the list, mm². */
const SMALL_FLAT_MM2 = 30;

/** A figure of the survey, and what of the part it lights. */
export interface SurveyRow {
  label: string;
  value: string;
  triangles: readonly number[];
  /** Its height can be made a limit of a step. */
  at?: Vec3;
}

export interface SurveySection {
  title: string;
  rows: SurveyRow[];
}

/**
 * What the survey found, by sections.
 *
 * @param z a height of the laid frame in words, from the work zero
 */
export function sectionsOf(s: Survey, z: (height: number) => string): SurveySection[] {
  const best = [...s.directions].sort((a, b) => a.share - b.share)[0]!;
  const { tightness: t, draft: d } = s;
  const sections = [
    {
      title: 'Inside radii',
      rows: [
        ...t.bends.slice(0, 4).map((b, k) => ({
          label: k === 0 ? 'tightest inside radius' : 'inside radius',
          value: length(b.value, 2),
          triangles: trianglesNear(t.radius, b.value),
          at: b.at,
        })),
        ...(t.gap
          ? [{ label: 'smallest gap', value: length(t.gap.value, 2), triangles: [t.gap.triangle], at: t.gap.at }]
          : []),
        {
          label: 'sharp inside edges',
          value: `${length(t.sharp.length, 0)} ${unitOf('mm')}`,
          triangles: t.sharp.triangles,
          at: t.sharp.at,
        },
        { label: 'deepest place', value: length(s.deepest.depth, 2), triangles: [], at: s.deepest.at },
      ],
    },
    {
      title: 'Flats, height from the work zero',
      rows: groupFlats(s.flats.filter((f) => f.area >= SMALL_FLAT_MM2)).map((g) => ({
        label: `${g.n > 1 ? `${g.n} of ` : ''}${area(g.area, 1)} ${unitOf('cm²')}`,
        value: z(g.z),
        triangles: g.triangles,
        at: g.at,
      })),
    },
    {
      title: 'Pockets by depth',
      rows: groupPockets(pocketsAmong(s.flats.filter((f) => f.area >= SMALL_FLAT_MM2))).map((g) => ({
        label: g.label,
        value: length(g.depth, 2),
        triangles: g.triangles,
        at: g.at,
      })),
    },
    {
      title: HOLES,
      rows: groupHoles(s.holes).map((g) => ({
        label: g.label,
        value: g.value,
        triangles: g.triangles,
        at: g.at,
      })),
    },
    {
      title: 'Walls',
      rows: [
        ['upright', d.upright],
        ['draft up to 1°', d.upTo1],
        ['1° to 3°', d.upTo3],
        ['3° to 5°', d.upTo5],
        ['5° to 15°', d.more],
      ]
        .filter(([, share]) => (share as number) > 1)
        .map(([label, share]) => ({
          label: label as string,
          value: `${area(share as number, 1)} ${unitOf('cm²')}`,
          triangles: wallTriangles(s.slopeOf, label as string),
        })),
    },
    {
      title: 'From above',
      rows: [
        {
          label: 'not seen from +Z',
          value: `${(s.hidden.share * 100).toFixed(1)} %`,
          triangles: s.hidden.triangles,
        },
        {
          label:
            s.hidden.undercut.lean > 0
              ? `undercut, leaning back up to ${figure(s.hidden.undercut.lean, 1)}°`
              : 'undercut',
          value: `${area(s.hidden.undercut.area, 1)} ${unitOf('cm²')}`,
          triangles: s.hidden.undercut.triangles,
        },
        ...(s.hidden.share > HIDDEN_SHARE && best.share < s.hidden.share - 0.02
          ? [
              {
                label: `least hidden: ${directionWords(best.up)} up`,
                value: `${(best.share * 100).toFixed(1)} %`,
                triangles: [],
              },
            ]
          : []),
      ],
    },
  ];
  return sections.filter((x) => x.rows.length > 0);
}

export function directionWords(up: readonly number[]): string {
  const axis = up.findIndex((v) => Math.abs(v) > 0.5);
  return `${up[axis]! > 0 ? '+' : '−'}${'XYZ'[axis]}`;
}

function trianglesNear(radius: Float32Array, value: number): number[] {
  const out: number[] = [];
  for (let t = 0; t < radius.length / 3; t++) {
    const mean = (radius[3 * t]! + radius[3 * t + 1]! + radius[3 * t + 2]!) / 3;
    if (Math.abs(mean - value) < 0.2 * value) out.push(t);
  }
  return out;
}

function wallTriangles(slopeOf: Float32Array, band: string): number[] {
  const [low, high] = (
    { upright: [-0.05, 0.05], 'draft up to 1°': [0.05, 1], '1° to 3°': [1, 3.05], '3° to 5°': [3.05, 5.05] } as Record<
      string,
      [number, number]
    >
  )[band] ?? [5.05, 15];
  const out: number[] = [];
  for (let t = 0; t < slopeOf.length; t++) {
    const draft = 90 - slopeOf[t]!;
    if (draft >= low && draft < high) out.push(t);
  }
  return out;
}

/** What lights together, and where. */
interface Lit {
  n: number;
  triangles: number[];
  at: Vec3;
}

/** Flats of one height together. */
function groupFlats(flats: readonly Flat[]) {
  const groups: (Lit & { z: number; area: number })[] = [];
  for (const f of flats) {
    const g = groups.find((x) => Math.abs(x.z - f.z) < 1e-3);
    if (g) {
      g.area += f.area;
      g.n++;
      g.triangles = g.triangles.concat(f.triangles);
    } else groups.push({ z: f.z, area: f.area, n: 1, triangles: [...f.triangles], at: f.at });
  }
  return groups;
}

/** Pockets of one depth together, closed ones and those open to a side apart. */
function groupPockets(pockets: readonly Flat[]) {
  const groups: (Lit & { depth: number; open: number; area: number })[] = [];
  for (const p of pockets) {
    const open = p.closed > 0.99 ? 0 : p.openLength;
    const g = groups.find((x) => Math.abs(x.depth - p.depth) < 5e-3 && x.open > 0 === open > 0);
    if (g) {
      g.n++;
      g.open += open;
      g.area += p.area;
      g.triangles = g.triangles.concat(p.triangles);
    } else groups.push({ depth: p.depth, open, area: p.area, n: 1, triangles: [...p.triangles], at: p.at });
  }
  return groups.map((g) => ({
    ...g,
    label: `${g.n > 1 ? `${g.n} ` : ''}${g.open > 0 ? `open along ${length(g.open, 0)} ${unitOf('mm')}` : 'closed'}, floor ${area(g.area, 1)} ${unitOf('cm²')}`,
  }));
}

/** Holes of one size together. */
function groupHoles(holes: readonly Hole[]) {
  const groups: { label: string; value: string; triangles: number[]; at: Vec3; n: number; key: string }[] = [];
  for (const h of holes) {
    const kind = h.through ? 'through' : h.pointed ? 'blind, pointed' : 'blind, flat';
    const bore = h.counterbore
      ? `, bore ⌀ ${length(h.counterbore.diameter, 2)} x ${length(h.counterbore.depth, 2)}`
      : '';
    const key = `⌀ ${length(h.diameter, 2)} ${kind}${bore}`;
    const known = groups.find((g) => g.key === key);
    if (known) {
      known.n++;
      known.label = `${known.n} x ${key}`;
      known.triangles = known.triangles.concat(h.triangles);
    } else
      groups.push({
        key,
        n: 1,
        label: key,
        value: `${length(h.top - h.bottom, 1)} deep`,
        triangles: [...h.triangles],
        at: [h.x, h.y, h.top],
      });
  }
  return groups;
}
