import { inject, Injectable, signal } from '@angular/core';
import {
  AS_DRAWN,
  type Scale,
  TRUE_SIZE,
  withScale,
  type Beginning,
  type Bundle,
  type BodyRole,
  EsquisseError,
  filesOf,
  isCancelled,
  type Job,
  FIRST_SETUP,
  messageOf,
  type ModelFile,
  newJob,
  packBundle,
  parseJob,
  parseJson,
  readJob,
  refuseLargeFile,
  withBodies,
  type LengthUnit,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { FileReading } from '../engine/fileReading';
import { Ask } from '../shared/ask';
import { saveFile } from '../shared/files';
import { Editor } from '../state/editor';
import { JobActions, jobFeature } from '../state/job.reducer';
import type { Trouble } from '../state/plan.reducer';
import { dropOldFiles, keptFile, keptJob, keptJobs } from './database';
import { DEMO_JOBS } from './demos';
import { Guard } from '../state/guard';
import { Keeper } from './keeper';
import { OwnFile } from './ownFile';
import { freeName, newId } from './names';
import type { KeptJob } from './records';
import { Tabs } from './tabs';

/** A file, and what a person says it is. */
export interface RoledFile {
  readonly file: File;
  readonly role: BodyRole;
}

/** Opens, saves and restores jobs. Whatever fails leaves the open job as it was. */
@Injectable({ providedIn: 'root' })
export class Jobs {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly reader = inject(FileReading);
  private readonly editor = inject(Editor);
  private readonly keeper = inject(Keeper);
  private readonly tabs = inject(Tabs);
  private readonly ask = inject(Ask);
  private readonly ownFile = inject(OwnFile);
  private readonly guard = inject(Guard);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  /** Files wait for the job that is being brought back. */
  private restored: Promise<void> = Promise.resolve();
  /** What the open job's files hold, by their hashes: a job can be saved even when nothing is kept. */
  private readonly bytes = new Map<string, Uint8Array>();
  /** Kept jobs, for the menu. */
  readonly kept = signal<readonly KeptJob[]>([]);

  constructor() {
    this.keeper.fileOf = (hash) => this.bytes.get(hash);
    this.tabs.beforeGiving = () => this.keeper.settled();
    this.tabs.taken.subscribe((jobId) => {
      if (this.job()?.id === jobId) this.store.dispatch(JobActions.readOnlySet({ readOnly: true }));
    });
  }

  /** Brings back the job that was open last, or the first demo job. */
  restore(): Promise<void> {
    this.restored = this.guarded('job', async () => {
      const [last] = await this.keptOrNone();
      if (last) await this.openKeptJob(last);
      else await this.openDemoJob(DEMO_JOBS[0].file, isFirstVisit());
    });
    return this.restored;
  }

  listKept(): Promise<void> {
    return this.guarded('job', async () => this.kept.set(await keptJobs()));
  }

  /** Opens a demo job as a copy: the one that nobody has changed yet, or a new one. */
  openDemo(file: string): Promise<void> {
    return this.guarded('job', async () => {
      await this.restored;
      await this.openDemoJob(file);
    });
  }

  private async openDemoJob(file: string, toWorkOut = false): Promise<void> {
    const all = await this.keptOrNone();
    const untouched = all.find((k) => k.demo === file);
    if (untouched) {
      await this.openKeptJob(untouched);
      return;
    }
    const demo = readJob(parseJson(await (await fetched(`/demo/jobs/${file}.json`)).text(), file), file);
    const part = demo.part!;
    const name = part.file.split('/').pop()!;
    const bytes = new Uint8Array(await (await fetched(`/demo/parts/${name}`)).arrayBuffer());
    const copy = { ...demo, id: newId(file), name: freeName(demo, all), part: { ...part, file: name } };
    await this.open(copy, new Map([[name, bytes]]), { demo: file, toWorkOut });
  }

  /** Begins a job with a part's file, and what else was brought with it. */
  begin(files: readonly RoledFile[], beginning: Omit<Beginning, 'id' | 'part' | 'others'>): Promise<void> {
    return this.guarded('job', async () => {
      await this.restored;
      const used = files.filter(({ role }) => role !== 'ignored');
      const part = used.find(({ role }) => role === 'part');
      if (!part) throw new EsquisseError('job-invalid', 'None of the files is the part.');
      const bytes = new Map<string, Uint8Array>();
      for (const { file } of used) {
        refuseLargeFile(file.size, `"${file.name}"`);
        if (bytes.has(file.name))
          throw new EsquisseError('file-unreadable', `Two of the files are named "${file.name}": rename one.`);
        bytes.set(file.name, new Uint8Array(await file.arrayBuffer()));
      }
      const name = freeName({ name: beginning.name, setup: { name: FIRST_SETUP } }, await this.keptOrNone());
      const named = used.map(({ file, role }) => ({ file: file.name, hash: '', role }));
      const others = named.filter(({ file }) => file !== part.file.name);
      const own = { file: part.file.name, hash: '' };
      await this.open(newJob({ ...beginning, name, id: newId('job'), part: own, others }), bytes, {});
    });
  }

  openKept(id: string): Promise<void> {
    return this.guarded('job', async () => {
      await this.restored;
      const found = await keptJob(id);
      if (!found) throw new EsquisseError('file-unreadable', 'This job is no longer kept in this browser.');
      await this.openKeptJob(found);
    });
  }

  private async openKeptJob(found: KeptJob): Promise<void> {
    const job = parseJob(found.job, `"${found.job.name}"`);
    const files = new Map<string, Uint8Array>();
    for (const named of filesOf(job)) {
      const bytes = await keptFile(found.id, named);
      if (bytes) files.set(named.file, bytes);
    }
    await this.open(job, files, { saved: found.saved, demo: found.demo, isKept: true });
  }

  /** Opens a whole job from its zip file. */
  openFile(file: File, handle?: FileSystemFileHandle): Promise<void> {
    return this.guarded('job', async () => {
      await this.restored;
      const { job, files } = await this.reader.job(file);
      const own = (await this.keptOrNone()).find((k) => k.id === job.id);
      const answer = own && (await this.askAbout(own, file));
      if (own && !answer) return;
      if (answer === 'kept') {
        await this.openKeptJob(own!);
        return;
      }
      const opened = answer === 'both' ? { ...job, id: newId(job.id) } : job;
      await this.open(opened, files, { saved: file.lastModified });
      this.ownFile.remember(opened.id, handle);
    });
  }

  /** Asks for a job's file and opens it: it can be saved into that very file again. */
  chooseFile(): Promise<void> {
    return this.guarded('job', async () => {
      const chosen = await this.ownFile.choose();
      if (chosen) await this.openFile(chosen.file, chosen.handle);
    });
  }

  private askAbout(own: KeptJob, file: File): Promise<string | undefined> {
    const time = (ms: number): string => new Date(ms).toLocaleString();
    return this.ask.for({
      title: 'This job is kept in this browser already',
      text: `"${file.name}" (${time(file.lastModified)}) holds the job "${own.job.name}, ${own.job.setup.name}", which is kept here as it was changed last at ${time(own.changed)}.`,
      answers: [
        { id: 'both', label: 'Keep both' },
        { id: 'kept', label: 'Open the kept one' },
        { id: 'replace', label: 'Replace the kept one' },
      ],
    });
  }

  /** Saves the whole job, with its files, to one zip file among the downloads. */
  saveFile(): Promise<void> {
    return this.saved(async (_, name, content) => {
      saveFile(name, await content, 'application/zip');
      return true;
    });
  }

  /** Saves it into the file that it was opened from or saved to; into one that is asked for when there is none, or when told to. */
  saveToOwnFile(asNew: boolean): Promise<void> {
    return this.saved((job, name, content) => this.ownFile.save(job.id, name, content, asNew));
  }

  private saved(write: (job: Job, name: string, content: Promise<Uint8Array>) => Promise<boolean>): Promise<void> {
    return this.guarded('job', async () => {
      const job = this.job();
      if (!job) return;
      const name = `${job.name} - ${job.setup.name}.esquisse.zip`;
      // a browser asks for a file only right after a press: it is packed meanwhile
      if (await write(job, name, this.wholeFile(job))) await this.keeper.noteSaved(job.id);
    });
  }

  private async wholeFile(job: Job): Promise<Uint8Array> {
    const files = new Map<string, Uint8Array>();
    for (const named of filesOf(job)) {
      const bytes = await this.bytesOf(job, named);
      if (!bytes) throw new EsquisseError('file-unreadable', `The file "${named.file}" is not kept in this browser.`);
      files.set(named.file, bytes);
    }
    return this.packed({ job, files });
  }

  /** The job as a file; made on the page itself when nothing else can. */
  private async packed(bundle: Bundle): Promise<Uint8Array> {
    try {
      return await this.engine.packJob(bundle);
    } catch {
      return packBundle(bundle);
    }
  }

  /** Becomes the tab that changes the open job, as the other one left it. */
  takeOver(): Promise<void> {
    return this.guarded('job', async () => {
      const job = this.job();
      if (!job) return;
      await this.tabs.takeOver(job.id);
      const now = await keptJob(job.id).catch(() => undefined);
      if (now) await this.openKeptJob(now);
      else this.store.dispatch(JobActions.readOnlySet({ readOnly: false }));
    });
  }

  /** Takes a part's file into the open job, in place of the one before. */
  importPart(file: File, unit: LengthUnit): Promise<void> {
    return this.guarded('piece', async () => {
      await this.restored;
      if (!this.job()) throw new EsquisseError('job-invalid', 'Open a job first, from the menu at the upper left.');
      const part = await this.read(file, unit);
      await this.takeIn(part, (job) => {
        const isSame = job.part?.file === file.name;
        const { lay = AS_DRAWN, scale = TRUE_SIZE } = job.part ?? {};
        return { ...job, part: { ...part, lay, scale, roles: isSame ? job.part!.roles : {} } };
      });
    });
  }

  /** Takes a further file into the open job: a blank or a fixture in the frame of the part. */
  importOther(file: File, unit: LengthUnit, role: BodyRole): Promise<void> {
    return this.guarded('piece', async () => {
      await this.restored;
      const job = this.job();
      if (!job?.part) throw new EsquisseError('job-invalid', 'Bring in the part first.', 'part');
      if (file.name === job.part.file)
        throw new EsquisseError('job-invalid', `"${file.name}" is the part's own file; give its bodies their roles.`);
      const other = { ...(await this.read(file, unit)), role };
      await this.takeIn(other, (now) =>
        withBodies(now, () => ({ ...now, others: [...now.others.filter((o) => o.file !== file.name), other] })),
      );
    });
  }

  /** Takes a file that was read into the open job, with whatever was changed while it was read. It can be undone. */
  private takeIn(file: ModelFile, change: (job: Job) => Job): Promise<void> {
    const refusal = `Another job was opened: "${file.file}" was not taken in.`;
    return this.revise(change, refusal, (job) =>
      this.keeper.keep(job, { files: { [file.hash]: this.bytes.get(file.hash)! } }),
    );
  }

  /** Scales or mirrors the part as a whole: heights, outlines and picked faces of the steps go with it. */
  scalePart(scale: Scale): Promise<void> {
    return this.guarded('piece', () => this.revise((job) => withScale(job, scale), 'Another job was opened.'));
  }

  /** Changes what the bodies of the open job's files are. */
  changeBodies(change: (job: Job) => Job): Promise<void> {
    return this.guarded('piece', () => this.revise(change, 'Another job was opened.'));
  }

  /** Changes the part of the open job, and with it what follows its faces. */
  private async revise(
    change: (job: Job) => Job,
    refusal: string,
    keep: (job: Job) => Promise<unknown> = () => Promise.resolve(),
  ): Promise<void> {
    const begun = this.job();
    for (;;) {
      const job = this.job();
      if (!job || job.id !== begun?.id) throw new EsquisseError('job-invalid', refusal);
      const next = await this.engine.revised(job, parseJob(change(job), 'The job'));
      await keep(job);
      if (this.job() !== job) continue;
      const problem = this.editor.change(() => next);
      if (problem) throw new EsquisseError('job-invalid', problem, 'part');
      return;
    }
  }

  /** Reads the open job's part again, in another unit. */
  rereadPart(unit: LengthUnit): Promise<void> {
    return this.guarded('piece', async () => {
      const job = this.job();
      const bytes = job?.part && (await this.bytesOf(job, job.part));
      if (job?.part && bytes) await this.importPart(new File([bytes as BlobPart], job.part.file), unit);
    });
  }

  /** Reads what the planner does not have at hand of a job's files. */
  async readAgain(job: Job): Promise<void> {
    for (const named of await this.engine.lacking(job)) {
      const bytes = await this.bytesOf(job, named).catch(() => undefined);
      // why a file cannot be read is told when the job is taken
      if (bytes) await this.reading(named.file, bytes, named.unit).catch(() => undefined);
    }
  }

  private async bytesOf(job: Job, named: ModelFile): Promise<Uint8Array | undefined> {
    return this.bytes.get(named.hash) ?? (await keptFile(job.id, named));
  }

  private async read(file: File, unit: LengthUnit): Promise<ModelFile> {
    refuseLargeFile(file.size, `"${file.name}"`);
    const bytes = new Uint8Array(await file.arrayBuffer());
    return this.reading(file.name, bytes, unit);
  }

  private async reading(file: string, bytes: Uint8Array, unit: LengthUnit): Promise<ModelFile> {
    const { hash } = await this.reader.part(file, bytes, unit);
    this.bytes.set(hash, bytes);
    return { file, hash, unit };
  }

  /**
   * Opens a job with all its files.
   *
   * @param isKept the job is this person's own work: it opens without a file that cannot be read, with the reason, so that
   * another can be brought in
   * @param toWorkOut its steps are calculated without being asked for
   */
  private async open(
    job: Job,
    files: ReadonlyMap<string, Uint8Array>,
    {
      saved,
      demo,
      isKept = false,
      toWorkOut = false,
    }: { saved?: number | undefined; demo?: string | undefined; isKept?: boolean; toWorkOut?: boolean },
  ): Promise<void> {
    let unread: unknown;
    const hashes = new Map<string, string>();
    for (const { file, unit } of filesOf(job)) {
      const bytes = files.get(file);
      try {
        if (!bytes) throw new EsquisseError('file-unreadable', `The file "${file}" is missing.`);
        hashes.set(file, (await this.reading(file, bytes, unit)).hash);
      } catch (error) {
        if (!isKept || isCancelled(error)) throw error;
        unread ??= error;
      }
    }
    const whole = parseJob(withHashes(job, hashes), 'The job');
    const readOnly = !(await this.tabs.hold(whole.id));
    const own = new Map([...hashes].map(([file, hash]) => [hash, files.get(file)!]));
    for (const hash of this.bytes.keys()) if (!own.has(hash)) this.bytes.delete(hash);
    if (!readOnly) {
      await this.keeper.keep(whole, { files: Object.fromEntries(own), saved, demo });
      if (!unread) void dropOldFiles(whole).catch(() => undefined);
    }
    this.keeper.saved.set(saved);
    this.store.dispatch(JobActions.opened({ job: whole, readOnly, toWorkOut }));
    // opening begins with a clean slate, but not where the job is not kept
    this.keeper.tell();
    if (unread) throw unread;
  }

  private async keptOrNone(): Promise<readonly KeptJob[]> {
    try {
      return await keptJobs();
    } catch (error) {
      this.keeper.trouble.set(messageOf(error));
      return [];
    }
  }

  private guarded(place: Trouble['place'], work: () => Promise<void>): Promise<void> {
    return this.guard.run(place, work);
  }
}

const VISITED = 'esquisse.visited';

/** Whether nobody was here before: the demo then works itself out, so that there is steel to see. */
function isFirstVisit(): boolean {
  const isFirst = localStorage.getItem(VISITED) === null;
  localStorage.setItem(VISITED, 'yes');
  return isFirst;
}

/** The job with what each of its files holds. */
function withHashes(job: Job, hashes: ReadonlyMap<string, string>): Job {
  const named = <T extends ModelFile>(f: T): T => ({ ...f, hash: hashes.get(f.file) ?? f.hash });
  return { ...job, part: job.part && named(job.part), others: job.others.map(named) };
}

async function fetched(url: string): Promise<Response> {
  const response = await fetch(url);
  if (!response.ok) throw new EsquisseError('file-unreadable', `${url} cannot be fetched (${response.status}).`);
  return response;
}
