import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { css, leftoverColour } from '../bench/palette';
import { Engine } from '../engine/engine';
import { saveFile } from '../shared/files';
import { LensChoice } from '../shared/lensChoice';
import { mm } from '../shared/numbers';
import { type Lens, PlanActions, planFeature } from '../state/plan.reducer';
import { LensData } from './lensData';
import { RegionLook } from './regionLook';

const LENSES: { id: Lens; name: string; key: string }[] = [
  { id: 'part', name: 'Part', key: '1' },
  { id: 'steel', name: 'Steel', key: '2' },
  { id: 'leftover', name: 'Leftover', key: '3' },
  { id: 'region', name: 'Region of the step', key: '4' },
];
const WIDTH = 104;
const ROW = 12;

/** Choice of lens, its legend and its histogram. */
@Component({
  selector: 'esq-lens-panel',
  imports: [LensChoice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './lensPanel.scss',
  template: `
    <esq-lens-choice label="Lens" [lenses]="lenses" [chosen]="lens()" (choose)="choose($any($event))" />
    @if (lens() === 'leftover' && view(); as v) {
      <h3 class="pencil">Leftover, normal to the part</h3>
      <svg [attr.viewBox]="'0 0 184 ' + (bars().length * 12 + 14)" role="img" [attr.aria-label]="described()">
        @for (bar of bars(); track $index) {
          <rect x="0" [attr.y]="bar.y" width="12" height="12.5" [attr.fill]="bar.colour" />
          <rect class="bar" x="72" [attr.y]="bar.y + 3" [attr.width]="bar.width" height="6" />
          @if (bar.label) {
            <text x="18" [attr.y]="bar.y + 10">{{ bar.label }}</text>
          }
        }
      </svg>
      <dl class="figures">
        @for (f of figures(); track f[0]) {
          <div class="row">
            <dt>{{ f[0] }}</dt>
            <dd
              class="number"
              [class.wrong]="f[0] === 'gouge' && v.figures.gouge > 0.01"
              [attr.data-testid]="'leftover-' + f[0]"
            >
              {{ f[1] }} <span class="unit">mm</span>
            </dd>
          </div>
        }
      </dl>
    } @else if (lens() === 'steel') {
      <p class="pencil note">Graphite is steel as it stands at the playhead; darker where the block is still raw.</p>
      <button class="plain save" data-testid="save-steel" (click)="save('stl')">save this steel as STL</button>
      <button class="plain save" data-testid="save-steel-3mf" (click)="save('3mf')">save it as 3MF</button>
    } @else if (lens() === 'region') {
      @if (region.view(); as r) {
        <p class="pencil note">Verdigris is where the chosen step would cut: steel above its threshold.</p>
        <dl class="figures">
          <div class="row">
            <dt>area</dt>
            <dd class="number">{{ mm(r.area / 100, 2) }} <span class="unit">cm²</span></dd>
          </div>
          <div class="row">
            <dt>volume</dt>
            <dd class="number">{{ mm(r.volume / 1000, 3) }} <span class="unit">cm³</span></dd>
          </div>
        </dl>
      } @else {
        <p class="pencil note">
          {{
            region.has() ? region.problem() || 'Looking for it …' : 'The chosen step cuts wherever its limits let it.'
          }}
        </p>
      }
    } @else if (lens() === 'part') {
      <p class="pencil note">The finished part in its block, with the work zero.</p>
    }
  `,
})
export class LensPanel {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  protected readonly region = inject(RegionLook);
  protected readonly mm = mm;
  protected readonly lenses = LENSES;
  protected readonly lens = this.store.selectSignal(planFeature.selectLens);
  protected readonly view = inject(LensData).leftover;

  /** Bins from much at the top to nothing at the bottom; counts on a root scale so that rare values stay visible. */
  protected readonly bars = computed(() => {
    const v = this.view();
    if (!v) return [];
    const n = v.bins.length;
    const most = Math.max(1, ...v.bins);
    return v.bins
      .map((count, k) => {
        const value = v.low + ((k + 0.5) / n) * (v.high - v.low);
        const row = n - 1 - k;
        const edge =
          k === n - 1
            ? mm(v.high, 2)
            : k === Math.floor(n / 2)
              ? mm((v.high + v.low) / 2, 2)
              : k === 0
                ? mm(v.low, 2)
                : '';
        return {
          y: row * ROW + 2,
          width: count === 0 ? 0 : Math.max(1, Math.sqrt(count / most) * WIDTH),
          colour: css(leftoverColour(value, v.high, 0.01)),
          label: edge,
        };
      })
      .reverse();
  });

  protected readonly figures = computed((): [string, string][] => {
    const f = this.view()?.figures;
    if (!f) return [];
    return [
      ['median', mm(f.p50, 3)],
      ['99 %', mm(f.p99, 3)],
      ['largest', mm(f.largest, 3)],
      ['gouge', mm(f.gouge, 3)],
    ];
  });

  protected readonly described = computed(
    () =>
      `Histogram of leftover: ${this.figures()
        .map((f) => f.join(' '))
        .join(', ')} mm`,
  );

  /** Saves the steel at the playhead, in the frame of the part's file. */
  protected async save(format: 'stl' | '3mf'): Promise<void> {
    try {
      saveFile(`steel.${format}`, await this.engine.steelFile(this.moment(), format), `model/${format}`);
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'workplan' } }));
    }
  }

  protected choose(lens: Lens): void {
    this.store.dispatch(PlanActions.lensChosen({ lens }));
  }
}
