import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatSortModule, type Sort } from '@angular/material/sort';
import { Router } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { DEMO_JOBS } from '../../keeping/demos';
import { JobList, renamed } from '../../keeping/jobList';
import { Jobs } from '../../keeping/jobs';
import type { KeptJob } from '../../keeping/records';
import { Notice } from '../../shared/notice';
import { ago, clock } from '../../shared/numbers';
import { TextField } from '../../shared/textField';
import { length, unitOf } from '../../shared/units';
import { Editor } from '../../state/editor';
import { NewJobDialog, type NewJob, type NewJobWish } from './newJobDialog';

interface Column {
  readonly id: string;
  readonly name: string;
  readonly isNumber?: boolean;
  readonly by?: (kept: KeptJob) => number | string;
}

const COLUMNS: readonly Column[] = [
  { id: 'picture', name: '' },
  { id: 'name', name: 'Job', by: (k) => `${k.job.name} ${k.job.setup.name}`.toLowerCase() },
  { id: 'part', name: 'Part', by: (k) => k.job.part?.file.toLowerCase() ?? '' },
  { id: 'material', name: 'Material', by: (k) => k.job.material.name.toLowerCase() },
  { id: 'steps', name: 'Steps', by: (k) => k.job.steps.length },
  { id: 'time', name: 'Time', isNumber: true, by: (k) => k.look?.time ?? 0 },
  { id: 'changed', name: 'Changed', by: (k) => -k.changed },
  { id: 'saved', name: 'In a file', by: (k) => -(k.saved ?? 0) },
  { id: 'deeds', name: '' },
];

/** What am I working on? The jobs that this browser keeps, and what begins another one. */
@Component({
  selector: 'esq-jobs-place',
  imports: [MatButtonModule, MatSortModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './jobsPlace.scss',
  templateUrl: './jobsPlace.html',
  host: { '(drop)': 'drop($event)', '(dragover)': '$event.preventDefault()', '(document:paste)': 'paste($event)' },
})
export class JobsPlace {
  private readonly editor = inject(Editor);
  private readonly router = inject(Router);
  private readonly dialog = inject(MatDialog);
  private readonly notice = inject(Notice);
  protected readonly jobs = inject(Jobs);
  private readonly list = inject(JobList);
  protected readonly columns = COLUMNS;
  protected readonly demos = DEMO_JOBS;
  protected readonly unitOf = unitOf;
  protected readonly open = this.editor.job;
  private readonly openId = computed(() => this.open()?.id);
  protected readonly renaming = signal('');
  private readonly sought = signal('');
  protected readonly sort = signal<Sort>({ active: '', direction: '' });
  private readonly now = signal(Date.now());

  protected readonly rows = computed(() => {
    const words = this.sought().toLowerCase().split(/\s+/).filter(Boolean);
    const open = this.open();
    // what is open is shown as it is now, whether or not it is kept already
    const all = this.list.all().map((k) => (k.id === open?.id ? { ...k, job: open } : k));
    const found = all.filter((k) => words.every((w) => textOf(k).includes(w)));
    const { active, direction } = this.sort();
    const by = COLUMNS.find((c) => c.id === active)?.by;
    if (!by || direction === '') return found;
    const sign = direction === 'asc' ? 1 : -1;
    return found.toSorted((a, b) => (by(a) < by(b) ? -sign : by(a) > by(b) ? sign : 0));
  });

  constructor() {
    effect(() => {
      this.openId();
      untracked(() => void this.list.load());
    });
  }

  protected readonly hasNone = computed(() => this.list.all().length === 0);

  protected readonly seek = (text: string): string | undefined => {
    this.sought.set(text);
    return undefined;
  };

  protected sizeOf({ look }: KeptJob): string {
    return look ? `${look.size.map((v) => length(v, 1)).join(' x ')} ${unitOf('mm')}` : '';
  }

  /** How many of the steps were up to date, where that was seen of the job as it is. */
  protected stepsOf({ job, look, isLookOfNow }: KeptJob): string {
    const n = job.steps.length;
    if (n === 0) return 'none yet';
    return look && isLookOfNow ? `${look.fresh} of ${n} up to date` : `${n}`;
  }

  protected timeOf({ look, isLookOfNow }: KeptJob): string {
    return look && isLookOfNow && look.time > 0 ? clock(look.time) : '';
  }

  protected agoOf(ms: number | undefined): string {
    return ms === undefined ? 'not yet' : ago(ms, this.now());
  }

  protected async openJob(id: string): Promise<void> {
    if (id !== this.open()?.id) await this.jobs.openKept(id);
    await this.router.navigateByUrl('/workplan');
  }

  protected async openDemo(file: string): Promise<void> {
    await this.jobs.openDemo(file);
    await this.router.navigateByUrl('/workplan');
  }

  protected async duplicate(id: string): Promise<void> {
    await this.list.duplicate(id);
  }

  /** Takes a name of a job, or of its setup. */
  protected renamer(kept: KeptJob, isSetup: boolean): (text: string) => string | undefined {
    return (text) => {
      const names = isSetup ? { setup: text } : { name: text };
      if (kept.id === this.open()?.id) {
        const problem = this.editor.change((job) => renamed(job, names));
        if (!problem) void this.list.load();
        return problem;
      }
      void this.list.rename(kept.id, names).then((problem) => problem && this.refused(problem));
      return undefined;
    };
  }

  protected async remove({ id, job }: KeptJob): Promise<void> {
    if (id === this.open()?.id && !(await this.openAnother(id))) return;
    const deleted = await this.list.remove(id);
    if (deleted) this.notice.undoable(`Job "${job.name}" deleted`, () => void this.list.bringBack(deleted));
  }

  /** Opens another job in place of the one that is to be deleted: the last changed, or a demo. */
  private async openAnother(id: string): Promise<boolean> {
    const other = this.list.all().find((k) => k.id !== id);
    if (other) await this.jobs.openKept(other.id);
    for (const { file } of DEMO_JOBS) if (this.open()?.id === id) await this.jobs.openDemo(file);
    return this.open()?.id !== id;
  }

  protected picked(event: Event, take: (files: readonly File[]) => unknown): void {
    const input = event.target as HTMLInputElement;
    const files = [...(input.files ?? [])];
    input.value = '';
    if (files.length > 0) take(files);
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.takeIn([...(event.dataTransfer?.files ?? [])]);
  }

  protected paste(event: ClipboardEvent): void {
    this.takeIn([...(event.clipboardData?.files ?? [])]);
  }

  /** A job's file is opened; from any others a new job begins. */
  private takeIn(files: readonly File[]): void {
    const [first] = files;
    if (!first) return;
    if (!files.some(isJobFile)) void this.begin(files);
    else if (files.length === 1) void this.openFile(first);
    else this.refused('A job in a file is opened alone: bring in one file, or files of parts only.');
  }

  protected async openFile(file: File): Promise<void> {
    await this.jobs.openFile(file);
    await this.list.load();
  }

  protected openFirst([file]: readonly File[]): void {
    if (file) void this.openFile(file);
  }

  protected async begin(files: readonly File[]): Promise<void> {
    const like = this.open();
    if (!like) {
      this.refused('Open a job first: the new one takes its cutters.');
      return;
    }
    const asked = this.dialog.open<NewJobDialog, NewJobWish, NewJob>(NewJobDialog, {
      data: { files, like },
      width: '460px',
    });
    const made = await firstValueFrom(asked.afterClosed());
    if (!made) return;
    await this.jobs.begin(made.files, made.beginning);
    if (this.open()?.id !== like.id) await this.router.navigateByUrl('/piece');
  }

  private refused(problem: string): void {
    this.editor.tell('job', problem);
  }
}

const isJobFile = ({ name }: File): boolean => /\.zip$/i.test(name);

function textOf({ job }: KeptJob): string {
  return `${job.name} ${job.setup.name} ${job.part?.file ?? ''} ${job.material.name}`.toLowerCase();
}
