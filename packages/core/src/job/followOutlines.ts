import type { TriangleMesh } from '../geometry/mesh';
import { areaOf, covered, nearestOn, type Polygon } from '../geometry/polygon';
import { outlineArea, type Point2 } from '../geometry/outline';
import { outlinesUnder } from '../survey/planOutline';
import type { FacePair } from '../survey/revision';
import { isPlanLimit, type Job, type StepLimit } from './job';

/** A face lies under an outline when no corner of it stands out by more than this, mm. */
const UNDER_MM = 0.05;
/** Faces make up an outline when theirs encloses the same area to this share, and passes its points within this, mm. */
const SAME_AREA = 0.01;
const SAME_MM = 0.1;

/** A triangle of less area in plan stands upright, mm². */
const UPRIGHT_MM2 = 1e-3;

/** A limit in plan that went with its faces, or could not. */
export interface FollowedOutline {
  stepId: string;
  step: string;
  source: string;
  /** How far the outline's farthest point moved, mm; undefined where its faces are not all found again: to be looked at. */
  by?: number;
}

/**
 * Moves the limits in plan of a job's steps with the faces that they are the outline of, when a new revision of the part
 * moved or changed those. A limit that no faces make up stays as it is.
 *
 * @param before the part as it was, and `after` as it is, both in the laid frame
 */
export function followOutlines(
  job: Job,
  before: TriangleMesh,
  after: TriangleMesh,
  pairs: readonly FacePair[],
): { job: Job; followed: FollowedOutline[] } {
  const followed: FollowedOutline[] = [];
  const steps = job.steps.map((step) => {
    const limits = step.limits.map((limit): StepLimit => {
      if (!isPlanLimit(limit)) return limit;
      const moved = moveOf(limit.points, before, after, pairs);
      if (!moved) return limit;
      const tell = { stepId: step.id, step: step.name, source: limit.source };
      if (!moved.points) {
        followed.push(tell);
        return limit;
      }
      followed.push({ ...tell, by: moved.by });
      // what moved with the part is no longer what was drawn
      return { ...limit, points: moved.points, shape: undefined };
    });
    return { ...step, limits };
  });
  return followed.length > 0 ? { job: { ...job, steps }, followed } : { job, followed };
}

function moveOf(
  points: Point2[],
  before: TriangleMesh,
  after: TriangleMesh,
  pairs: readonly FacePair[],
): { points?: Point2[]; by: number } | undefined {
  const ring = ringOf(points);
  const all = pairs.filter((pair) => pair.before.every((t) => isUnder(ring, before, t)));
  // what stands upright has an outline only by itself
  const leaning = all.filter((pair) => pair.before.some((t) => planArea(before, t) > UPRIGHT_MM2));
  const under = leaning.length > 0 ? leaning : all;
  if (under.every((pair) => pair.same)) return undefined;
  const [was] = outlinesUnder(
    before,
    under.flatMap((pair) => pair.before),
  );
  if (!was || !isSame(was, points)) return undefined;
  if (under.some((pair) => pair.after.length === 0)) return { by: 0 };
  const [now] = outlinesUnder(
    after,
    under.flatMap((pair) => pair.after),
  );
  if (!now) return { by: 0 };
  return { points: now, by: farthest(now, ring) };
}

function planArea(mesh: TriangleMesh, triangle: number): number {
  const corners = [0, 1, 2].map((c) => 3 * mesh.indices[3 * triangle + c]!);
  return Math.abs(areaOf(Float64Array.from(corners.flatMap((v) => [mesh.positions[v]!, mesh.positions[v + 1]!]))));
}

function isUnder(ring: Polygon, mesh: TriangleMesh, triangle: number): boolean {
  for (let c = 0; c < 3; c++) {
    const v = 3 * mesh.indices[3 * triangle + c]!;
    const [x, y] = [mesh.positions[v]!, mesh.positions[v + 1]!];
    if (!covered([ring], x, y) && nearestOn(ring, x, y, true).distance > UNDER_MM) return false;
  }
  return true;
}

function isSame(outline: Point2[], points: Point2[]): boolean {
  const area = Math.abs(outlineArea(points));
  return (
    Math.abs(Math.abs(outlineArea(outline)) - area) <= SAME_AREA * area && farthest(outline, ringOf(points)) <= SAME_MM
  );
}

/** How far the farthest point of an outline lies from a ring, mm. */
function farthest(outline: readonly Point2[], ring: Polygon): number {
  return outline.reduce((most, [x, y]) => Math.max(most, nearestOn(ring, x, y, true).distance), 0);
}

/** Counter-clockwise. */
function ringOf(points: readonly Point2[]): Polygon {
  const ring = Float64Array.from(points.flat());
  return areaOf(ring) > 0 ? ring : Float64Array.from([...points].reverse().flat());
}
