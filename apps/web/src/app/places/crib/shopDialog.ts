import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { counterpart, type Crib, CUTTER_WORDS, differences, type Tool, toolsOf } from '@esquisse/core';
import { House } from '../../keeping/house';
import { Silhouette } from '../../shared/silhouette';
import { TextField } from '../../shared/textField';
import { size } from '../../shared/units';

/** Chooses among the shop's cutters what a job takes into its own crib. */
@Component({
  selector: 'esq-shop-dialog',
  imports: [MatButtonModule, MatCheckboxModule, MatDialogModule, ScrollingModule, Silhouette, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 mat-dialog-title>From the shop's crib</h2>
    <mat-dialog-content>
      <esq-text-field bare label="Find" placeholder="number, kind or size" (typed)="search.set($event)" />
      <cdk-virtual-scroll-viewport [itemSize]="36" class="list">
        <div *cdkVirtualFor="let row of rows(); trackBy: byId" class="line">
          <mat-checkbox
            [checked]="picked().has(row.tool.assembly.id)"
            [disabled]="row.state === 'in this job'"
            (change)="pick(row.tool.assembly.id, $event.checked)"
            >T{{ row.tool.assembly.number }} {{ row.tool.cutter.name }}</mat-checkbox
          >
          <esq-silhouette [tool]="row.tool" [holderShown]="30" />
          <span class="mono pencil">out {{ size(row.tool.assembly.stickOut) }}</span>
          <span class="pencil">{{ row.state }}</span>
        </div>
      </cdk-virtual-scroll-viewport>
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton="filled" [disabled]="picked().size === 0" disabledInteractive (click)="take()">
        Take {{ picked().size || '' }}
      </button>
      <button matButton mat-dialog-close>Cancel</button>
    </mat-dialog-actions>
  `,
  styles: `
    .list {
      height: 360px;
    }
    .line {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 90px 80px 110px;
      gap: 8px;
      align-items: center;
      height: 36px;
      border-bottom: 1px solid var(--rule);
    }
    esq-silhouette {
      height: 26px;
    }
  `,
})
export class ShopDialog {
  private readonly house = inject(House);
  private readonly dialog = inject<MatDialogRef<ShopDialog, Tool[]>>(MatDialogRef);
  private readonly own = inject<Crib>(MAT_DIALOG_DATA);
  protected readonly size = size;
  protected readonly search = signal('');
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  private readonly all = computed(() =>
    toolsOf(this.house.crib())
      .filter((t) => !t.assembly.retired)
      .map((tool) => {
        const here = counterpart(this.own, tool);
        const state = !here ? '' : differences(here, tool).length === 0 ? 'in this job' : 'as a further one';
        return { tool, state };
      }),
  );
  protected readonly rows = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    return this.all().filter(({ tool: { assembly, cutter } }) => {
      const text = `t${assembly.number} ${cutter.name} ${CUTTER_WORDS[cutter.kind]} ${cutter.DC}`.toLowerCase();
      return words.every((w) => text.includes(w));
    });
  });

  protected byId(_: number, { tool }: { tool: Tool }): string {
    return tool.assembly.id;
  }

  protected pick(id: string, isPicked: boolean): void {
    this.picked.update((all) => {
      const next = new Set(all);
      if (isPicked) next.add(id);
      else next.delete(id);
      return next;
    });
  }

  protected take(): void {
    this.dialog.close(this.all().flatMap(({ tool }) => (this.picked().has(tool.assembly.id) ? [tool] : [])));
  }
}
