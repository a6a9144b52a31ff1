import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import {
  laid,
  type Measure,
  measuresBetween,
  measuresOf,
  messageOf,
  type Picked,
  ROOMY_MM,
  type Survey,
  type Vec3,
  workZeroPoint,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { rampColour } from '../../bench/palette';
import { Engine } from '../../engine/engine';
import { Theme } from '../../shared/theme';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { rgb } from '../../bench/palette';

export type PieceLens = 'plain' | 'slope' | 'tightness' | 'depth' | 'hidden';

/** What the place Piece looks at: the survey, the lens on the part, what is lit and what was picked. */
@Injectable({ providedIn: 'root' })
export class PieceLook {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  private readonly theme = inject(Theme);
  private readonly store = inject(Store);
  private readonly wanted = computed(() => {
    const piece = this.engine.piece();
    return piece ? `${piece.key}|${JSON.stringify(this.editor.job()?.part?.lay)}` : '';
  });
  private asked = '';

  readonly survey = signal<Survey | undefined>(undefined);
  readonly lens = signal<PieceLens>('plain');
  readonly lit = signal<readonly number[]>([]);
  /** What is lit, in words. */
  readonly litName = signal('');
  readonly litPlace = signal<Vec3 | undefined>(undefined);
  /** Height of a lit place, from the work zero: it can be made a limit of a step. */
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
          this.clear();
        }
        if (!shown || !key || key === this.asked) return;
        this.asked = key;
        void this.fetch(key);
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

  /** One colour a triangle for the chosen lens. */
  readonly colours = computed((): Float32Array | undefined => {
    const survey = this.survey();
    const lens = this.lens();
    const palette = this.theme.palette();
    if (!survey || lens === 'plain') return undefined;
    const plaster = rgb(palette.plaster);
    const wrong = rgb(palette.sanguine);
    const out = new Float32Array(3 * survey.triangles);
    if (lens === 'hidden') {
      for (let t = 0; t < survey.triangles; t++) out.set(plaster, 3 * t);
      for (const t of survey.hidden.triangles) out.set(wrong, 3 * t);
      return out;
    }
    for (let t = 0; t < survey.triangles; t++) out.set(colourOf(lens, survey, t, wrong), 3 * t);
    return out;
  });

  async point(triangle: number, at: Vec3, reach: number): Promise<void> {
    try {
      const picked = await this.engine.pick(triangle, at, reach);
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
    this.litHeight.set(at && this.heightInZero(at[2]));
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

  private async fetch(key: string): Promise<void> {
    try {
      const survey = await this.engine.survey();
      if (this.asked === key) this.survey.set(survey);
    } catch (error) {
      this.asked = '';
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }
}

/** Degrees of slope at which the colour is full, and depth or radius by the survey. */
function colourOf(lens: PieceLens, survey: Survey, t: number, wrong: readonly [number, number, number]) {
  if (lens === 'slope') {
    const slope = survey.slopeOf[t]!;
    return slope > 90.5 ? wrong : rampColour(slope / 90);
  }
  if (lens === 'depth') return rampColour(survey.depthOf[t]! / (survey.box.maxZ - survey.box.minZ || 1));
  // tight places are dark
  const r = survey.tightness.radius[t]!;
  return rampColour(r >= ROOMY_MM ? 0 : 1 - Math.log(1 + r) / Math.log(1 + ROOMY_MM));
}
