import { effect, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { type Lens, PlanActions, planFeature } from '../state/plan.reducer';
import { runOf } from '../engine/runs';
import type { StepSummary } from '../engine/views';
import { motionAt } from './motionAt';

const SPEEDS = [1, 5, 20, 60, 200, 600];
/** Pause between two pictures while playing, ms. */
const TICK_MS = 120;

/** Moves the playhead: by time while playing, by motion, by step. */
@Injectable({ providedIn: 'root' })
export class Playback {
  private readonly store = inject(Store);
  private readonly playing = this.store.selectSignal(planFeature.selectPlaying);
  private readonly lens = this.store.selectSignal(planFeature.selectLens);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  readonly speed = signal(60);
  /** Whether playing stops where something touches that must not. */
  readonly stopsAtContacts = signal(true);

  constructor() {
    effect((onCleanup) => {
      if (!this.playing()) return;
      const timer = setInterval(() => this.tick(), TICK_MS);
      onCleanup(() => clearInterval(timer));
    });
  }

  toggle(): void {
    const all = this.summaries();
    const last = all[all.length - 1];
    const m = this.moment();
    if (!this.playing() && last && m.stepId === last.stepId && m.motion >= last.motions - 1)
      this.stand(all[0]!.stepId, 0);
    this.store.dispatch(PlanActions.playToggled());
  }

  faster(): void {
    this.speed.update((s) => SPEEDS[Math.min(SPEEDS.length - 1, SPEEDS.indexOf(s) + 1)]!);
  }

  slower(): void {
    this.speed.update((s) => SPEEDS[Math.max(0, SPEEDS.indexOf(s) - 1)]!);
  }

  byMotion(by: number): void {
    const at = this.index();
    const m = this.moment();
    const s = this.summaries()[at];
    if (!s) return;
    const motion = m.motion + by;
    if (motion < 0) this.stand(this.summaries()[Math.max(0, at - 1)]!.stepId, Infinity);
    else if (motion >= s.motions && this.summaries()[at + 1]) this.stand(this.summaries()[at + 1]!.stepId, 0);
    else this.stand(s.stepId, motion);
  }

  byStep(by: number): void {
    const all = this.summaries();
    if (all.length === 0) return;
    const at = this.index();
    const s = all[at];
    if (by < 0 && s && this.moment().motion > 0) this.stand(s.stepId, 0);
    else this.stand(all[Math.max(0, Math.min(all.length - 1, at + by))]!.stepId, by > 0 ? Infinity : 0);
  }

  /** The step under the playhead in turn: the steel before it, the steel after it, what is left over, the part. */
  compare(): void {
    const s = this.summaries()[this.index()];
    if (!s) return;
    const lens = this.lens();
    const { motion } = this.moment();
    const look = (next: Lens): void => this.store.dispatch(PlanActions.lensChosen({ lens: next }));
    if (lens === 'steel' && motion === 0) this.stand(s.stepId, Infinity);
    else if (lens === 'steel' && motion >= s.motions - 1) look('leftover');
    else if (lens === 'leftover') look('part');
    else {
      this.stand(s.stepId, 0);
      look('steel');
    }
  }

  private tick(): void {
    const all = this.summaries();
    const at = this.index();
    const s = all[at];
    if (!s || !this.playing()) return;
    const { times } = runOf(s);
    const time = times[this.moment().motion]! + (this.speed() * TICK_MS) / 1000;
    const here = this.moment().motion;
    const next = time < s.figures.time ? Math.max(here + 1, motionAt(times, time)) : s.motions - 1;
    const contact = this.stopsAtContacts() ? firstPlace(s, here, next) : undefined;
    if (contact !== undefined) {
      this.stand(s.stepId, contact);
      this.store.dispatch(PlanActions.playToggled());
    } else if (time < s.figures.time) this.stand(s.stepId, next);
    else if (all[at + 1]) this.stand(all[at + 1]!.stepId, 0);
    else {
      this.stand(s.stepId, Infinity);
      this.store.dispatch(PlanActions.playToggled());
    }
  }

  private index(): number {
    const found = this.summaries().findIndex((s) => s.stepId === this.moment().stepId);
    return Math.max(0, found);
  }

  private stand(stepId: string, motion: number): void {
    const s = this.summaries().find((x) => x.stepId === stepId);
    if (!s) return;
    this.store.dispatch(
      PlanActions.playheadMoved({ moment: { stepId, motion: Math.max(0, Math.min(motion, s.motions - 1)) } }),
    );
  }
}

/** The first place behind one motion of a step and up to another at which something is wrong. */
function firstPlace({ figures }: StepSummary, behind: number, upTo: number): number | undefined {
  const motions = figures.findings.flatMap(({ places }) => places.map(({ motion }) => motion));
  const met = motions.filter((motion) => motion > behind && motion <= upTo);
  return met.length > 0 ? Math.min(...met) : undefined;
}
