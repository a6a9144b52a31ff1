import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject } from '@angular/core';
import { blockBox, sizeOf, type Vec3 } from '@esquisse/core';
import { BenchSlot } from '../../bench/benchSlot';
import { BenchStage } from '../../bench/stage';
import { Engine } from '../../engine/engine';
import { Columns } from '../../shared/columns';
import { length, unitOf } from '../../shared/units';
import { Editor } from '../../state/editor';
import { BlankSection } from './blankSection';
import { DrilledSection } from './drilledSection';
import { HoldSection } from './holdSection';
import { LaySection } from './laySection';
import { MachineSection } from './machineSection';
import { ModelSection } from './modelSection';
import { PickCard } from './pickCard';
import { PieceLook } from './pieceLook';
import { ScaleSection } from './scaleSection';
import { SurveyPanel } from './surveyPanel';
import { ZeroSection } from './zeroSection';

/** What is it, how does it lie, where is zero, what block? */
@Component({
  selector: 'esq-piece',
  imports: [
    BenchSlot,
    BlankSection,
    Columns,
    DrilledSection,
    HoldSection,
    LaySection,
    MachineSection,
    ModelSection,
    PickCard,
    ScaleSection,
    SurveyPanel,
    ZeroSection,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './piece.scss',
  template: `
    <esq-columns name="piece" [begin]="[234, 356]">
      <ng-template #left><esq-survey-panel /></ng-template>
      <ng-template #middle>
        <div class="middle">
          <esq-bench-slot
            [partOnly]="true"
            [colours]="look.colours()"
            [edges]="look.edges()"
            [lit]="look.allLit()"
            [marks]="look.marks()"
            (pointed)="look.point($event.triangle, $event.point, $event.reach)"
          />
          <esq-pick-card />
        </div>
      </ng-template>
      <ng-template #right>
        <aside class="panel" aria-label="Piece">
          <p class="sentence">{{ sentence() }}</p>
          <esq-model-section />
          @if (job()?.part) {
            <esq-scale-section />
            <esq-lay-section [eye]="eye" />
            <esq-zero-section />
            <esq-blank-section />
            <esq-drilled-section />
            <esq-hold-section />
          }
          <esq-machine-section />
        </aside>
      </ng-template>
    </esq-columns>
  `,
})
export class PiecePlace {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  protected readonly look = inject(PieceLook);
  protected readonly job = this.editor.job;
  private readonly stage = inject(BenchStage);
  protected readonly eye = (): Vec3 => this.stage.towardsEye();

  constructor() {
    this.look.shown.set(true);
    inject(DestroyRef).onDestroy(() => this.look.shown.set(false));
  }

  protected readonly sentence = computed(() => {
    const job = this.job();
    const boxes = this.engine.piece()?.boxes;
    if (!job?.part || !boxes) return 'Bring in the part.';
    const size = (s: readonly number[]): string => s.map((v) => length(v, v < 1 ? 3 : 1)).join(' x ');
    return `${size(sizeOf(boxes.part))} ${unitOf('mm')}, out of ${size(sizeOf(blockBox(job, boxes)))} ${unitOf('mm')} of ${job.material.name}.`;
  });
}
