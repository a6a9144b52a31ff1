import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { type FaceLimit, type FacePick, isPlanLimit, messageOf, type StepLimit } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { withStep } from '../state/edit';
import { Editor } from '../state/editor';
import { jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { Told } from '../state/told';

/** How a limit by faces begins. */
const BEGUN: Record<FaceLimit['kind'], FaceLimit> = {
  faces: { kind: 'faces', faces: [] },
  'off-faces': { kind: 'off-faces', faces: [], distance: 0.5 },
  'more-on-faces': { kind: 'more-on-faces', faces: [], amount: 0.02 },
};

/** Which faces of the part the chosen step is held by: picked on the bench, one press each. */
@Injectable({ providedIn: 'root' })
export class FacePicking {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  private readonly store = inject(Store);
  private readonly told = inject(Told);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  private readonly lens = this.store.selectSignal(planFeature.selectLens);
  private readonly asked = signal<{ readonly stepId: string; readonly at: number } | undefined>(undefined);
  /** Presses are answered one after another: each goes on from what the one before made. */
  private last: Promise<unknown> = Promise.resolve();

  private readonly limits = computed((): readonly StepLimit[] => this.step()?.limits ?? []);

  /** Number of the limit whose faces are being picked. */
  readonly at = computed((): number | undefined => {
    const asked = this.asked();
    const limit = asked && asked.stepId === this.step()?.id ? this.limits()[asked.at] : undefined;
    return limit && !isPlanLimit(limit) ? asked!.at : undefined;
  });
  readonly isOn = computed(() => this.at() !== undefined);

  /** Faces to light: those that are being picked, or, where the part is looked at, all of the chosen step's. */
  private readonly shown = computed(
    (): readonly FacePick[] => {
      const at = this.at();
      if (at === undefined && this.lens() !== 'part') return [];
      return this.limits().flatMap((limit, k) =>
        isPlanLimit(limit) || (at !== undefined && k !== at) ? [] : limit.faces,
      );
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  readonly lit = signal<readonly number[]>([]);

  constructor() {
    effect(() => {
      const picks = this.shown();
      const piece = this.engine.piece()?.key;
      untracked(() => void this.light(picks, piece));
    });
  }

  /** Adds a limit to the chosen step, whose faces are picked next. */
  begin(kind: FaceLimit['kind']): void {
    const step = this.step();
    if (!step) return;
    // a step cuts on all its faces alike; from others it may keep, or leave on them, differently
    const known = step.limits.findIndex(
      (limit) => limit.kind === kind && !isPlanLimit(limit) && (kind === 'faces' || limit.faces.length === 0),
    );
    if (known < 0) this.put(step.id, [...step.limits, BEGUN[kind]]);
    this.pick(known < 0 ? step.limits.length : known);
  }

  /** Goes on picking faces for a limit of the chosen step; ends it for the one that is being picked. */
  pick(at: number): void {
    const stepId = this.step()?.id;
    this.asked.set(stepId && this.at() !== at ? { stepId, at } : undefined);
  }

  end(): void {
    this.asked.set(undefined);
  }

  /** A face was pressed: it is taken, or let go when it was among them. */
  press(triangle: number): void {
    const at = this.at();
    const stepId = this.step()?.id;
    if (at === undefined || !stepId) return;
    this.last = this.last.then(() => this.change(stepId, at, (faces) => this.engine.facesToggled(faces, triangle)));
  }

  /** Adds all faces that hold one of these triangles to a limit of the chosen step. */
  async add(kind: FaceLimit['kind'], triangles: readonly number[]): Promise<void> {
    const step = this.step();
    if (!step) return;
    const known = step.limits.findIndex((limit) => limit.kind === kind);
    const at = known < 0 ? step.limits.length : known;
    if (known < 0) this.put(step.id, [...step.limits, BEGUN[kind]]);
    this.last = this.last.then(() => this.change(step.id, at, (faces) => this.engine.facesAdded(faces, triangles)));
    await this.last;
  }

  private async change(
    stepId: string,
    at: number,
    change: (faces: readonly FacePick[]) => Promise<readonly FacePick[]>,
  ): Promise<void> {
    try {
      await this.told.wait();
      const limit = this.editor.job()?.steps.find((s) => s.id === stepId)?.limits[at];
      if (!limit || isPlanLimit(limit)) return;
      const faces = [...(await change(limit.faces))];
      const limits = this.editor.job()?.steps.find((s) => s.id === stepId)?.limits ?? [];
      // what was changed meanwhile stays as it is
      if (limits[at] === limit)
        this.put(
          stepId,
          limits.map((l, k) => (k === at ? { ...limit, faces } : l)),
        );
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'workplan' } }));
    }
  }

  private put(stepId: string, limits: StepLimit[]): void {
    this.editor.make('workplan', (job) => withStep(job, stepId, { limits }));
  }

  private async light(picks: readonly FacePick[], piece: string | undefined): Promise<void> {
    const lit = picks.length > 0 && piece ? await this.engine.facesLit(picks).catch(() => []) : [];
    if (this.shown() === picks) this.lit.set(lit);
  }
}
