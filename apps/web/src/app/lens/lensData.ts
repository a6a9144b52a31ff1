import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { EsquisseError, isCancelled, type LoadQuantity, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import type { DrawnSteel } from '../engine/display';
import { Engine } from '../engine/engine';
import type { LeftoverView, LoadView, Moment, ReachView, RidgeView } from '../engine/views';
import { LoadChoice } from '../shared/loadChoice';
import { Looking } from './looking';
import { jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature, type Lens } from '../state/plan.reducer';
import type { Brush } from '../shared/histogram';
import { RegionLook } from './regionLook';

/** What the bench draws: steel, and with the leftover lens the value at which its ramp ends, mm. */
export interface Shown {
  steel: DrawnSteel;
  high?: number;
  /** The field tells where the chosen step would cut. */
  isRegion?: boolean;
  /** Values beyond this are out of reach, or more than there is to be. */
  beyond?: number | undefined;
  /** The field tells ridges: the height that was asked for, mm. */
  ridges?: number;
}

/** What a lens is to show. */
interface Wish {
  readonly lens: Lens;
  readonly moment: Moment;
  readonly stepId?: string | undefined;
  readonly quantity?: LoadQuantity;
}

/** Fetches what the lens shows at the playhead; while one answer is under way only the newest wish waits. */
@Injectable({ providedIn: 'root' })
export class LensData {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly lens = this.store.selectSignal(planFeature.selectLens);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  private readonly fit = this.store.selectSignal(planFeature.selectFit);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly blank = this.store.selectSignal(jobFeature.selectJob);
  private readonly region = inject(RegionLook);
  private readonly looking = inject(Looking);
  private readonly loadChoice = inject(LoadChoice);
  private busy = false;
  private waiting?: Wish;

  /** How much of the part is seen through the steel, 0 to 1. */
  readonly through = signal(0);
  readonly shown = signal<Shown | undefined>(undefined);
  readonly leftover = signal<LeftoverView | undefined>(undefined);
  readonly reach = signal<ReachView | undefined>(undefined);
  readonly ridges = signal<RidgeView | undefined>(undefined);
  readonly load = signal<LoadView | undefined>(undefined);
  /** Why there is no load to be seen. */
  readonly noLoad = signal('');
  /** Why there are no ridges to be seen. */
  readonly noRidges = signal('');
  /** Bins of the leftover's histogram to look at alone, from the largest value down. */
  readonly brush = signal<Brush | undefined>(undefined);
  /** The brushed values, mm; what is beyond the histogram's ends belongs to the end bins. */
  readonly brushed = computed((): readonly [number, number] | undefined => {
    const brush = this.brush();
    const view = this.leftover();
    if (!brush || !view || this.lens() !== 'leftover') return undefined;
    const n = view.bins.length;
    const at = (k: number): number => view.low + (k / n) * (view.high - view.low);
    return [brush[1] === n - 1 ? -Infinity : at(n - 1 - brush[1]), brush[0] === 0 ? Infinity : at(n - brush[0])];
  });

  constructor() {
    effect(() => {
      const lens = this.lens();
      const wish = {
        lens,
        moment: this.moment(),
        ...((lens === 'reach' || lens === 'ridges') && { stepId: this.step()?.id }),
        ...(lens === 'load' && { quantity: this.loadChoice.quantity() }),
      };
      // what is asked of a job that the planner does not know yet is asked again when it does
      if ((lens === 'reach' || lens === 'ridges') && !this.isTold()) return;
      this.summaries();
      this.blank();
      if (!this.fit()) {
        this.shown.set(undefined);
        this.leftover.set(undefined);
        return;
      }
      if (wish.lens === 'region') {
        const region = this.region.view();
        if (region) untracked(() => this.shown.set({ steel: region.steel, isRegion: true }));
        if (region) return;
      }
      if (wish.lens !== 'part') untracked(() => this.ask(wish));
    });
  }

  private ask(wish: Wish): void {
    this.waiting = wish;
    if (!this.busy) void this.serve();
  }

  private async serve(): Promise<void> {
    this.busy = true;
    while (this.waiting) {
      const { lens, moment, stepId, quantity } = this.waiting;
      this.waiting = undefined;
      try {
        if (lens === 'leftover') {
          const view = await this.looking.watch('leftover', 'leftover', (onProgress) =>
            this.engine.leftover(moment, onProgress),
          );
          this.leftover.set(view);
          this.shown.set({ steel: view.steel, high: view.high });
        } else if (lens === 'reach' && stepId !== undefined) {
          this.reach.set(undefined);
          const view = await this.looking.watch('reach', 'needed stick-out', (onProgress) =>
            this.engine.reach(stepId, onProgress),
          );
          this.reach.set(view);
          this.shown.set({ steel: view.steel, high: Math.max(1, view.most), beyond: view.stickOut });
        } else if (lens === 'ridges' && stepId !== undefined) await this.showRidges(stepId, moment);
        else if (lens === 'load' && quantity) await this.showLoad(moment, quantity);
        else this.shown.set({ steel: await this.engine.steel(moment) });
      } catch (error) {
        this.shown.set(undefined);
        this.leftover.set(undefined);
        if (!isCancelled(error))
          this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'workplan' } }));
      }
    }
    this.busy = false;
  }

  /** The load of the step at the playhead; the steel, and why, where there is none. */
  private async showLoad(moment: Moment, quantity: LoadQuantity): Promise<void> {
    this.noLoad.set('');
    try {
      const view = await this.engine.load(moment, quantity);
      this.load.set(view);
      const { most, limit } = view.figure;
      this.shown.set({ steel: view.steel, high: most || 1, beyond: limit });
    } catch (error) {
      if (!(error instanceof EsquisseError) || error.code !== 'job-invalid') throw error;
      this.load.set(undefined);
      this.noLoad.set(error.message);
      this.shown.set({ steel: await this.engine.steel(moment) });
    }
  }

  /** Ridges of a step; the steel, and why, where it has none. */
  private async showRidges(stepId: string, moment: Moment): Promise<void> {
    this.ridges.set(undefined);
    this.noRidges.set('');
    try {
      const view = await this.looking.watch('ridges', 'ridges', (onProgress) => this.engine.ridges(stepId, onProgress));
      this.ridges.set(view);
      this.shown.set({ steel: view.steel, high: view.high, ridges: view.asked });
    } catch (error) {
      if (!(error instanceof EsquisseError) || error.code !== 'job-invalid') throw error;
      this.noRidges.set(error.message);
      this.shown.set({ steel: await this.engine.steel(moment) });
    }
  }
}
