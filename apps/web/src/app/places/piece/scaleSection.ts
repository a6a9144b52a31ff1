import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { type Scale, TRUE_SIZE } from '@esquisse/core';
import { Jobs } from '../../keeping/jobs';
import { ValueField } from '../../shared/valueField';
import { figure } from '../../shared/numbers';
import { Fold } from '../../shared/fold';
import { Editor } from '../../state/editor';

/** Shrinkage is told to this many places of a percent. */
const PLACES = 4;
const MOST_PERCENT = 99_900;

/** Shrinkage, size and mirroring of the part as a whole. */
@Component({
  selector: 'esq-scale-section',
  imports: [Fold, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <esq-fold name="Shrinkage and mirror" [brief]="brief()">
      <esq-value-field
        label="Shrinkage, all axes"
        unit="%"
        key="shrinkage"
        [value]="shrinkage()"
        placeholder="by axis"
        [accept]="acceptShrinkage"
      />
      @for (axis of axes; track axis; let k = $index) {
        <esq-value-field
          [label]="'Factor along ' + axis + ' of the file'"
          [key]="'scale' + axis"
          [value]="size(k)"
          [accept]="acceptor(k)"
        />
      }
      <div class="row">
        <span>Mirrored across</span>
        <span role="group" aria-label="Mirrored across">
          @for (axis of axes; track axis; let k = $index) {
            <button
              matButton="outlined"
              class="press mono"
              [attr.aria-pressed]="scale()[k]! < 0"
              [class.on]="scale()[k]! < 0"
              (click)="mirror(k)"
            >
              {{ axis }}
            </button>
          }
        </span>
      </div>
      <p class="pencil">
        Steps keep their values: climb stays climb. Blanks and fixtures of other files stay as they are.
      </p>
    </esq-fold>
  `,
  styles: `
    .on {
      background: var(--chosen);
    }
    .press {
      padding: 3px 7px;
      margin-left: 4px;
    }
  `,
})
export class ScaleSection {
  private readonly editor = inject(Editor);
  private readonly jobs = inject(Jobs);
  protected readonly axes = ['X', 'Y', 'Z'] as const;
  protected readonly scale = computed((): Scale => this.editor.job()?.part?.scale ?? TRUE_SIZE);
  /** Percent, the same along all axes; null where they differ. */
  protected readonly shrinkage = computed((): number | null => {
    const [x, y, z] = this.scale().map(Math.abs) as Scale;
    return x === y && y === z ? Number(((x - 1) * 100).toFixed(PLACES)) : null;
  });
  protected readonly brief = computed(() => {
    const scale = this.scale();
    const sizes = scale.map((s) => Math.abs(s));
    const percent = this.shrinkage();
    const size = percent === null ? sizes.map((s) => figure(s, 4)).join(' x ') : percent === 0 ? '' : `${percent} %`;
    const mirrored = this.axes.filter((_, k) => scale[k]! < 0).join(', ');
    return [size, mirrored && `mirrored in ${mirrored}`].filter(Boolean).join(', ') || 'true size';
  });

  protected size(k: number): number {
    return Math.abs(this.scale()[k]!);
  }

  protected readonly acceptShrinkage = (percent: number | null): string | undefined => {
    if (percent === null) return undefined;
    if (!(percent > -100 && percent <= MOST_PERCENT)) return 'More than -100 %: what is left has a size.';
    return this.put(this.scale().map((s) => Math.sign(s) * (1 + percent / 100)) as Scale);
  };

  protected acceptor(k: number) {
    return (factor: number | null): string | undefined => {
      if (factor === null) return undefined;
      if (!(factor > 0)) return 'A factor is more than 0; mirroring is below.';
      return this.put(this.scale().map((s, axis) => (axis === k ? Math.sign(s) * factor : s)) as Scale);
    };
  }

  protected mirror(k: number): void {
    this.put(this.scale().map((s, axis) => (axis === k ? -s : s)) as Scale);
  }

  private put(scale: Scale): undefined {
    void this.jobs.scalePart(scale);
    return undefined;
  }
}
