import { booleanAttribute, ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import { MatExpansionModule } from '@angular/material/expansion';

/** Which parts of the sheets are open, by their names: kept while the page lives. */
const opened = signal<Readonly<Record<string, boolean>>>({});

/** A part of a sheet that folds, with what it holds in few words beside its name. */
@Component({
  selector: 'esq-fold',
  imports: [MatExpansionModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-expansion-panel class="fold" [expanded]="isOpen()" (opened)="turn(true)" (closed)="turn(false)">
      <mat-expansion-panel-header collapsedHeight="30px" expandedHeight="30px">
        <mat-panel-title>{{ name() }}</mat-panel-title>
        <mat-panel-description class="mono">{{ isOpen() ? '' : brief() }}</mat-panel-description>
      </mat-expansion-panel-header>
      <ng-template matExpansionPanelContent><ng-content /></ng-template>
    </mat-expansion-panel>
  `,
})
export class Fold {
  readonly name = input.required<string>();
  readonly brief = input('');
  /** Open until somebody folds it. */
  readonly open = input(false, { transform: booleanAttribute });
  protected readonly isOpen = computed(() => opened()[this.name()] ?? this.open());

  protected turn(isOpen: boolean): void {
    if (isOpen !== this.isOpen()) opened.update((all) => ({ ...all, [this.name()]: isOpen }));
  }
}
