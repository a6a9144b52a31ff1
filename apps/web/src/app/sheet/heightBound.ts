import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { type BoundHeight, type Field, offsetOf, placeOf, workZeroPoint } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { ValueField } from '../shared/valueField';
import { withBoundValue, withoutBound, withValue } from '../state/edit';
import { Editor } from '../state/editor';
import { planFeature } from '../state/plan.reducer';
import { Told } from '../state/told';
import { ChosenStep } from './chosenStep';

const PLACES = [
  { to: 'top', name: "the part's top" },
  { to: 'lowest', name: "the part's lowest place" },
] as const;

/** The place of the part that a height of the chosen step is bound to, and how far above it the height lies. */
@Component({
  selector: 'esq-height-bound',
  imports: [MatButtonModule, MatMenuModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    .row {
      display: flex;
      justify-content: flex-end;
    }
  `,
  template: `
    @if (bound(); as b) {
      <div [attr.data-testid]="'bound-' + field().key">
        <esq-value-field
          [label]="'Above ' + name(b)"
          [key]="field().key + ' above'"
          [value]="offset()"
          unit="mm"
          [accept]="acceptOffset"
        />
        <div class="row">
          <button
            matButton
            class="plain"
            [attr.aria-label]="'Let ' + field().label + ' go: it stays, and follows the part no more'"
            (click)="letGo()"
          >
            Let it go
          </button>
        </div>
      </div>
    } @else if (zero() !== undefined) {
      <div class="row">
        <button matButton class="plain" [matMenuTriggerFor]="menu" [attr.aria-label]="'Bind ' + field().label">
          Bind to the part …
        </button>
        <mat-menu #menu="matMenu">
          @for (place of places; track place.to) {
            <button mat-menu-item (click)="bind(place.to)">To {{ place.name }}</button>
          }
          <button mat-menu-item disabled>To another place: point at it in Piece</button>
        </mat-menu>
      </div>
    }
  `,
})
export class HeightBound {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  private readonly chosen = inject(ChosenStep);
  private readonly isTold = inject(Told);
  /** Whether it is known how the part lies in the job as it is. */
  private readonly knows = inject(Store).selectSignal(planFeature.selectIsTold);
  readonly field = input.required<Field>();
  protected readonly places = PLACES;

  protected readonly bound = computed(() => this.chosen.step()?.bound?.[this.field().key]);
  /** Height of the work zero in the laid frame, mm. */
  protected readonly zero = computed(() => {
    const [job, piece] = [this.editor.job(), this.engine.piece()];
    return job && piece ? workZeroPoint(job, piece.boxes)[2] : undefined;
  });
  protected readonly offset = computed(() => {
    const [bound, zero] = [this.bound(), this.zero()];
    const value = this.chosen.step()?.values[this.field().key];
    return bound && zero !== undefined && typeof value === 'number' ? offsetOf(value, bound, zero) : null;
  });

  protected name({ to, what }: BoundHeight): string {
    return PLACES.find((p) => p.to === to)?.name ?? what;
  }

  protected readonly acceptOffset = (offset: number | null): string | undefined => {
    const [step, bound, zero] = [this.chosen.step(), this.bound(), this.zero()];
    if (!step || !bound || zero === undefined) return undefined;
    if (!this.knows()) return 'The part is still being read: try it again.';
    if (offset === null) return 'A number is missing: 0 is the place itself.';
    return this.editor.change((job) => withValue(job, step.id, this.field().key, upTo(bound.at - zero + offset)));
  };

  /** A height that is there stays and is told from the place; one that is open becomes the place. */
  protected async bind(to: 'top' | 'lowest'): Promise<void> {
    // it may just have been laid another way
    await this.isTold.wait();
    const [step, piece, zero] = [this.chosen.step(), this.engine.piece(), this.zero()];
    if (!step || !piece || zero === undefined) return;
    const { key } = this.field();
    const at = placeOf(to, piece.boxes);
    this.editor.make('workplan', (job) => {
      const now = job.steps.find((s) => s.id === step.id)?.values[key];
      const value = typeof now === 'number' ? now : upTo(at - zero);
      return withBoundValue(job, step.id, key, value, { to, what: '', at });
    });
  }

  protected letGo(): void {
    const step = this.chosen.step();
    if (step) this.editor.make('workplan', (job) => withoutBound(job, step.id, this.field().key));
  }
}

/** A tenth of a micrometre: finer than any path's tolerance. */
const upTo = (height: number): number => Math.round(height * 1e4) / 1e4;
