import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import {
  cutterSymbols,
  type Field,
  type Job,
  kindOf,
  type Relation,
  shapeOf,
  type Step,
  toolOf,
  toolsOf,
  toolTitle,
  type Value,
} from '@esquisse/core';
import { House } from '../keeping/house';
import { ChoiceField } from '../shared/choiceField';
import { ValueField } from '../shared/valueField';
import { withAssembly, withStep, withValue } from '../state/edit';
import { Editor } from '../state/editor';
import { SeveralSteps } from '../state/severalSteps';

const DIFFERENT = 'different';

/** The sheet of several steps: what they have in common, changed for all of them at once. */
@Component({
  selector: 'esq-several-sheet',
  imports: [ChoiceField, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepSheet.scss',
  template: `
    <p class="sentence" data-testid="several">
      {{ steps().length }} steps are chosen: {{ names() }}. What is changed here is changed in all of them.
    </p>
    <section class="section">
      <h2>Cutter</h2>
      <esq-choice-field
        label="Assembly"
        [value]="shared(assemblyOf) ?? ''"
        [options]="tools()"
        (chosen)="change(assembled($event))"
      />
    </section>
    @if (fields().length > 0) {
      <section class="section">
        <h2>Values of all of them</h2>
        @for (f of fields(); track f.key) {
          @if (f.choices) {
            <esq-choice-field
              [label]="f.label"
              [key]="f.key"
              [value]="$any(shared(valueOf(f))) ?? ''"
              [options]="f.choices"
              (chosen)="change(valued(f, $event))"
            />
          } @else {
            <esq-value-field
              [label]="f.label"
              [key]="f.key"
              [value]="shared(valueOf(f)) ?? null"
              [unit]="f.unit ?? ''"
              [optional]="!!f.whenEmpty"
              [placeholder]="shared(valueOf(f)) === undefined ? different : (f.whenEmpty ?? '')"
              [symbols]="symbols()"
              [accept]="acceptor(f)"
            />
          }
        }
      </section>
    }
    <section class="section">
      <div class="row actions">
        <button matButton="outlined" class="press" (click)="change(switched(true))" [disabled]="areAll(true)">
          Switch on
        </button>
        <button matButton="outlined" class="press" (click)="change(switched(false))" [disabled]="areAll(false)">
          Switch off
        </button>
        <button matButton class="plain" (click)="several.clear()">Done</button>
      </div>
    </section>
  `,
})
export class SeveralSheet {
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  protected readonly several = inject(SeveralSteps);
  protected readonly different = DIFFERENT;

  protected readonly steps = computed((): readonly Step[] => {
    const ids = this.several.ids();
    return (this.editor.job()?.steps ?? []).filter((s) => ids.includes(s.id));
  });
  protected readonly names = computed(() => {
    const all = this.editor.job()?.steps ?? [];
    return this.steps()
      .map((s) => `${all.indexOf(s) + 1} ${s.name}`)
      .join(', ');
  });

  /** Values that all of their kinds have under one name, but for those that name another cutter. */
  protected readonly fields = computed((): readonly Field[] => {
    const [first, ...others] = this.steps().map((s) => kindOf(s.kind)?.fields ?? []);
    return (first ?? []).filter(
      (field) =>
        !field.assembly &&
        !field.onlyWhen &&
        others.every((fields) =>
          fields.some(
            (f) =>
              nameOf(f) === nameOf(field) && f.unit === field.unit && same(f.choices, field.choices) && !f.onlyWhen,
          ),
        ),
    );
  });

  /** What the crib holds, each with the reason why it cannot do one of the steps. */
  protected readonly tools = computed(() => {
    const job = this.editor.job();
    const kinds = this.steps().map((s) => kindOf(s.kind));
    const known = job ? toolsOf(job.crib).filter((t) => !t.assembly.retired) : [];
    const rows = known.map((tool) => ({
      value: tool.assembly.id,
      label: toolTitle(tool),
      refused: kinds.map((kind) => kind?.refuses(shapeOf(tool))).find((why) => why !== undefined),
    }));
    return this.shared(this.assemblyOf) === undefined ? [{ value: '', label: DIFFERENT }, ...rows] : rows;
  });

  protected readonly symbols = computed((): Record<string, number> => {
    const job = this.editor.job();
    const [first] = this.steps();
    const tool = job && first && toolOf(job.crib, first.assemblyId);
    return tool ? cutterSymbols(tool.cutter) : {};
  });

  protected readonly assemblyOf = (step: Step): string => step.assemblyId;
  protected readonly valueOf =
    (field: Field) =>
    (step: Step): Value =>
      step.values[keyIn(step, field)]!;

  /** What is the same in all of them; undefined where it is not. */
  protected shared<T>(of: (step: Step) => T): T | undefined {
    const [first, ...others] = this.steps().map(of);
    return others.every((other) => other === first) ? first : undefined;
  }

  protected areAll(on: boolean): boolean {
    return this.steps().every((s) => s.enabled === on);
  }

  protected acceptor(field: Field) {
    return (value: number | null, relation?: Relation): string | undefined => {
      const ids = this.several.ids();
      return this.editor.change((job) => ids.reduce((now, id) => this.with(now, id, field, value, relation), job));
    };
  }

  protected readonly assembled =
    (assemblyId: string) =>
    (job: Job, id: string): Job =>
      assemblyId ? withAssembly(job, id, assemblyId, this.house.steps()) : job;
  protected readonly valued =
    (field: Field, value: Value) =>
    (job: Job, id: string): Job =>
      this.with(job, id, field, value);
  protected readonly switched =
    (enabled: boolean) =>
    (job: Job, id: string): Job =>
      withStep(job, id, { enabled });

  private with(job: Job, id: string, field: Field, value: Value, relation?: Relation): Job {
    const step = job.steps.find((s) => s.id === id);
    return step ? withValue(job, id, keyIn(step, field), value, relation) : job;
  }

  /** One change, taken back in one go. */
  protected change(each: (job: Job, id: string) => Job): void {
    const ids = this.several.ids();
    this.editor.make('workplan', (job) => ids.reduce(each, job));
  }
}

/** What tells a value of one kind of step as the same of another. */
const nameOf = ({ means, key }: Field): string => means ?? key;

/** The key under which a step has a value that another one has as a field. */
const keyIn = ({ kind }: Step, field: Field): string =>
  kindOf(kind)?.fields.find((f) => nameOf(f) === nameOf(field))?.key ?? field.key;

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
