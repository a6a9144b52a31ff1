import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  adviceOf,
  type Flat,
  HIDDEN_SHARE,
  type Hole,
  pocketsAmong,
  ROOMY_MM,
  SLOPE_BIN_DEG,
  type Vec3,
} from '@esquisse/core';
import { css, rampColour } from '../../bench/palette';
import { LensChoice } from '../../shared/lensChoice';
import { mm } from '../../shared/numbers';
import { type PieceLens, PieceLook } from './pieceLook';

const LENSES: { id: PieceLens; name: string }[] = [
  { id: 'plain', name: 'Plain' },
  { id: 'slope', name: 'Slope' },
  { id: 'tightness', name: 'Tightness' },
  { id: 'depth', name: 'Depth' },
  { id: 'hidden', name: 'Not seen from above' },
];
const WIDTH = 132;
/** Flats smaller than this are left out of the list, mm². */
const SMALL_FLAT_MM2 = 30;

interface Row {
  label: string;
  value: string;
  triangles: readonly number[];
  /** Its height can be made a limit of a step. */
  at?: Vec3;
}

/** What the part is: figures, each of which lights its place on the bench. */
@Component({
  selector: 'esq-survey-panel',
  imports: [LensChoice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './surveyPanel.scss',
  template: `
    <esq-lens-choice
      label="Lens on the part"
      [lenses]="lenses"
      [chosen]="look.lens()"
      (choose)="look.lens.set($any($event))"
    />
    @if (look.survey(); as s) {
      @if (legend(); as g) {
        <div class="legend" aria-hidden="true">
          @for (c of g.colours; track $index) {
            <span [style.background]="c"></span>
          }
        </div>
        <div class="row ends pencil mono">
          <span>{{ g.low }}</span><span>{{ g.high }}</span>
        </div>
      }
      <p class="advice">{{ advice() }}</p>
      @for (section of sections(); track section.title) {
        <h3 class="pencil">{{ section.title }}</h3>
        @for (r of section.rows; track $index) {
          <button
            class="entry"
            [disabled]="r.triangles.length === 0 && !r.at"
            (click)="look.light(r.triangles, r.at, r.label)"
          >
            <span>{{ r.label }}</span><span class="number">{{ r.value }}</span>
          </button>
        }
      }
      <h3 class="pencil">Slope from level, share of the surface</h3>
      <svg viewBox="0 0 208 130" role="img" [attr.aria-label]="'Histogram of slope'">
        @for (b of bars(); track $index) {
          <rect [attr.x]="0" [attr.y]="b.y" width="10" height="6.4" [attr.fill]="b.colour" />
          <rect class="bar" x="40" [attr.y]="b.y + 1.6" [attr.width]="b.width" height="3.4" />
          @if (b.label) {
            <text x="14" [attr.y]="b.y + 6">{{ b.label }}</text>
          }
        }
      </svg>
    } @else {
      <p class="pencil note">Looking the part over …</p>
    }
  `,
})
export class SurveyPanel {
  protected readonly look = inject(PieceLook);
  protected readonly lenses = LENSES;

  protected readonly advice = computed(() => {
    const s = this.look.survey();
    return s ? adviceOf(s) : '';
  });

  protected readonly legend = computed(() => {
    const s = this.look.survey();
    const colours = Array.from({ length: 16 }, (_, k) => css(rampColour(k / 15)));
    switch (this.look.lens()) {
      case 'slope':
        return { colours, low: '0° level', high: '90° upright' };
      case 'depth':
        return { colours, low: 'top', high: `${mm((s?.box.maxZ ?? 0) - (s?.box.minZ ?? 0), 1)} mm` };
      case 'tightness':
        return { colours: [...colours].reverse(), low: 'R 0', high: `R ${ROOMY_MM} and more` };
      default:
        return undefined;
    }
  });

  protected readonly sections = computed((): { title: string; rows: Row[] }[] => {
    const s = this.look.survey();
    if (!s) return [];
    const z = (height: number): string => mm(this.look.heightInZero(height), 2);
    const best = [...s.directions].sort((a, b) => a.share - b.share)[0]!;
    const { tightness: t, draft: d } = s;
    const sections = [
      {
        title: 'Room',
        rows: [
          ...t.bends.slice(0, 4).map((b, k) => ({
            label: k === 0 ? 'tightest inside radius' : 'inside radius',
            value: mm(b.value, 2),
            triangles: trianglesNear(t.radius, b.value),
            at: b.at,
          })),
          ...(t.gap
            ? [{ label: 'smallest gap', value: mm(t.gap.value, 2), triangles: [t.gap.triangle], at: t.gap.at }]
            : []),
          {
            label: 'sharp inside edges',
            value: `${mm(t.sharp.length, 0)} mm`,
            triangles: t.sharp.triangles,
            at: t.sharp.at,
          },
          { label: 'deepest place', value: mm(s.deepest.depth, 2), triangles: [], at: s.deepest.at },
        ],
      },
      {
        title: 'Flats, height from the work zero',
        rows: groupFlats(s.flats.filter((f) => f.area >= SMALL_FLAT_MM2)).map((g) => ({
          label: `${g.n > 1 ? `${g.n} of ` : ''}${mm(g.area / 100, 1)} cm²`,
          value: z(g.z),
          triangles: g.triangles,
          at: g.at,
        })),
      },
      {
        title: 'Pockets by depth',
        rows: groupPockets(pocketsAmong(s.flats.filter((f) => f.area >= SMALL_FLAT_MM2))).map((g) => ({
          label: g.label,
          value: mm(g.depth, 2),
          triangles: g.triangles,
          at: g.at,
        })),
      },
      {
        title: 'Upright holes',
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
          .filter(([, area]) => (area as number) > 1)
          .map(([label, area]) => ({
            label: label as string,
            value: `${mm((area as number) / 100, 1)} cm²`,
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
                ? `undercut, leaning back up to ${mm(s.hidden.undercut.lean, 1)}°`
                : 'undercut',
            value: `${mm(s.hidden.undercut.area / 100, 1)} cm²`,
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
  });

  protected readonly bars = computed(() => {
    const s = this.look.survey();
    if (!s) return [];
    const most = Math.max(...s.slope);
    return s.slope.map((area, k) => ({
      y: k * 6.7 + 1,
      width: area > 0 ? Math.max(0.6, Math.sqrt(area / most) * WIDTH) : 0,
      colour: k * SLOPE_BIN_DEG >= 90 ? 'var(--sanguine)' : css(rampColour((k + 0.5) / (s.slope.length - 1))),
      label: k === s.slope.length - 1 ? 'down' : k % 3 === 0 ? `${k * SLOPE_BIN_DEG}°` : '',
    }));
  });
}

export function directionWords(up: readonly number[]): string {
  const axis = up.findIndex((v) => Math.abs(v) > 0.5);
  return `${up[axis]! > 0 ? '+' : '−'}${'XYZ'[axis]}`;
}

function trianglesNear(radius: Float32Array, value: number): number[] {
  const out: number[] = [];
  for (let t = 0; t < radius.length; t++) if (Math.abs(radius[t]! - value) < 0.2 * value) out.push(t);
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
    label: `${g.n > 1 ? `${g.n} ` : ''}${g.open > 0 ? `open along ${mm(g.open, 0)} mm` : 'closed'}, floor ${mm(g.area / 100, 1)} cm²`,
  }));
}

/** Holes of one size together. */
function groupHoles(holes: readonly Hole[]) {
  const groups: { label: string; value: string; triangles: number[]; at: Vec3; n: number; key: string }[] = [];
  for (const h of holes) {
    const kind = h.through ? 'through' : h.pointed ? 'blind, pointed' : 'blind, flat';
    const bore = h.counterbore ? `, bore ⌀ ${mm(h.counterbore.diameter, 2)} x ${mm(h.counterbore.depth, 2)}` : '';
    const key = `⌀ ${mm(h.diameter, 2)} ${kind}${bore}`;
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
        value: `${mm(h.top - h.bottom, 1)} deep`,
        triangles: [...h.triangles],
        at: [h.x, h.y, h.top],
      });
  }
  return groups;
}
