import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import {
  AS_DRAWN,
  isCancelled,
  laid,
  type Measure,
  measuresBetween,
  measuresOf,
  messageOf,
  type Picked,
  type Survey,
  type Vec3,
  workZeroPoint,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { mix, rgb } from '../../bench/palette';
import { Engine } from '../../engine/engine';
import { Looking } from '../../lens/looking';
import { Theme } from '../../shared/theme';
import { Editor } from '../../state/editor';
import { Told } from '../../state/told';
import { PlanActions } from '../../state/plan.reducer';
import type { Brush } from '../../shared/histogram';
import { binOf, partLens } from './partLenses';

/** What is not brushed keeps this share of its colour. */
const OUT_SHARE = 0.25;

/** What Piece looks at: the survey, the lens on the part, what is lit and what was picked. */
@Injectable({ providedIn: 'root' })
export class PieceLook {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  private readonly theme = inject(Theme);
  private readonly store = inject(Store);
  /** How the part lies; the same value while it lies alike. */
  readonly lay = computed(() => this.editor.job()?.part?.lay ?? AS_DRAWN, {
    equal: (a, b) => JSON.stringify(a) === JSON.stringify(b),
  });
  private readonly wanted = computed(() => {
    const piece = this.engine.piece();
    return piece ? `${piece.key}|${JSON.stringify(this.lay())}` : '';
  });
  private asked = '';
  private readonly looking = inject(Looking);
  private readonly told = inject(Told);
  /** Whether surveying the part was stopped. */
  readonly stopped = signal(false);

  readonly survey = signal<Survey | undefined>(undefined);
  readonly lens = signal('plain');
  /** Bins of the lens's histogram to look at alone. */
  readonly brush = signal<Brush | undefined>(undefined);
  readonly lit = signal<readonly number[]>([]);
  /** What is lit, in words. */
  readonly litName = signal('');
  readonly litPlace = signal<Vec3 | undefined>(undefined);
  /** Height of a lit place in the laid frame, mm. */
  readonly litHeight = signal<number | undefined>(undefined);
  /** At most two. */
  readonly picks = signal<readonly Picked[]>([]);
  /** Whether the place is on screen: nothing is looked over before. */
  readonly shown = signal(false);

  constructor() {
    effect(() => {
      const key = this.wanted();
      const shown = this.shown();
      untracked(() => {
        if (key !== this.asked) {
          this.survey.set(undefined);
          this.brush.set(undefined);
          this.clear();
        }
        if (!shown || !key || key === this.asked) return;
        this.fetchNow(key);
      });
    });
  }

  readonly zero = computed((): Vec3 => {
    const job = this.editor.job();
    const boxes = this.engine.piece()?.boxes;
    return job?.part && boxes ? workZeroPoint(job, boxes) : [0, 0, 0];
  });

  readonly allLit = computed(() => [...this.lit(), ...this.picks().flatMap((p) => p.triangles)]);

  readonly marks = computed((): Vec3[] => {
    const picks = this.picks().map((p) => p.at);
    const place = this.litPlace();
    return picks.length > 0 ? picks : place ? [place] : [];
  });

  readonly measures = computed((): { title: string; rows: Measure[] }[] => {
    const picks = this.picks();
    const zeroZ = this.zero()[2];
    const out = picks.map((p, k) => ({ title: String(k + 1), rows: measuresOf(p, zeroZ) }));
    if (picks.length === 2) out.push({ title: '1 to 2', rows: measuresBetween(picks[0]!, picks[1]!) });
    return out;
  });

  /** What the chosen lens colours by. */
  readonly field = computed(() => {
    const survey = this.survey();
    return survey && partLens(this.lens()).field?.(survey);
  });

  /** Three numbers a corner for the chosen lens; what is not brushed is pale. */
  readonly colours = computed((): Float32Array | undefined => {
    const survey = this.survey();
    const field = this.field();
    const palette = this.theme.palette();
    const brush = this.brush();
    if (!survey || !field) return undefined;
    const wrong = rgb(palette.sanguine);
    const pale = mix(rgb(palette.paper), rgb(palette.pencil), 0.3);
    const out = new Float32Array(9 * survey.triangles);
    for (let t = 0; t < survey.triangles; t++)
      for (let c = 0; c < 3; c++) {
        const value = field.at(t, c);
        const colour = field.colour(value, wrong);
        const bin = brush ? binOf(field, value) : 0;
        out.set(brush && (bin < brush[0] || bin > brush[1]) ? mix(pale, colour, OUT_SHARE) : colour, 9 * t + 3 * c);
      }
    return out;
  });

  /** Sharp inside edges, which no round cutter clears, are drawn where room is in question. */
  readonly edges = computed(() => (this.lens() === 'tightness' ? this.survey()?.tightness.sharp.edges : undefined));

  choose(lens: string): void {
    this.lens.set(lens);
    this.brush.set(undefined);
  }

  async point(triangle: number, at: Vec3, reach: number): Promise<void> {
    try {
      const lay = this.lay();
      await this.told.wait();
      const picked = await this.engine.pick(lay, triangle, at, reach);
      // a place of the part as it lay before means nothing now
      if (this.lay() !== lay) return;
      const before = this.picks();
      // a second place is measured against the first; a third begins anew
      this.picks.set(before.length === 1 ? [...before, picked] : [picked]);
      this.lit.set([]);
      this.litPlace.set(undefined);
      this.litHeight.set(undefined);
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }

  light(triangles: readonly number[], at?: Vec3, name = ''): void {
    this.picks.set([]);
    this.litName.set(name);
    this.litHeight.set(at?.[2]);
    this.lit.set(triangles);
    this.litPlace.set(at);
  }

  clear(): void {
    this.picks.set([]);
    this.litHeight.set(undefined);
    this.lit.set([]);
    this.litPlace.set(undefined);
  }

  /** A height of the laid frame, from the work zero, mm. */
  heightInZero(z: number): number {
    return z - this.zero()[2];
  }

  laidOf(p: Vec3): Vec3 {
    const lay = this.editor.job()?.part?.lay;
    return lay ? laid(lay, p) : p;
  }

  /** Looks the part over after all. */
  lookOver(): void {
    this.fetchNow(this.wanted());
  }

  private fetchNow(key: string): void {
    this.asked = key;
    this.stopped.set(false);
    void this.fetch(key);
  }

  private async fetch(key: string): Promise<void> {
    try {
      await this.told.wait();
      // meanwhile it may have come to lie another way, and is looked over for that
      if (this.asked !== key) return;
      const survey = await this.looking.watch('survey', 'surveying the part', () => this.engine.survey(this.lay()));
      if (this.asked === key) this.survey.set(survey);
    } catch (error) {
      if (this.asked !== key) return;
      this.asked = '';
      if (isCancelled(error)) this.stopped.set(true);
      else this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }
}
