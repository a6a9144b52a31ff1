import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { HOUSE_APPROACH_MM, HOUSE_CLEARANCE_MM } from '@esquisse/core';
import { length } from '../shared/units';
import { ValueField } from '../shared/valueField';
import { withTravel } from '../state/stepEdit';
import { Editor } from '../state/editor';
import { ChosenStep } from './chosenStep';

/** How the chosen step gets from cut to cut. */
@Component({
  selector: 'esq-step-travel',
  imports: [ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (step(); as s) {
      @for (row of rows(); track row.key) {
        <esq-value-field
          [label]="row.label"
          [key]="row.key"
          [value]="s.travel[row.key]"
          unit="mm"
          [optional]="true"
          [placeholder]="row.empty"
          [why]="row.why"
          [accept]="acceptor(s.id, row.key)"
        />
      }
    }
  `,
})
export class StepTravel {
  private readonly editor = inject(Editor);
  private readonly chosen = inject(ChosenStep);
  protected readonly step = this.chosen.step;
  protected readonly rows = computed(() => [
    {
      key: 'crossing' as const,
      label: 'Crossing height above the block',
      empty: `${length(this.editor.job()?.setup.safeHeight ?? 0)}, the setup's`,
      why: '',
    },
    {
      key: 'approach' as const,
      label: 'Approach distance',
      empty: length(HOUSE_APPROACH_MM),
      why: 'Above steel a rapid ends here and the entry feed begins. From faces as they came it keeps 2 mm at least.',
    },
    {
      key: 'clearance' as const,
      label: 'Clearance beside',
      empty: length(HOUSE_CLEARANCE_MM),
      why: 'Room kept around cutter and holder while they cross at rapid rate.',
    },
  ]);

  protected acceptor(stepId: string, key: 'crossing' | 'approach' | 'clearance') {
    return (value: number | null): string | undefined =>
      this.editor.change((job) => withTravel(job, stepId, { [key]: value }));
  }
}
