import { inject, Injectable } from '@angular/core';
import { type Bundle, type Crib, type LengthUnit, type Outlines, refuseLargeFile } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions } from '../state/plan.reducer';
import { Engine, READING_S } from './engine';
import type { CribRead } from './reader.worker';
import type { FileView } from './views';

/** How often a reading tells how long it has gone on, ms. */
const TOLD_EVERY_MS = 1000;

/** Reads files away from the page, and tells of it while it goes on. */
@Injectable({ providedIn: 'root' })
export class FileReading {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);

  /** A part's file. @throws EsquisseError with what is wrong with it, or `cancelled` */
  part(fileName: string, bytes: Uint8Array, unit: LengthUnit): Promise<FileView> {
    return this.told(fileName, bytes.length, () => this.engine.read(fileName, bytes, unit));
  }

  outlines(file: File): Promise<Outlines> {
    return this.told(file.name, file.size, () => this.engine.outlines(file));
  }

  job(file: File): Promise<Bundle> {
    return this.told(file.name, file.size, () => this.engine.openJob(file));
  }

  crib(file: File, crib: Crib): Promise<CribRead> {
    return this.told(file.name, file.size, () => this.engine.readCrib(file, crib));
  }

  json(file: File): Promise<unknown> {
    return this.told(file.name, file.size, () => this.engine.readJson(file));
  }

  private async told<T>(fileName: string, size: number, read: () => Promise<T>): Promise<T> {
    refuseLargeFile(size, `"${fileName}"`);
    const begun = Date.now();
    const tell = (): void => {
      const s = Math.round((Date.now() - begun) / 1000);
      const what = s > 0 ? `reading ${fileName}, ${s} s of at most ${READING_S}` : `reading ${fileName}`;
      this.store.dispatch(PlanActions.workTold({ work: { id: 'reading', what, share: 0 } }));
    };
    tell();
    const timer = setInterval(tell, TOLD_EVERY_MS);
    try {
      return await read();
    } finally {
      clearInterval(timer);
      this.store.dispatch(PlanActions.workEnded({ id: 'reading' }));
    }
  }
}
