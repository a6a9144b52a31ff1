import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { cutKeys, type Field, houseOf, type KeptLoad, sameLoad, shapeOf } from '@esquisse/core';
import { House } from '../keeping/house';
import { length, shown, unitOf } from '../shared/units';
import { Editor } from '../state/editor';
import { ChosenStep } from './chosenStep';

const WORDS: Record<KeptLoad, { unit: string; decimals: number }> = {
  volume: { unit: 'cm³/min', decimals: 1 },
  power: { unit: 'kW', decimals: 2 },
};

/** Width that goes with the depth of the chosen step, or depth with its width: by the load of the cut that it began with. */
@Component({
  selector: 'esq-same-load',
  imports: [MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (p of proposals(); track p.keeps) {
      <p class="pencil note" [attr.data-testid]="'keeps ' + p.keeps">
        As the house values, {{ p.load }}:
        <button
          matButton
          class="plain"
          [attr.aria-label]="'Take ' + p.shown + ' as ' + field().label"
          (click)="take(p.value)"
        >
          {{ p.shown }}
        </button>
      </p>
    }
  `,
  styles: `
    .note {
      font-size: 12px;
      margin: 0 0 2px;
    }
  `,
})
export class SameLoad {
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  private readonly chosen = inject(ChosenStep);
  readonly field = input.required<Field>();

  protected readonly proposals = computed(() => {
    const [job, step, tool, kind] = [this.editor.job(), this.chosen.step(), this.chosen.tool(), this.chosen.kind()];
    const keys = kind && cutKeys(kind);
    const { key } = this.field();
    if (!job || !step || !tool || !keys || (key !== keys.depth && key !== keys.width)) return [];
    const house = houseOf(kind, shapeOf(tool), this.house.steps());
    const other = key === keys.depth ? keys.width : keys.depth;
    if (step.values[other] === house[other]) return [];
    const like = { ...step.values, [keys.depth]: house[keys.depth]!, [keys.width]: house[keys.width]! };
    return sameLoad(job, step, tool, key, like).map(({ keeps, value, load }) => {
      const { unit, decimals } = WORDS[keeps];
      return {
        keeps,
        value,
        load: `${shown(load, unit, decimals)} ${unitOf(unit)}`,
        shown: `${length(value, 2)} ${unitOf('mm')}`,
      };
    });
  });

  protected take(value: number): void {
    const step = this.chosen.step();
    if (step) this.chosen.make(step.id, this.field().key, value);
  }
}
