import { ChangeDetectionStrategy, Component, computed, DestroyRef, HostListener, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatMenuModule } from '@angular/material/menu';
import { MatProgressBarModule } from '@angular/material/progress-bar';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { stepsOn } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Bench } from './bench/bench';
import { DEMO_JOBS } from './keeping/demos';
import { Jobs } from './keeping/jobs';
import { Keeper } from './keeping/keeper';
import { OwnFile } from './keeping/ownFile';
import { LENSES } from './lens/lenses';
import { About } from './shared/about';
import { Keys } from './shared/keys';
import { KeysHelp } from './shared/keysHelp';
import { ago } from './shared/numbers';
import { Theme } from './shared/theme';
import { JobActions, jobFeature } from './state/job.reducer';
import { Places } from './state/places';
import { PlanActions, planFeature, type Trouble, type Work } from './state/plan.reducer';
import { showIn, shownUnit, told } from './shared/units';

/** The saving to a file is told anew this often, ms. */
const SAVED_TOLD_EVERY_MS = 30_000;

/** Frame of the application: header with job, places, undo, work in progress; the place itself below. */
@Component({
  selector: 'esq-root',
  imports: [
    Bench,
    MatButtonModule,
    RouterOutlet,
    RouterLink,
    RouterLinkActive,
    MatIconModule,
    MatMenuModule,
    MatProgressBarModule,
    MatTooltipModule,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './app.scss',
  template: `
    <header>
      <button matButton class="plain name" [matMenuTriggerFor]="menu" (click)="jobs.listKept()" aria-label="Jobs">
        Esquisse
      </button>
      @if (job(); as j) {
        <h1>
          {{ j.name }} <span class="pencil">/ {{ j.setup.name }}</span>
        </h1>
        <span
          class="saved pencil"
          [class.wrong]="!!keeper.trouble() || keeper.isDoubtful()"
          [matTooltip]="keptWords()"
          data-testid="saved"
          >{{ savedWords() }}</span
        >
      }
      <nav aria-label="Places">
        @for (place of places.all(); track place.path) {
          <a
            [routerLink]="'/' + place.path"
            routerLinkActive="here"
            ariaCurrentWhenActive="page"
            [matTooltip]="place.missing"
          >
            <span class="dot" [class.done]="!place.missing" aria-hidden="true"></span>{{ place.name }}
            <span class="sr">{{ place.missing ? '(' + place.missing + ')' : '(complete)' }}</span>
          </a>
        }
      </nav>
      <div class="right">
        @for (w of works(); track w.id) {
          <span class="work" role="status">
            <span class="what">{{ w.what }}</span>
            @if (w.share > 0) {
              <span class="mono">{{ percent(w.share) }} %</span>
            }
            <mat-progress-bar
              [mode]="w.share > 0 ? 'determinate' : 'indeterminate'"
              [value]="100 * w.share"
              [attr.aria-label]="w.what"
            />
            <button matButton class="plain" (click)="stop(w)" [attr.aria-label]="'Stop: ' + w.what">Stop</button>
          </span>
        }
        <button
          matIconButton
          (click)="undo()"
          [disabled]="!canUndo()"
          disabledInteractive
          aria-label="Undo"
          [matTooltip]="undoWords()"
        >
          <mat-icon svgIcon="undo" />
        </button>
        <button
          matIconButton
          (click)="redo()"
          [disabled]="!canRedo()"
          disabledInteractive
          aria-label="Redo"
          [matTooltip]="redoWords()"
        >
          <mat-icon svgIcon="redo" />
        </button>
        <button
          matIconButton
          (click)="theme.toggle()"
          [attr.aria-label]="theme.night() ? 'Day' : 'Night'"
          [matTooltip]="theme.night() ? 'Day' : 'Night'"
        >
          <mat-icon [svgIcon]="theme.night() ? 'day' : 'night'" />
        </button>
        <button matIconButton (click)="showKeys()" aria-label="Keys" matTooltip="Keys (?)">
          <mat-icon svgIcon="keyboard" />
        </button>
        <button
          matButton
          class="plain mono"
          (click)="changeUnit()"
          [attr.aria-label]="'Lengths in ' + (unit() === 'mm' ? 'mm: show inches' : 'inches: show mm')"
          [matTooltip]="unit() === 'mm' ? 'Show lengths in inches' : 'Show lengths in mm'"
          data-testid="unit"
        >
          {{ unit() }}
        </button>
      </div>
    </header>
    @if (readOnly()) {
      <div class="trouble calm" role="status" data-testid="read-only">
        <span>This job is open in another tab. Here it can be looked at and calculated, but not changed.</span>
        <button matButton="outlined" class="press" (click)="jobs.takeOver()">Take it over</button>
      </div>
    }
    @if (trouble(); as t) {
      <div class="trouble" role="alert">
        <span>{{ told(t.message) }}</span>
        @if (canBeShown(t)) {
          <button matButton="outlined" class="press" (click)="show(t)">Show</button>
        }
        @if (t.isUnexpected || (t.place === 'job' && (keeper.trouble() || keeper.isDoubtful()))) {
          <button matButton="outlined" class="press" (click)="jobs.saveFile()" [disabled]="!job()">
            Save the job to a file
          </button>
        }
        <button matButton class="plain" (click)="seen()" aria-label="Close message">Close</button>
      </div>
    }
    <main><router-outlet /></main>
    <div hidden><esq-bench /></div>
    <mat-menu #menu="matMenu">
      <button mat-menu-item (click)="ownFile.isSupported ? jobs.chooseFile() : file.click()">Open a job file …</button>
      @if (ownFile.nameOf(job()?.id); as name) {
        <button mat-menu-item (click)="jobs.saveToOwnFile(false)">Save again to “{{ name }}” (Ctrl S)</button>
      }
      @if (ownFile.isSupported) {
        <button mat-menu-item (click)="jobs.saveToOwnFile(true)" [disabled]="!job()">Save it to a chosen file …</button>
      }
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
      <button mat-menu-item (click)="showAbout()">About</button>
    </mat-menu>
    <input #file type="file" accept=".zip" hidden data-testid="job-file" (change)="openFile($event)" />
  `,
})
export class App {
  protected readonly told = told;
  protected readonly unit = shownUnit;
  protected readonly jobs = inject(Jobs);
  protected readonly keeper = inject(Keeper);
  protected readonly ownFile = inject(OwnFile);
  protected readonly theme = inject(Theme);
  protected readonly places = inject(Places);
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly dialog = inject(MatDialog);
  protected readonly demos = DEMO_JOBS;
  protected readonly job = this.store.selectSignal(jobFeature.selectJob);
  protected readonly readOnly = this.store.selectSignal(jobFeature.selectReadOnly);
  protected readonly canUndo = this.store.selectSignal(jobFeature.selectCanUndo);
  protected readonly canRedo = this.store.selectSignal(jobFeature.selectCanRedo);
  protected readonly works = this.store.selectSignal(planFeature.selectWorks);
  protected readonly trouble = this.store.selectSignal(planFeature.selectTrouble);
  private readonly undone = this.store.selectSignal(jobFeature.selectUndoWords);
  private readonly redone = this.store.selectSignal(jobFeature.selectRedoWords);
  protected readonly undoWords = computed(() => `Undo${this.undone() ? `: ${this.undone()}` : ''} (Ctrl Z)`);
  protected readonly redoWords = computed(() => `Redo${this.redone() ? `: ${this.redone()}` : ''} (Ctrl Y)`);
  private readonly now = signal(Date.now());

  protected readonly savedWords = computed(() => {
    if (this.keeper.trouble()) return 'not kept';
    if (this.keeper.isDoubtful()) return 'not surely kept';
    const saved = this.keeper.saved();
    return saved === undefined ? 'in no file yet' : `saved to a file ${ago(saved, this.now())}`;
  });

  protected readonly keptWords = computed(() => {
    if (this.keeper.trouble()) return this.keeper.trouble();
    return this.keeper.isPersistent() === false
      ? 'Kept in this browser after every change; the browser may give it up when it wants room, so save it to a file as well'
      : 'Kept in this browser after every change';
  });

  constructor() {
    const until = inject(DestroyRef);
    const timer = setInterval(() => this.now.set(Date.now()), SAVED_TOLD_EVERY_MS);
    until.onDestroy(() => clearInterval(timer));
    inject(Keys).bind(
      [
        ...LENSES.map(({ id, key }) => ({
          keys: [key],
          shown: LENSES.map((l) => l.key).join(' '),
          what: `lens: ${LENSES.map((l) => l.name.toLowerCase()).join(', ')}`,
          run: () => this.store.dispatch(PlanActions.lensChosen({ lens: id })),
        })),
        { keys: ['r'], shown: 'R', what: 'calculate what is out of date', run: () => this.calculate() },
        { keys: ['ctrl+s'], shown: 'Ctrl S', what: 'save the job to its file', run: () => this.save() },
        { keys: ['ctrl+z'], shown: 'Ctrl Z', what: 'undo', run: () => this.undo() },
        { keys: ['ctrl+y', 'ctrl+shift+z'], shown: 'Ctrl Y', what: 'redo', run: () => this.redo() },
        { keys: ['?'], shown: '?', what: 'this list', run: () => this.showKeys() },
        {
          keys: ['escape'],
          shown: 'Esc',
          what: 'leave a field, with the value that holds',
          run: () => undefined,
        },
      ],
      until,
    );
    void this.jobs.restore();
  }

  protected showKeys(): void {
    this.dialog.open(KeysHelp);
  }

  protected showAbout(): void {
    this.dialog.open(About, { width: '480px' });
  }

  protected percent(share: number): string {
    return String(Math.round(share * 100));
  }

  /** Into the file that it has; else as the browser can. */
  private save(): void {
    void (this.ownFile.isSupported ? this.jobs.saveToOwnFile(false) : this.jobs.saveFile());
  }

  protected undo(): void {
    this.store.dispatch(JobActions.undo());
  }

  protected redo(): void {
    this.store.dispatch(JobActions.redo());
  }

  protected stop({ id }: Work): void {
    this.store.dispatch(PlanActions.stop({ id }));
  }

  protected changeUnit(): void {
    showIn(this.unit() === 'mm' ? 'in' : 'mm');
  }

  protected seen(): void {
    this.store.dispatch(PlanActions.troubleSeen());
  }

  protected canBeShown({ place, stepId, field }: Trouble): boolean {
    return place !== 'job' && (!!stepId || !!field || !this.router.url.startsWith(`/${place}`));
  }

  /** Goes to where a trouble can be mended. */
  protected async show(trouble: Trouble): Promise<void> {
    if (trouble.stepId) this.store.dispatch(JobActions.stepSelected({ stepId: trouble.stepId }));
    await this.router.navigateByUrl(`/${trouble.place}`);
    this.store.dispatch(PlanActions.troubleShown({ trouble }));
    const { field } = trouble;
    // the place has to be drawn before its field can be found
    if (field) setTimeout(() => focusField(field));
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

  private calculate(): void {
    const job = this.job();
    const last = job && stepsOn(job).at(-1);
    if (last) this.store.dispatch(PlanActions.calculate({ through: last.id }));
    void this.router.navigateByUrl('/workplan');
  }
}

/** Puts the focus on the field of a value, or on the part of the place that has a name. */
function focusField(name: string): void {
  const field = document.querySelector<HTMLElement>(`[data-key="${CSS.escape(name)}"]`);
  field?.scrollIntoView({ block: 'center' });
  field?.focus();
}
