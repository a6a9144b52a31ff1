import { type Caller, crewOf } from '../crew/crew';
import type { Job } from '../job/job';
import { Piece, type PieceMeshes } from './piece';
import { Session } from './session';

/**
 * Calculates all steps of a job.
 *
 * @throws EsquisseError what keeps the piece from being machined or a step from being calculated
 */
export async function calculateJob(job: Job, meshes: PieceMeshes, callers: readonly Caller[]): Promise<Session> {
  const session = new Session();
  session.take(job, Piece.of(job, meshes));
  await session.calculate({ crew: (cancel) => crewOf(callers, cancel), onProgress: () => undefined });
  return session;
}
