import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import {
  type Crib,
  cuttersFor,
  foundOn,
  groupsOf,
  type Hole,
  type HoleGroup,
  type HolePurpose,
  type MilledPart,
  type Proposal,
  type ProposedStep,
  proposeEdges,
  proposeHoles,
  proposeMilling,
  PURPOSE_WORDS,
  purposesFor,
  toolTitle,
  withCutter,
} from '@esquisse/core';
import { ChoiceField } from '../../shared/choiceField';
import { length, told, unitOf } from '../../shared/units';

/** What steps are proposed for, and the cutters that there are. */
export interface PartStepsAsk {
  readonly holes: readonly Hole[];
  readonly crib: Crib;
  /** The part but for its holes, where steps are wanted for that as well. */
  readonly part?: MilledPart;
}

const NONE: Proposal = { steps: [], missing: [] };

/** Proposes steps for the part, and for its holes by what the person says that they are for. */
@Component({
  selector: 'esq-part-steps',
  imports: [ChoiceField, MatButtonModule, MatCheckboxModule, MatDialogModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    h3 {
      margin: 14px 0 4px;
    }
    .found {
      display: flex;
      justify-content: space-between;
      gap: 16px;
      margin: 2px 0;
    }
    .step {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 300px;
      align-items: center;
      gap: 16px;
      min-height: 32px;
    }
  `,
  template: `
    <h2 mat-dialog-title>{{ ask.part ? 'Steps for this part' : 'Steps for holes' }}</h2>
    <mat-dialog-content>
      @for (one of found; track one.name) {
        <p class="found">
          <span>{{ one.name }}</span><span class="mono">{{ told(one.told) }}</span>
        </p>
      }
      @if (rows().length > 0) {
        <p class="pencil">What each sort of hole is for, the part does not tell: say it.</p>
        @for (row of rows(); track row.group.key) {
          <esq-choice-field
            [label]="row.words"
            [value]="row.purpose"
            [options]="row.options"
            (chosen)="become(row.group.key, $event)"
          />
        }
      }
      <h3>Steps, in their order</h3>
      @for (step of steps(); track keyOf(step)) {
        <div class="step">
          <mat-checkbox [checked]="isTaken(step)" (change)="take(step, $event.checked)">{{ step.name }}</mat-checkbox>
          <esq-choice-field
            bare
            [label]="'Cutter of ' + step.name"
            [value]="step.tool.assembly.id"
            [options]="cutters(step)"
            (chosen)="cutWith(step, $event)"
          />
        </div>
      } @empty {
        <p class="pencil">None.</p>
      }
      @for (lacking of missing(); track lacking) {
        <p class="wrong" role="status">The crib has no cutter for it: {{ told(lacking) }}.</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton="filled" [disabled]="taken().length === 0" disabledInteractive (click)="dialog.close(taken())">
        {{ taken().length === 1 ? 'Take the step' : 'Take ' + taken().length + ' steps' }}
      </button>
      <button matButton mat-dialog-close>Cancel</button>
    </mat-dialog-actions>
  `,
})
export class PartStepsDialog {
  protected readonly dialog = inject<MatDialogRef<PartStepsDialog, readonly ProposedStep[]>>(MatDialogRef);
  protected readonly ask = inject<PartStepsAsk>(MAT_DIALOG_DATA);
  protected readonly told = told;
  protected readonly found = this.ask.part ? foundOn(this.ask.part) : [];
  private readonly milled = this.ask.part ? proposeMilling(this.ask.part, this.ask.crib) : NONE;
  private readonly edges = this.ask.part ? proposeEdges(this.ask.part, this.ask.crib) : NONE;
  private readonly groups = groupsOf(this.ask.holes);
  /** What was said of groups of holes, by their keys. */
  private readonly said = signal<ReadonlyMap<string, HolePurpose>>(new Map());
  /** Whether steps are to be taken, where that was said, and cutters that were chosen for them. */
  private readonly chosen = signal<ReadonlyMap<string, boolean>>(new Map());
  private readonly others = signal<ReadonlyMap<string, string>>(new Map());

  protected readonly rows = computed(() =>
    this.groups.map((group) => {
      const purposes = purposesFor(group, this.ask.crib);
      return {
        group,
        words: wordsOf(group),
        purpose: this.said().get(group.key) ?? purposes[0]!,
        options: purposes.map((value) => ({ value: value as string, label: PURPOSE_WORDS[value] })),
      };
    }),
  );
  private readonly proposals = computed((): readonly Proposal[] => [
    this.milled,
    proposeHoles(this.rows(), this.ask.crib),
    this.edges,
  ]);
  protected readonly missing = computed(() => [...new Set(this.proposals().flatMap((p) => p.missing))]);
  protected readonly steps = computed(() => {
    const others = this.others();
    return this.proposals()
      .flatMap((p) => p.steps)
      .map((step) => {
        const id = others.get(this.keyOf(step));
        const tool = id === undefined ? undefined : this.cuttersOf(step.kind).find((t) => t.assembly.id === id);
        return tool ? withCutter(step, tool) : step;
      });
  });
  protected readonly taken = computed(() => this.steps().filter((step) => this.isTaken(step)));

  /** The same for a step whatever its cutter: two of one name mean different holes. */
  protected keyOf({ name, kind, own }: ProposedStep): string {
    return `${kind} ${name} ${JSON.stringify(own)}`;
  }

  protected isTaken(step: ProposedStep): boolean {
    return this.chosen().get(this.keyOf(step)) ?? !step.isExtra;
  }

  protected become(key: string, purpose: string): void {
    this.said.update((said) => new Map(said).set(key, purpose as HolePurpose));
  }

  protected take(step: ProposedStep, isTaken: boolean): void {
    this.chosen.update((chosen) => new Map(chosen).set(this.keyOf(step), isTaken));
  }

  protected cutWith(step: ProposedStep, assemblyId: string): void {
    this.others.update((others) => new Map(others).set(this.keyOf(step), assemblyId));
  }

  private readonly byKind = new Map<string, ReturnType<typeof cuttersFor>>();
  private cuttersOf(kind: string): ReturnType<typeof cuttersFor> {
    const known = this.byKind.get(kind) ?? cuttersFor(kind, this.ask.crib);
    this.byKind.set(kind, known);
    return known;
  }

  protected cutters(step: ProposedStep): { value: string; label: string }[] {
    return this.cuttersOf(step.kind).map((tool) => ({ value: tool.assembly.id, label: toolTitle(tool) }));
  }
}

/** A group of holes in words. */
function wordsOf({ count, diameter, depth, through, bores }: HoleGroup): string {
  const bore = bores.map((b) => `, bore ⌀ ${length(b.diameter, 2)} x ${length(b.depth, 2)}`).join('');
  return `${count} x ⌀ ${length(diameter, 2)} ${through ? 'through' : 'blind'}, up to ${length(depth, 1)} ${unitOf('mm')} deep${bore}`;
}
