import {
  EsquisseError,
  filesOf,
  type Job,
  meshesOfJob,
  meshFingerprint,
  type ModelFile,
  type PieceMeshes,
  type ReadMesh,
} from '@esquisse/core';
import type { PartDrawing } from './partDrawing';

/** The meshes of a piece, and what is worked out of them once. */
export interface DrawnMeshes extends PieceMeshes {
  drawing?: PartDrawing | undefined;
  faces?: number | undefined;
}

/** By what a file's mesh is known: its bytes, and the unit that they were read in. */
export function fileKey({ hash, unit }: Pick<ModelFile, 'hash' | 'unit'>): string {
  return `${hash}|${unit}`;
}

/**
 * The files that were read for a job, by what they hold: a reading changes nothing until a job names its file, and one that
 * an earlier state of the job named is there again when that state comes back.
 */
export class PieceFiles {
  private readonly reads = new Map<string, ReadMesh>();
  private readonly refused = new Map<string, string>();
  private made?: { of: string; meshes: DrawnMeshes };

  add(file: Pick<ModelFile, 'hash' | 'unit'>, read: ReadMesh): void {
    this.reads.set(fileKey(file), read);
    this.refused.delete(fileKey(file));
  }

  /** Keeps in mind why a file could not be read. */
  refuse(file: Pick<ModelFile, 'hash' | 'unit'>, reason: string): void {
    this.refused.set(fileKey(file), reason);
  }

  /** Files of a job that are to be read before it is taken: neither here, nor known to be unreadable. */
  lacking(job: Pick<Job, 'part' | 'others'>): ModelFile[] {
    return filesOf(job).filter((file) => !this.reads.has(fileKey(file)) && !this.refused.has(fileKey(file)));
  }

  /** Gives up all that was read: another job is opened, whose own files were read already. */
  keepOnly(job: Pick<Job, 'part' | 'others'>): void {
    const named = new Set(filesOf(job).map(fileKey));
    for (const key of this.reads.keys()) if (!named.has(key)) this.reads.delete(key);
  }

  read(file: Pick<ModelFile, 'hash' | 'unit'>): ReadMesh | undefined {
    return this.reads.get(fileKey(file));
  }

  /** The meshes as the job wants them; the same ones as before while nothing changed. @throws EsquisseError without one of its files */
  meshes(job: Job): DrawnMeshes {
    const of = JSON.stringify([job.part && fileKey(job.part), job.part?.roles, job.part?.scale, job.others]);
    if (this.made?.of === of) return this.made.meshes;
    for (const file of filesOf(job)) {
      const reason = this.reads.has(fileKey(file)) ? undefined : this.refused.get(fileKey(file));
      if (reason) throw new EsquisseError('file-unreadable', reason, file.file);
    }
    const meshes = meshesOfJob(job, (file) => this.read(file));
    const key = [meshes.part, meshes.blank, ...meshes.fixtures].map((m) => (m ? meshFingerprint(m) : '-')).join();
    const same = this.made?.meshes.part === meshes.part ? this.made.meshes : undefined;
    const made: DrawnMeshes = { ...meshes, key, drawing: same?.drawing, faces: same?.faces };
    this.made = { of, meshes: made };
    return made;
  }
}
