import { computed, inject, Injectable } from '@angular/core';
import {
  houseOf,
  kindOf,
  type Relation,
  refusesMilling,
  relationProblems,
  shapeOf,
  stepCutting,
  toolOf,
  toolsOf,
  toolTitle,
  type Value,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { House } from '../keeping/house';
import { withAssembly, withValue } from '../state/edit';
import { withKind } from '../state/stepEdit';
import { Editor } from '../state/editor';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';

/** The chosen step with its kind, its tool and what was found of it, and how it is changed. */
@Injectable({ providedIn: 'root' })
export class ChosenStep {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  readonly step = this.store.selectSignal(jobFeature.selectStep);
  /** Its place in the plan. */
  readonly index = computed(() => this.editor.job()?.steps.findIndex((s) => s.id === this.step()?.id) ?? 0);
  readonly kind = computed(() => {
    const step = this.step();
    return step && kindOf(step.kind);
  });
  readonly tool = computed(() => {
    const job = this.editor.job();
    const step = this.step();
    return job && step ? toolOf(job.crib, step.assemblyId) : undefined;
  });
  /** What is wrong with its relations, by the values' keys. */
  readonly problems = computed((): Readonly<Record<string, string>> => {
    const job = this.editor.job();
    const id = this.step()?.id;
    return job
      ? Object.fromEntries(relationProblems(job).flatMap((p) => (p.ownerId === id ? [[p.key, p.message]] : [])))
      : {};
  });
  /** Its speed and feeds. */
  readonly cutting = computed(() => {
    const [job, step, tool] = [this.editor.job(), this.step(), this.tool()];
    return job && step && tool ? stepCutting(job, step, tool) : undefined;
  });
  readonly summary = computed(() => this.summaries().find((s) => s.stepId === this.step()?.id));
  readonly figures = computed(() => this.summary()?.figures);
  /** What the crib holds, without what is retired, each with the reason why it cannot do the step. */
  readonly tools = computed(() => {
    const kind = this.kind();
    return this.known().map((tool) => ({
      id: tool.assembly.id,
      title: toolTitle(tool),
      refused: kind?.refuses(shapeOf(tool)),
    }));
  });
  /** The same as cutters of steps before it, of whatever kind those were. */
  readonly earlier = computed(() =>
    this.known().map((tool) => ({
      id: tool.assembly.id,
      title: toolTitle(tool),
      refused: refusesMilling(tool.cutter),
    })),
  );
  private readonly known = computed(() => {
    const job = this.editor.job();
    if (!job) return [];
    return toolsOf(job.crib).filter((t) => !t.assembly.retired || t.assembly.id === this.step()?.assemblyId);
  });

  /**
   * Changes a value of a step: the one that the sheet shows it for, which under load may not be the chosen one any more. Gives the
   * sentence that says why not, or undefined when it was taken.
   */
  change(stepId: string, key: string, value: Value, relation?: Relation): string | undefined {
    return this.editor.change((job) => withValue(job, stepId, key, value, relation));
  }

  /** The same, what is refused told at the top of the page. */
  make(stepId: string, key: string, value: Value): void {
    this.editor.make('workplan', (job) => withValue(job, stepId, key, value));
  }

  /** Makes a step one of another kind, with its cutter, limits and heights. */
  changeKind(stepId: string, kindId: string): void {
    const tool = this.tool();
    const kind = kindOf(kindId);
    if (!tool || !kind) return;
    const house = houseOf(kind, shapeOf(tool), this.house.steps());
    this.editor.make('workplan', (job) => withKind(job, stepId, kindId, house));
  }

  changeAssembly(stepId: string, assemblyId: string): void {
    this.editor.make('workplan', (job) => withAssembly(job, stepId, assemblyId, this.house.steps()));
  }
}
