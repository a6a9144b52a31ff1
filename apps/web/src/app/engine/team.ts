import { EsquisseError } from '@esquisse/core';
import { type Remote, transfer, wrap } from 'comlink';
import { endOf } from './alive';
import type { Planner } from './planner';
import type { ReaderApi } from './reader.worker';

/** Helpers beside the planner: one a core, as the planner waits while they work. */
const HELPERS = Math.max(1, Math.min(8, navigator.hardwareConcurrency || 2));

/** A worker that was started, with what resolves when it has ended. */
interface Started {
  readonly worker: Worker;
  readonly ended: Promise<void>;
}

/** The worker that reads files, with what rejects when it has ended of itself. */
interface Reader {
  readonly worker: Worker;
  readonly files: Remote<ReaderApi>;
  readonly lost: Promise<never>;
}

/** The threads that work for the page: a planner, its helpers, and what reads files. They end together. */
export class Team {
  readonly planner: Remote<Planner>;
  /** Rejects when one of them has ended that was to go on. */
  readonly lost: Promise<never>;
  private readonly workers: Worker[] = [];
  private reader: Reader;
  private dismissed = false;

  constructor() {
    const planner = this.start(
      'planner',
      (name) => new Worker(new URL('./planner.worker', import.meta.url), { type: 'module', name }),
    );
    this.planner = wrap<Planner>(planner.worker);
    const ports: MessagePort[] = [];
    const helpers = Array.from({ length: HELPERS }, (_, k) => {
      const helper = this.start(
        `helper ${k + 1}`,
        (name) => new Worker(new URL('./helper.worker', import.meta.url), { type: 'module', name }),
      );
      ports.push(this.channelTo(helper.worker));
      return helper;
    });
    void this.planner.meet(transfer(ports, ports));
    this.lost = Promise.race([planner, ...helpers].map(({ ended }) => ended)).then(() => {
      throw new EsquisseError(
        'worker-lost',
        'A part of the program that calculates has ended, most likely for want of memory. It was started again. ' +
          'Nothing of the job is lost.',
      );
    });
    // whoever asks for something learns of it; that nobody does is no error
    this.lost.catch(() => undefined);
    this.reader = this.startReader();
  }

  /** What reads and writes files. */
  get files(): Remote<ReaderApi> {
    return this.reader.files;
  }

  /** Rejects when what reads files has ended of itself. */
  get readerLost(): Promise<never> {
    return this.reader.lost;
  }

  /** Ends what reads files, and whatever it reads. */
  stopReading(): void {
    this.reader.worker.terminate();
    this.reader = this.startReader();
    void this.planner.stopReading();
  }

  /** Ends all of them. */
  dismiss(): void {
    this.dismissed = true;
    for (const worker of [...this.workers, this.reader.worker]) worker.terminate();
  }

  get isDismissed(): boolean {
    return this.dismissed;
  }

  private startReader(): Reader {
    const { worker, ended } = this.start(
      'reader',
      (name) => new Worker(new URL('./reader.worker', import.meta.url), { type: 'module', name }),
    );
    this.workers.splice(this.workers.indexOf(worker), 1);
    const port = this.channelTo(worker);
    void this.planner.meetReader(transfer(port, [port]));
    const lost = ended.then((): never => {
      if (this.reader.worker === worker && !this.dismissed) this.stopReading();
      throw new EsquisseError(
        'memory',
        'The part of the program that reads files has ended, most likely for want of memory: save the file coarser.',
      );
    });
    lost.catch(() => undefined);
    return { worker, files: wrap<ReaderApi>(this.channelTo(worker)), lost };
  }

  private start(what: string, make: (name: string) => Worker): Started {
    const name = `esquisse ${what} ${crypto.randomUUID()}`;
    const worker = make(name);
    this.workers.push(worker);
    return { worker, ended: endOf(worker, name) };
  }

  private channelTo(worker: Worker): MessagePort {
    const channel = new MessageChannel();
    worker.postMessage({ port: channel.port1 }, [channel.port1]);
    return channel.port2;
  }
}
