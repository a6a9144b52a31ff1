import type { TriangleMesh } from '../geometry/mesh';
import { distance } from '../geometry/vector';
import { followPicks } from '../survey/facePicks';
import type { FacePair } from '../survey/revision';
import type { FollowedOutline } from './followOutlines';
import { isPlanLimit, type Job, type StepLimit } from './job';

/**
 * Moves the picked faces by which a job's steps are held with the faces of a new revision of the part. Those that are gone are
 * marked: the step waits until they are picked again.
 *
 * @param before the part as it was, and `after` as it is, both in the frame of its file
 */
export function followFacePicks(
  job: Job,
  before: TriangleMesh,
  after: TriangleMesh,
  pairs: readonly FacePair[],
): { job: Job; followed: FollowedOutline[] } {
  const followed: FollowedOutline[] = [];
  const steps = job.steps.map((step) => {
    const limits = step.limits.map((limit): StepLimit => {
      if (isPlanLimit(limit)) return limit;
      const faces = followPicks(limit.faces, before, after, pairs);
      if (faces === limit.faces) return limit;
      const tell = { stepId: step.id, step: step.name, source: 'picked faces' };
      const isLost = faces.some((pick, k) => pick.lost && !limit.faces[k]!.lost);
      const by = Math.max(...faces.map((pick, k) => distance(pick.at, limit.faces[k]!.at)));
      followed.push(isLost ? tell : { ...tell, by });
      return { ...limit, faces: [...faces] };
    });
    return { ...step, limits };
  });
  return followed.length > 0 ? { job: { ...job, steps }, followed } : { job, followed };
}
