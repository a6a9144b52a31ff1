import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { AS_DRAWN, HIDDEN_SHARE, type Lay, layTurned, layWithZ, type Vec3, unlaid } from '@esquisse/core';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';
import { PieceLook } from './pieceLook';
import { directionWords } from './surveyRows';
import { Fold } from '../../shared/fold';

/** How the piece lies: turns, flips, and the best way up. Faces and edges are chosen by pointing at them in the view. */
@Component({
  selector: 'esq-lay-section',
  imports: [ChoiceField, Fold, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <esq-fold name="Orientation" open>
      <p class="pencil">Point at a face or edge in the view to bring it up or along X, or turn:</p>
      <div class="turns" role="group" aria-label="Turn by a right angle">
        @for (axis of axes; track axis) {
          <button
            matButton="outlined"
            class="press mono"
            [attr.aria-label]="'Turn 90° about ' + axis"
            (click)="turn(axis, 90)"
          >
            {{ axis }} 90°
          </button>
        }
        <button matButton="outlined" class="press" (click)="turn('X', 180)">Flip</button>
        <button matButton="outlined" class="press" (click)="fromView()">Z towards viewer</button>
        <button matButton="outlined" class="press" [disabled]="asDrawn()" (click)="set(drawn)">As in the file</button>
      </div>
      <esq-choice-field
        label="Turn by an angle about"
        [value]="axis()"
        [options]="axisChoices"
        (chosen)="axis.set($any($event))"
      />
      <esq-value-field label="Angle" key="turnAngle" [value]="angle()" unit="°" [accept]="acceptAngle" />
      <button matButton="outlined" class="press" [disabled]="angle() === 0" (click)="turnBy()">Turn by it</button>
      @if (warning(); as w) {
        <p class="wrong" role="note" data-testid="hidden-warning">
          {{ w.text }}
          @if (w.best; as up) {
            <button matButton="outlined" class="press" (click)="useDirection(up)">
              Lay it with {{ words(up) }} up
            </button>
          }
        </p>
      }
    </esq-fold>
  `,
  styles: `
    .turns {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      padding: 4px 0;
    }
    .turns .press {
      padding: 3px 7px;
    }
  `,
})
export class LaySection {
  private readonly editor = inject(Editor);
  private readonly look = inject(PieceLook);
  /** Direction from the piece to the eye, in the laid frame. */
  readonly eye = input.required<() => Vec3>();
  protected readonly axes = ['X', 'Y', 'Z'] as const;
  protected readonly axisChoices = choicesOf(this.axes);
  protected readonly axis = signal<'X' | 'Y' | 'Z'>('Z');
  protected readonly drawn = AS_DRAWN;
  protected readonly words = directionWords;
  private readonly lay = computed(() => this.editor.job()?.part?.lay ?? AS_DRAWN);
  protected readonly asDrawn = computed(() => JSON.stringify(this.lay()) === JSON.stringify(AS_DRAWN));

  protected readonly warning = computed(() => {
    const s = this.look.survey();
    if (!s || s.hidden.share <= HIDDEN_SHARE) return undefined;
    const best = [...s.directions].sort((a, b) => a.share - b.share)[0]!;
    const share = (v: number): string => `${(v * 100).toFixed(0)} %`;
    const better = best.up[2] !== 1 && best.share < s.hidden.share - 0.02;
    return {
      text: `${share(s.hidden.share)} of the surface (${(s.hidden.area / 100).toFixed(0)} cm²) is not seen from +Z: the cutter cannot get there.${
        better ? ` With ${directionWords(best.up)} up it is ${share(best.share)}.` : ''
      }`,
      best: better ? best.up : undefined,
    };
  });

  protected readonly angle = signal(0);
  protected readonly acceptAngle = (value: number | null): string | undefined => {
    this.angle.set(value ?? 0);
    return undefined;
  };

  protected turnBy(): void {
    this.turn(this.axis(), this.angle());
    this.angle.set(0);
  }

  protected turn(axis: 'X' | 'Y' | 'Z', degrees: number): void {
    this.set(layTurned(this.lay(), axis, degrees));
  }

  protected fromView(): void {
    this.set(layWithZ(this.lay(), unlaid(this.lay(), this.eye()())));
  }

  /** Directions of the survey are in the laid frame. */
  protected useDirection(up: Vec3): void {
    this.set(layWithZ(this.lay(), unlaid(this.lay(), up)));
  }

  protected set(lay: Lay): void {
    this.editor.make('piece', (job) => ({ ...job, part: job.part && { ...job.part, lay } }));
  }
}
