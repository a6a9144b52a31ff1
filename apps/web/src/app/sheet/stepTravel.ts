import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { HOUSE_APPROACH_MM, HOUSE_BODY_ROOM, HOUSE_CLEARANCE_MM } from '@esquisse/core';
import { length } from '../shared/units';
import { ChoiceField } from '../shared/choiceField';
import { ValueField } from '../shared/valueField';
import { withSafe } from '../state/reachWays';
import { withTravel } from '../state/stepEdit';
import { Editor } from '../state/editor';
import { ChosenStep } from './chosenStep';

/** How the chosen step gets from cut to cut. */
@Component({
  selector: 'esq-step-travel',
  imports: [ChoiceField, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (step(); as s) {
      <esq-choice-field
        label="Shank and holder"
        key="reach"
        [value]="s.travel.reach"
        [options]="reaches"
        (chosen)="choose(s.id, $event)"
      />
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
  protected readonly reaches = [
    { value: 'whole', label: 'told where they touch' },
    { value: 'safe', label: 'cut only what they clear' },
  ];
  protected readonly rows = computed(() => [
    ...(this.step()?.travel.reach === 'safe'
      ? [
          {
            key: 'shankClearance' as const,
            label: 'Clearance of the shank',
            empty: length(HOUSE_BODY_ROOM.shank),
            why: 'Kept beside and below what is wider than the edges. What is slimmer goes where they went.',
          },
          {
            key: 'holderClearance' as const,
            label: 'Clearance of the holder',
            empty: length(HOUSE_BODY_ROOM.holder),
            why: 'Kept beside and below the holder, against the part; steel that still stands is kept clear as well.',
          },
        ]
      : []),
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
    {
      key: 'gap' as const,
      label: 'Largest gap without lifting',
      empty: 'by the kind of step',
      why: 'Wider gaps are crossed above the steel; narrower ones at the depth of the cut, where nothing stands in the way.',
    },
  ]);

  protected choose(stepId: string, reach: string): void {
    this.editor.make('workplan', (job) => withSafe(job, stepId, reach === 'safe'));
  }

  protected acceptor(
    stepId: string,
    key: 'crossing' | 'approach' | 'clearance' | 'gap' | 'shankClearance' | 'holderClearance',
  ) {
    return (value: number | null): string | undefined =>
      this.editor.change((job) => withTravel(job, stepId, { [key]: value }));
  }
}
