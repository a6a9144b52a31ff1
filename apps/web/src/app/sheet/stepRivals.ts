import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatTableModule } from '@angular/material/table';
import { isCancelled, kindOf, messageOf, type Rival, type Rivals } from '@esquisse/core';
import { Engine } from '../engine/engine';
import { Looking } from '../lens/looking';
import { clock, figure } from '../shared/numbers';
import { length, shownUnit, told, unitOf } from '../shared/units';
import { Editor } from '../state/editor';
import { withKind } from '../state/stepEdit';
import { Told } from '../state/told';
import { ChosenStep } from './chosenStep';

interface Row {
  readonly name: string;
  readonly of: (rival: Rival) => string;
}

/** The chosen step beside the kind that does the same in another way: worked out when it is asked for, and taken by a press. */
@Component({
  selector: 'esq-step-rivals',
  imports: [MatButtonModule, MatTableModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepFindings.scss',
  template: `
    @if (rival(); as r) {
      @if (found(); as f) {
        <table
          mat-table
          class="bands"
          data-testid="rivals"
          [dataSource]="rows()"
          [attr.aria-label]="'Beside ' + r.name"
        >
          <ng-container matColumnDef="name">
            <th mat-header-cell *matHeaderCellDef></th>
            <td mat-cell *matCellDef="let row">{{ row.name }}</td>
          </ng-container>
          <ng-container matColumnDef="own">
            <th mat-header-cell *matHeaderCellDef class="number">This step</th>
            <td mat-cell *matCellDef="let row" class="number">{{ row.of(f.own) }}</td>
          </ng-container>
          <ng-container matColumnDef="other">
            <th mat-header-cell *matHeaderCellDef class="number">{{ r.name }}</th>
            <td mat-cell *matCellDef="let row" class="number">{{ row.of(f.other) }}</td>
          </ng-container>
          <tr mat-header-row *matHeaderRowDef="columns"></tr>
          <tr mat-row *matRowDef="let row; columns: columns"></tr>
        </table>
        @if (f.other.findings > 0) {
          <p class="wrong" role="note">{{ r.name }} as it begins would touch what it must not.</p>
        }
        <p class="pencil">
          With the same cutter, limits and allowances, and depth and width as {{ r.name.toLowerCase() }} begins with.
          <button matButton class="plain ask" data-testid="take-rival" (click)="take(f)">Make it this step</button>
        </p>
      } @else {
        <button matButton class="plain" data-testid="compare-rival" (click)="ask()">
          Compare with {{ r.name.toLowerCase() }}
        </button>
        @if (problem()) {
          <p class="pencil" role="status">{{ told(problem()) }}</p>
        }
      }
    }
  `,
})
export class StepRivals {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  private readonly chosen = inject(ChosenStep);
  private readonly looking = inject(Looking);
  private readonly isTold = inject(Told);
  protected readonly told = told;
  protected readonly columns = ['name', 'own', 'other'];
  protected readonly found = signal<Rivals | undefined>(undefined);
  protected readonly problem = signal('');
  protected readonly rival = computed(() => {
    const id = kindOf(this.chosen.step()?.kind ?? '')?.rival;
    return id === undefined ? undefined : kindOf(id);
  });
  protected readonly rows = computed((): Row[] => {
    const asked = this.found()?.asked ?? 0;
    const mm = unitOf('mm');
    return [
      { name: 'Time', of: (r) => clock(r.time) },
      { name: 'Retracts', of: (r) => figure(r.retracts, 0) },
      { name: `In steel, ${shownUnit() === 'in' ? 'in' : 'm'}`, of: (r) => way(r.inSteel) },
      { name: `Of it above ${figure(1.1 * asked, 0)}°`, of: (r) => `${figure(100 * r.above, 1)} %` },
      { name: 'φ, half / 95 % / most', of: (r) => [r.p50, r.p95, r.most].map((a) => `${figure(a, 0)}°`).join(' / ') },
      { name: 'Way by volume / (ap ae)', of: (r) => figure(r.way, 2) },
      { name: `Leaves, median / 99 %, ${mm}`, of: (r) => r.left.map((left) => length(left, 2)).join(' / ') },
    ];
  });

  constructor() {
    effect(() => {
      this.chosen.step();
      this.editor.job();
      // figures of other values are not shown for these
      untracked(() => {
        this.found.set(undefined);
        this.problem.set('');
      });
    });
  }

  protected async ask(): Promise<void> {
    const [job, step] = [this.editor.job(), this.chosen.step()];
    const name = this.rival()?.name.toLowerCase() ?? '';
    if (!step) return;
    try {
      await this.isTold.wait();
      const found = await this.looking.watch('rivals', name, (onProgress) => this.engine.rivals(step.id, onProgress));
      if (this.editor.job() !== job || this.chosen.step() !== step) return;
      this.found.set(found);
      this.problem.set('');
    } catch (error) {
      if (this.editor.job() === job) this.problem.set(isCancelled(error) ? 'Stopped.' : messageOf(error));
    }
  }

  protected take({ other, values }: Rivals): void {
    const step = this.chosen.step();
    if (step) this.editor.make('workplan', (job) => withKind(job, step.id, other.kind, values));
  }
}

const way = (mm: number): string => (shownUnit() === 'in' ? length(mm, 0) : figure(mm / 1000, 1));
