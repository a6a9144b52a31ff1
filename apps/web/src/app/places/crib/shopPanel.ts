import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { counterpart, differences, type Tool, withTool } from '@esquisse/core';
import { House } from '../../keeping/house';
import { told } from '../../shared/units';
import { Editor } from '../../state/editor';

/** How an assembly of the job stands to the shop's of its number. */
@Component({
  selector: 'esq-shop-panel',
  imports: [MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section" data-testid="shop">
      <h2>In the shop's crib</h2>
      @if (!own()) {
        <p class="pencil">The shop has no T{{ tool().assembly.number }}.</p>
      } @else if (unlike().length === 0) {
        <p class="pencil">T{{ tool().assembly.number }} is the shop's.</p>
      } @else {
        <p class="stale">T{{ tool().assembly.number }} differs from the shop's:</p>
        @for (d of unlike(); track d.what) {
          <div class="row">
            <span>{{ d.what }}</span><span class="mono"
              >{{ told(d.here) }} <span class="pencil">shop {{ told(d.there) }}</span></span
            >
          </div>
        }
        <button matButton="outlined" class="press" (click)="take()">Take the shop's</button>
      }
      @if (!own() || unlike().length > 0) {
        <button matButton="outlined" class="press" (click)="give()">Give to the shop</button>
      }
    </section>
  `,
})
export class ShopPanel {
  private readonly house = inject(House);
  private readonly editor = inject(Editor);
  readonly tool = input.required<Tool>();
  protected readonly told = told;
  protected readonly own = computed(() => counterpart(this.house.crib(), this.tool()));
  protected readonly unlike = computed(() => {
    const own = this.own();
    return own ? differences(this.tool(), own) : [];
  });

  protected take(): void {
    const own = this.own();
    const { id } = this.tool().assembly;
    if (own) this.editor.make('crib', (job) => ({ ...job, crib: withTool(job.crib, own, id).crib }));
  }

  protected give(): void {
    this.house.giveTool(this.tool());
  }
}
