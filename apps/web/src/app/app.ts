import { ChangeDetectionStrategy, Component, HostListener, inject, signal } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { DEMO_JOBS, Jobs } from './keeping/jobs';
import { KeysHelp } from './shared/keysHelp';
import { Theme } from './shared/theme';
import { JobActions, jobFeature } from './state/job.reducer';
import { Places } from './state/places';
import { PlanActions, planFeature } from './state/plan.reducer';

/** Frame of the application: header with job, places, undo, work in progress; the place itself below. */
@Component({
  selector: 'esq-root',
  imports: [RouterOutlet, RouterLink, RouterLinkActive, MatMenuModule, KeysHelp],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './app.scss',
  template: `
    <header>
      <button class="plain name" [matMenuTriggerFor]="menu" (click)="jobs.listKept()" aria-label="Jobs">
        Esquisse
      </button>
      @if (job(); as j) {
        <h1>
          {{ j.name }} <span class="pencil">/ {{ j.setup.name }}</span>
        </h1>
      }
      <nav aria-label="Places">
        @for (place of places.all(); track place.path) {
          <a
            [routerLink]="'/' + place.path"
            routerLinkActive="here"
            ariaCurrentWhenActive="page"
            [attr.title]="place.missing || 'complete'"
          >
            <span class="dot" [class.done]="!place.missing" aria-hidden="true"></span>{{ place.name }}
            <span class="sr">{{ place.missing ? '(' + place.missing + ')' : '(complete)' }}</span>
          </a>
        }
      </nav>
      <div class="right">
        @if (work(); as w) {
          <span class="work" role="status">
            {{ w.what }}
            @if (w.share > 0) {
              <span class="mono">{{ percent(w.share) }} %</span>
            }
            <button class="plain" (click)="cancel()">stop</button>
          </span>
        }
        <button
          class="plain"
          (click)="undo()"
          [disabled]="!canUndo()"
          aria-label="Take back"
          title="Take back (Ctrl Z)"
        >
          ↶
        </button>
        <button class="plain" (click)="redo()" [disabled]="!canRedo()" aria-label="Do again" title="Do again (Ctrl Y)">
          ↷
        </button>
        <button class="plain" (click)="theme.toggle()" [attr.aria-label]="theme.night() ? 'Day' : 'Night'">
          {{ theme.night() ? 'day' : 'night' }}
        </button>
        <button class="plain" (click)="keys.set(!keys())" aria-label="Keys">?</button>
        <span class="pencil mono">mm</span>
      </div>
    </header>
    @if (trouble(); as t) {
      <div class="trouble" role="alert">
        <span>{{ t.message }}</span>
        <button class="plain" (click)="seen()" aria-label="Close message">close</button>
      </div>
    }
    <main><router-outlet /></main>
    @if (keys()) {
      <esq-keys-help (closed)="keys.set(false)" />
    }
    <mat-menu #menu="matMenu">
      <button mat-menu-item (click)="file.click()">Open a job file …</button>
      <button mat-menu-item (click)="jobs.saveFile()" [disabled]="!job()">Save the whole job to a file</button>
      @for (demo of demos; track demo.file) {
        <button mat-menu-item (click)="jobs.openDemo(demo.file)">Demo: {{ demo.title }}</button>
      }
      @for (kept of jobs.kept(); track kept.id) {
        @if (kept.id !== job()?.id) {
          <button mat-menu-item (click)="jobs.openKept(kept.id)">
            Kept: {{ kept.job.name }}, {{ kept.job.setup.name }}
          </button>
        }
      }
    </mat-menu>
    <input #file type="file" accept=".zip" hidden data-testid="job-file" (change)="openFile($event)" />
  `,
})
export class App {
  protected readonly jobs = inject(Jobs);
  protected readonly theme = inject(Theme);
  protected readonly places = inject(Places);
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  protected readonly demos = DEMO_JOBS;
  protected readonly keys = signal(false);
  protected readonly job = this.store.selectSignal(jobFeature.selectJob);
  protected readonly canUndo = this.store.selectSignal(jobFeature.selectCanUndo);
  protected readonly canRedo = this.store.selectSignal(jobFeature.selectCanRedo);
  protected readonly work = this.store.selectSignal(planFeature.selectWork);
  protected readonly trouble = this.store.selectSignal(planFeature.selectTrouble);

  constructor() {
    void this.jobs.restore();
  }

  protected percent(share: number): string {
    return String(Math.round(share * 100));
  }

  protected undo(): void {
    this.store.dispatch(JobActions.undo());
  }

  protected redo(): void {
    this.store.dispatch(JobActions.redo());
  }

  protected cancel(): void {
    this.store.dispatch(PlanActions.cancel());
  }

  protected seen(): void {
    this.store.dispatch(PlanActions.troubleSeen());
  }

  protected openFile(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) void this.jobs.openFile(file);
  }

  /** A file that is dropped beside the place that takes it must not be opened in place of the page. */
  @HostListener('document:dragover', ['$event'])
  @HostListener('document:drop', ['$event'])
  protected stay(event: DragEvent): void {
    event.preventDefault();
  }

  @HostListener('document:keydown', ['$event'])
  protected onKey(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName);
    if (event.ctrlKey || event.metaKey) {
      const key = event.key.toLowerCase();
      // where text is typed, taking back is the field's own
      const ownText =
        typing && target.tagName !== 'SELECT' && !/^(range|checkbox)$/.test((target as HTMLInputElement).type);
      if (ownText) return;
      if (key === 'z' && !event.shiftKey) this.undo();
      else if (key === 'y' || (key === 'z' && event.shiftKey)) this.redo();
      else return;
      event.preventDefault();
      return;
    }
    if (typing && event.key === 'Escape') target.blur();
    if (typing || event.altKey) return;
    if (event.key === '?') this.keys.update((on) => !on);
    else if (event.key === 'Escape') this.keys.set(false);
    else if (event.key === '1') this.store.dispatch(PlanActions.lensChosen({ lens: 'part' }));
    else if (event.key === '2') this.store.dispatch(PlanActions.lensChosen({ lens: 'steel' }));
    else if (event.key === '3') this.store.dispatch(PlanActions.lensChosen({ lens: 'leftover' }));
    else if (event.key === '4') this.store.dispatch(PlanActions.lensChosen({ lens: 'region' }));
    else if (event.key === 'r' || event.key === 'R') {
      const steps = this.job()?.steps.length ?? 0;
      if (steps > 0 && !this.work()) this.store.dispatch(PlanActions.workOut({ last: steps - 1 }));
      void this.router.navigateByUrl('/workplan');
    }
  }
}
