import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { levelHouse, STEP_KINDS, type StepKind, toolsOf } from '@esquisse/core';
import { Editor } from '../state/editor';
import { NextCutters } from './nextCutters';

/** What to do next at a place of the plan: kinds of step, and for those that clean up what each cutter would reach. */
@Component({
  selector: 'esq-step-chooser',
  imports: [MatButtonModule, NextCutters],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="chooser" role="menu" aria-label="Kind of step" (keydown.escape)="closed.emit()">
      @for (group of groups; track group.name) {
        <h3 class="pencil">{{ group.name }}</h3>
        @for (k of group.kinds; track k.id) {
          <div class="kind">
            <button
              matButton
              role="menuitem"
              class="plain"
              (click)="add.emit({ kind: k.id })"
              [attr.data-testid]="'add-' + k.id"
            >
              <b>{{ k.name }}</b>&ngsp;<span class="pencil">{{ k.about }}</span>
            </button>
            @if (k.hasRegion) {
              <button
                matButton
                class="plain compare"
                role="menuitem"
                [attr.aria-expanded]="comparing() === k.id"
                (click)="comparing.set(comparing() === k.id ? '' : k.id)"
                [attr.data-testid]="'compare-' + k.id"
              >
                Which cutter?
              </button>
            }
          </div>
          @if (comparing() === k.id) {
            <esq-next-cutters
              [index]="index()"
              [allowance]="allowance()"
              (choose)="add.emit({ kind: k.id, assemblyId: $event })"
            />
          }
        }
      }
      <button matButton role="menuitem" class="plain pencil" (click)="closed.emit()">Close</button>
    </div>
  `,
  styles: `
    :host {
      display: contents;
    }
    .chooser {
      position: absolute;
      right: 20px;
      bottom: 138px;
      z-index: 10;
      width: 420px;
      max-height: calc(100vh - 200px);
      overflow-y: auto;
      background: var(--sheet);
      border: 1px solid var(--rule);
      box-shadow: 0 8px 28px rgb(0 0 0 / 18%);
      padding: 10px 12px;
    }
    .kind {
      display: flex;
      align-items: start;
    }
    .kind .plain:first-child,
    .chooser > .plain {
      display: block;
      flex: 1;
      height: auto;
      padding: 4px 6px;
      line-height: 1.35;
      text-align: left;
      white-space: normal;
    }
    .compare {
      color: var(--indigo);
      white-space: nowrap;
    }
    h3 {
      margin-top: 4px;
      font-size: 12px;
    }
  `,
})
export class StepChooser {
  private readonly editor = inject(Editor);
  /** Place in the plan: number of steps before it. */
  readonly index = input.required<number>();
  readonly add = output<{ kind: string; assemblyId?: string }>();
  readonly closed = output();
  protected readonly comparing = signal('');
  protected readonly groups = [...new Set(STEP_KINDS.map((k) => k.group))].map((name) => ({
    name,
    kinds: STEP_KINDS.filter((k: StepKind) => k.group === name),
  }));
  /** What a step that cleans up would begin with. */
  protected readonly allowance = computed(() => {
    const [tool] = toolsOf(this.editor.job()?.crib ?? { cutters: [], holders: [], extensions: [], assemblies: [] });
    return tool ? levelHouse(tool.cutter).sideAllowance : 0;
  });
}
