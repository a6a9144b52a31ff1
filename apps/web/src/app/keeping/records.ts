import type { Job, LeftOut, Motions, ReadMesh, StepPlan } from '@esquisse/core';

/** What a job looked like when it was last seen with its steps. Lengths in mm. */
export interface JobLook {
  /** Time at the machine of the steps that are calculated, with cutter changes, s. */
  readonly time: number;
  /** How many of the steps were up to date. */
  readonly fresh: number;
  /** Size of the part as it lies. */
  readonly size: readonly [number, number, number];
  /** A small picture, as a data URL; empty where there was none. */
  readonly picture: string;
}

/** A kept job with what is known of its keeping. Times in ms since 1970. */
export interface KeptJob {
  readonly id: string;
  /** Of its last change. */
  readonly changed: number;
  readonly job: Job;
  /** When it was last saved to a file; undefined for never. */
  readonly saved?: number | undefined;
  /** The demo job that it is a copy of, while nobody has changed it. */
  readonly demo?: string | undefined;
  readonly look?: JobLook | undefined;
  /** Whether the look is that of the job as it is kept. */
  readonly isLookOfNow?: boolean | undefined;
}

/** A kept job as it stands in the database: the job as its file. */
export type StoredJob = Omit<KeptJob, 'job'> & { readonly job: unknown };

/** A file of a job: its path is the file's hash, or its name in jobs of older builds. */
export interface KeptFile {
  readonly jobId: string;
  readonly path: string;
  readonly bytes: Uint8Array;
}

/** A file's mesh as it was read. */
export interface KeptMesh {
  readonly key: string;
  readonly kept: number;
  readonly read: ReadMesh;
}

/** A planned path. */
export interface KeptPath {
  readonly fingerprint: string;
  readonly kept: number;
  readonly path: Motions;
  readonly leftOut: LeftOut[];
  readonly notes?: LeftOut[];
  readonly facetDepth?: number;
  readonly broken?: StepPlan['broken'];
}
