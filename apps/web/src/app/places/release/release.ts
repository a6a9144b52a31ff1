import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import { learntFrom, stepsOn, type Verdict } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { BenchSlot } from '../../bench/benchSlot';
import { Columns } from '../../shared/columns';
import { linesOf } from '../../engine/runs';
import { saveFile } from '../../shared/files';
import { MagazineDialog } from '../magazine/magazineDialog';
import { ProgramText } from './programText';
import { JobActions, jobFeature } from '../../state/job.reducer';
import { Editor } from '../../state/editor';
import { PlanActions, planFeature } from '../../state/plan.reducer';
import { timeBefore } from '../../state/planTime';
import { ValueField } from '../../shared/valueField';
import { shownUnit, told } from '../../shared/units';

/** May it go to the machine? */
@Component({
  selector: 'esq-release',
  imports: [MatButtonModule, BenchSlot, Columns, ProgramText, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './release.scss',
  template: `
    <esq-columns name="release" [begin]="[360, 330]">
      <ng-template #left>
        <section class="checks" aria-label="Check list">
          <p class="sentence" data-testid="release-sentence">{{ sentence() }}</p>
          <button matButton="outlined" class="press first" (click)="post()" [disabled]="stale() > 0" data-testid="post">
            Post and read back
          </button>
          <ul>
            @for (v of released()?.verdicts ?? []; track v.id) {
              <li [class.no]="!v.ok">
                <h2>
                  <span class="verdict">{{ v.ok ? 'yes' : 'no' }}</span> {{ v.title }}
                </h2>
                <p [class.wrong]="!v.ok">{{ told(v.text) }}</p>
                @if (!v.ok && v.at) {
                  <button matButton class="plain" (click)="show(v)">Show where</button>
                }
              </li>
            }
          </ul>
          @if (released(); as r) {
            <button
              matButton="outlined"
              class="press"
              [class.first]="r.ok"
              [disabled]="!r.ok"
              (click)="download()"
              data-testid="download"
            >
              Download {{ r.fileName }}
            </button>
            @if (r.ok) {
              <table class="tools" data-testid="tools">
                <caption>
                  Set at the machine
                </caption>
                <tr class="pencil">
                  <th scope="col">Tool</th>
                  <th scope="col">Cutter</th>
                  <th scope="col">Stick-out</th>
                  <th scope="col">Offsets</th>
                </tr>
                @for (t of r.tools; track t.number) {
                  <tr>
                    <td class="mono">T{{ t.number }}</td>
                    <td>{{ t.name }}</td>
                    <td class="mono">{{ told(t.stickOut + ' mm') }}</td>
                    <td class="mono">
                      H{{ t.lengthOffset }}
                      @if (t.wearOffset !== undefined) {
                        D{{ t.wearOffset }} = 0
                      }
                    </td>
                  </tr>
                }
              </table>
              <button matButton class="plain" (click)="magazine()">Magazine …</button>
            }
            @if (planned() > 0) {
              <esq-value-field
                label="Real time at the machine"
                key="realTime"
                unit="min"
                [value]="null"
                [optional]="true"
                [placeholder]="(planned() / 60).toFixed(1) + ' calculated'"
                why="The machine keeps the factor between both, and all times follow it."
                [accept]="learn"
              />
            }
            @if (!r.ok) {
              <p class="wrong">The program is not given out while a check says no.</p>
            }
          }
        </section>
      </ng-template>
      <ng-template #middle><esq-bench-slot /></ng-template>
      <ng-template #right>
        <section class="text" aria-label="Posted text">
          @if (released(); as r) {
            @if (unit() === 'in') {
              <p class="pencil metric">The program itself is in mm (G21).</p>
            }
            <esq-program-text [text]="r.text" [line]="line()" (pressed)="stand($event)" />
          } @else {
            <p class="pencil empty">The posted text stands here once it is written.</p>
          }
        </section>
      </ng-template>
    </esq-columns>
  `,
})
export class ReleasePlace {
  protected readonly told = told;
  private readonly dialogs = inject(MatDialog);
  protected readonly unit = shownUnit;
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly editor = inject(Editor);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  protected readonly released = this.store.selectSignal(planFeature.selectReleased);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly at = this.store.selectSignal(planFeature.selectAt);
  /** The line that was pressed last, until the playhead moves. */
  private readonly pressed = linkedSignal({ source: this.at, computation: () => 0 });
  /** The line that the playhead stands at, or that was pressed last where no motion is. */
  protected readonly line = computed(() => {
    const at = this.at();
    const job = this.job();
    const step = job ? stepsOn(job).findIndex((s) => s.id === at?.summary.stepId) : -1;
    const released = this.released();
    const own = at && released && linesOf(released)[step]?.[at.motion];
    return this.pressed() || own || 0;
  });
  /** How many steps are to be in the program. */
  private readonly steps = computed(() => {
    const job = this.job();
    return job ? stepsOn(job).length : 0;
  });
  protected readonly stale = computed(() => {
    const steps = this.steps();
    return steps === 0 ? 1 : steps - this.fresh().length;
  });

  protected readonly sentence = computed(() => {
    const r = this.released();
    if (r) return r.ok ? 'Yes: the program may go to the machine.' : 'No: the program must not go to the machine.';
    const steps = this.steps();
    if (steps === 0)
      return this.job()?.steps.length ? 'All steps of the workplan are off.' : 'The workplan has no step yet.';
    if (this.stale() > 0) return `${this.stale()} of ${steps} steps are not up to date.`;
    return 'All steps are up to date. Post the program; it is read back and run before it is given out.';
  });

  protected post(): void {
    this.store.dispatch(PlanActions.postAndProve());
  }

  /** Time of the whole program, s. */
  protected readonly planned = computed(() => {
    const job = this.job();
    return job && this.stale() === 0 ? timeBefore(job, this.summaries()) : 0;
  });

  protected readonly learn = (minutes: number | null): string | undefined => {
    const job = this.job();
    if (minutes === null || !job) return undefined;
    const machine = learntFrom(job.setup.machine, this.planned(), 60 * minutes);
    if (!machine) return 'Too far from the calculated time: look for what is different at the machine.';
    return this.editor.change((now) => ({ ...now, setup: { ...now.setup, machine } }));
  };

  protected magazine(): void {
    this.dialogs.open(MagazineDialog, { width: '720px', maxWidth: '92vw' });
  }

  protected download(): void {
    const r = this.released();
    if (r?.ok) saveFile(r.fileName, r.text, 'text/plain');
  }

  /** Puts the playhead where a line of the program ends. */
  protected stand(line: number): void {
    this.pressed.set(line);
    const job = this.job();
    const r = this.released();
    if (!job || !r) return;
    linesOf(r).some((numbers, s) => {
      const motion = numbers.indexOf(line);
      if (motion < 0) return false;
      this.store.dispatch(PlanActions.playheadMoved({ moment: { stepId: stepsOn(job)[s]!.id, motion } }));
      return true;
    });
  }

  protected show(verdict: Verdict): void {
    const at = verdict.at;
    if (!at) return;
    if (at.line) this.stand(at.line);
    else if (at.stepId) {
      this.store.dispatch(JobActions.stepSelected({ stepId: at.stepId }));
      void this.router.navigateByUrl('/workplan');
    }
  }
}
