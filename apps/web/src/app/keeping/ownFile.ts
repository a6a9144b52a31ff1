import { fileOpen, fileSave, supported } from 'browser-fs-access';
import { Injectable, signal } from '@angular/core';
import { EsquisseError, messageOf } from '@esquisse/core';

const KIND = { extensions: ['.zip'], mimeTypes: ['application/zip'], description: 'Job with its files' };

/** The files on the person's disk that jobs were opened from or saved to, where the browser can write into them again. */
@Injectable({ providedIn: 'root' })
export class OwnFile {
  /** Whether this browser can write into a file that was chosen before. */
  readonly isSupported = supported;
  private readonly handles = signal<ReadonlyMap<string, FileSystemFileHandle>>(new Map());

  /** Name of the file that a job can be saved to again. */
  nameOf(jobId: string | undefined): string | undefined {
    return jobId === undefined ? undefined : this.handles().get(jobId)?.name;
  }

  /** Asks for a job's file; undefined when nothing was chosen. */
  async choose(): Promise<{ file: File; handle: FileSystemFileHandle | undefined } | undefined> {
    try {
      const file = await fileOpen(KIND);
      return { file, handle: file.handle };
    } catch (error) {
      if (isGivenUp(error)) return undefined;
      throw error;
    }
  }

  /** The job's own file from now on. */
  remember(jobId: string, handle: FileSystemFileHandle | undefined): void {
    if (handle) this.handles.update((all) => new Map(all).set(jobId, handle));
  }

  /**
   * Writes a job into its own file, or, when it has none or another is wanted, into one that is asked for.
   *
   * @returns whether it was written: a person may think better of it
   * @throws EsquisseError `file-unreadable` when the file cannot be written: what it held before is still there
   */
  async save(jobId: string, name: string, content: Promise<Uint8Array>, asNew: boolean): Promise<boolean> {
    const known = asNew ? undefined : this.handles().get(jobId);
    try {
      const blob = content.then((bytes) => new Blob([bytes as BlobPart], { type: KIND.mimeTypes[0]! }));
      const handle = await fileSave(blob, { ...KIND, fileName: name }, known ?? null, known !== undefined);
      this.remember(jobId, handle ?? undefined);
      return true;
    } catch (error) {
      if (isGivenUp(error)) return false;
      throw new EsquisseError(
        'file-unreadable',
        `"${known?.name ?? name}" could not be written (${messageOf(error)}): save to another file.`,
        'job',
      );
    }
  }
}

const isGivenUp = (error: unknown): boolean => error instanceof DOMException && error.name === 'AbortError';
