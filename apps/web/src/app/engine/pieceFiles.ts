import {
  EsquisseError,
  filesOf,
  type Job,
  meshesOfJob,
  meshFingerprint,
  type ReadMesh,
  type TriangleMesh,
} from '@esquisse/core';
import type { PartDrawing } from './partDrawing';

/** The meshes of a piece by what they are, and what is worked out of them once. */
export interface PieceMeshes {
  part: TriangleMesh;
  blank?: TriangleMesh;
  fixtures: TriangleMesh[];
  /** Changes with any of them. */
  key: string;
  drawing?: PartDrawing;
  faces?: number;
}

/**
 * The files that a piece is made of. A file that was read waits under a ticket, and only whoever holds the ticket can take
 * it in: a reading that was stopped and ends later changes nothing.
 */
export class PieceFiles {
  private reads: ReadonlyMap<string, ReadMesh> = new Map();
  private readonly waiting = new Map<number, { file: string; read: ReadMesh }>();
  /** Why files could not be read, by their names. */
  private readonly refused = new Map<string, string>();
  private tickets = 0;
  private made?: { of: string; reads: ReadonlyMap<string, ReadMesh>; meshes: PieceMeshes };

  /** Keeps a file that was read until it is taken in. @returns its ticket */
  wait(file: string, read: ReadMesh): number {
    this.waiting.set(++this.tickets, { file, read });
    this.refused.delete(file);
    return this.tickets;
  }

  /** Keeps in mind why a file could not be read. */
  refuse(file: string, reason: string): void {
    this.refused.set(file, reason);
  }

  /** Gives up what was taken in. */
  forget(): void {
    this.reads = new Map();
  }

  /** Takes in the files of some tickets, and gives up those that the job does not name. */
  take(job: Pick<Job, 'part' | 'others'>, tickets: readonly number[]): void {
    const named = new Set(filesOf(job).map((f) => f.file));
    const next = new Map([...this.reads].filter(([file]) => named.has(file)));
    for (const ticket of tickets) {
      const found = this.waiting.get(ticket);
      if (found && named.has(found.file)) next.set(found.file, found.read);
    }
    // whatever was read before them was taken in, stopped or failed; they stay until the next, to be taken in again when the
    // job was changed meanwhile
    const oldest = tickets.length > 0 ? Math.min(...tickets) : 0;
    for (const ticket of this.waiting.keys()) if (ticket < oldest) this.waiting.delete(ticket);
    const same = next.size === this.reads.size && [...next].every(([file, read]) => this.reads.get(file) === read);
    if (!same) this.reads = next;
  }

  read(file: string): ReadMesh | undefined {
    return this.reads.get(file);
  }

  /** The meshes as the job wants them; the same ones as before while nothing changed. @throws EsquisseError without one of its files */
  meshes(job: Job): PieceMeshes {
    const of = JSON.stringify([job.part?.file, job.part?.roles, job.others]);
    const refused = filesOf(job).find(({ file }) => !this.reads.has(file) && this.refused.has(file));
    if (refused) throw new EsquisseError('file-unreadable', this.refused.get(refused.file)!, refused.file);
    if (this.made?.of !== of || this.made.reads !== this.reads) {
      const meshes = meshesOfJob(job, (file) => this.reads.get(file));
      const all = [meshes.part, meshes.blank, ...meshes.fixtures];
      const key = all.map((m) => (m ? meshFingerprint(m) : '-')).join();
      const kept = this.made?.meshes.part === meshes.part ? this.made.meshes : undefined;
      this.made = {
        of,
        reads: this.reads,
        meshes: { ...meshes, key, drawing: kept?.drawing, faces: kept?.faces },
      };
    }
    return this.made.meshes;
  }
}
