import { boxOf } from '../geometry/mesh';
import type { TriangleMesh } from '../geometry/mesh';
import { distance, type Vec3 } from '../geometry/vector';
import { centreOf } from './pick';
import { facesOf, type Surface, surfaceOf } from './surface';

/** A face is the same when its area agrees to this share and its middle to this distance, mm. */
const SAME_AREA = 1e-3;
const SAME_MM = 0.02;
/** A moved face may have moved this far, mm, and changed its area by this share. */
const MOVED_MM = 30;
const MOVED_AREA = 0.35;

/** Mean normals of level faces lean less than this (cosine). */
const LEVEL = 1 - 1e-6;

interface FaceSum {
  triangles: number[];
  area: number;
  at: Vec3;
  normal: Vec3;
}

/** What a new revision of a part changed, face by face. */
export interface RevisionReport {
  same: number;
  /** Faces that are found again elsewhere or changed: where, and how far their middle moved, mm. */
  moved: { at: Vec3; by: Vec3; distance: number; area: number }[];
  added: { at: Vec3; area: number }[];
  gone: { at: Vec3; area: number }[];
  /** Heights of level faces before and after, in the laid frame. */
  levels: { from: number; to: number }[];
  /** It is the same model in another size, or mirrored: all faces went with it. */
  isScaled?: true;
  /** By how much each side of the part's box moved, mm: low and high in X, Y, Z. */
  box: number[];
}

/** Triangles of a face in the one revision and in the other; none where it is gone. */
export interface FacePair {
  before: readonly number[];
  after: readonly number[];
  /** Neither moved nor changed. */
  same: boolean;
}

/** Compares two revisions of a part in the same frame by matching their faces. */
export function compareRevisions(
  before: TriangleMesh,
  after: TriangleMesh,
): { report: RevisionReport; pairs: FacePair[] } {
  const old = largest(sumsOf(before));
  const now = largest(sumsOf(after));
  const taken = new Uint8Array(now.length);
  const left: FaceSum[] = [];
  const levels: { from: number; to: number }[] = [];
  const pairs: FacePair[] = [];
  const pair = (a: FaceSum, b: FaceSum, same: boolean): void => {
    pairs.push({ before: a.triangles, after: b.triangles, same });
    if (a.normal[2] > LEVEL && b.normal[2] > LEVEL) levels.push({ from: a.at[2], to: b.at[2] });
  };
  let same = 0;
  for (const face of old) {
    const k = now.findIndex(
      (n, i) =>
        !taken[i] && Math.abs(n.area - face.area) <= SAME_AREA * face.area + 1e-6 && distance(n.at, face.at) <= SAME_MM,
    );
    if (k < 0) left.push(face);
    else {
      taken[k] = 1;
      same++;
      pair(face, now[k]!, true);
    }
  }
  const moved: RevisionReport['moved'] = [];
  const gone: RevisionReport['gone'] = [];
  for (const face of left.sort((a, b) => b.area - a.area)) {
    let best = -1;
    let least = MOVED_MM;
    now.forEach((n, i) => {
      if (taken[i] || Math.abs(n.area - face.area) > MOVED_AREA * face.area) return;
      // a closed wall looks every way: its mean normal says nothing
      const round = Math.hypot(...face.normal) < 0.3 && Math.hypot(...n.normal) < 0.3;
      const turn = round
        ? 1
        : n.normal[0] * face.normal[0] + n.normal[1] * face.normal[1] + n.normal[2] * face.normal[2];
      const d = distance(n.at, face.at);
      if (turn > 0.8 && d < least) {
        least = d;
        best = i;
      }
    });
    if (best < 0) {
      gone.push({ at: face.at, area: face.area });
      pairs.push({ before: face.triangles, after: [], same: false });
    } else {
      taken[best] = 1;
      pair(face, now[best]!, false);
      const to = now[best]!.at;
      moved.push({
        at: to,
        by: [to[0] - face.at[0], to[1] - face.at[1], to[2] - face.at[2]],
        distance: least,
        area: now[best]!.area,
      });
    }
  }
  const added = now.filter((_, i) => !taken[i]).map(({ at, area }) => ({ at, area }));
  const box = boxMoves(before, after);
  const report = { levels, same, moved: moved.sort((x, y) => y.distance - x.distance), added, gone, box };
  return { report, pairs };
}

/**
 * The same for a mesh that was scaled, mirrored or moved as a whole: its triangles kept their numbers, so each face is known
 * again whatever it looks like.
 */
export function compareScaled(
  before: TriangleMesh,
  after: TriangleMesh,
): { report: RevisionReport; pairs: FacePair[] } {
  const [old, now] = [sumsOf(before), sumsOf(after)];
  const levels: RevisionReport['levels'] = [];
  const moved: RevisionReport['moved'] = [];
  const pairs = old.map((face, k): FacePair => {
    const { at, area, normal, triangles } = now[k]!;
    if (face.normal[2] > LEVEL && normal[2] > LEVEL) levels.push({ from: face.at[2], to: at[2] });
    const by: Vec3 = [at[0] - face.at[0], at[1] - face.at[1], at[2] - face.at[2]];
    moved.push({ at, by, distance: Math.hypot(...by), area });
    return { before: face.triangles, after: triangles, same: false };
  });
  const report = { levels, same: 0, moved, added: [], gone: [], isScaled: true as const, box: boxMoves(before, after) };
  return { report: { ...report, moved: moved.sort((x, y) => y.distance - x.distance) }, pairs };
}

function boxMoves(before: TriangleMesh, after: TriangleMesh): number[] {
  const [a, b] = [boxOf(before), boxOf(after)];
  return [b.minX - a.minX, b.maxX - a.maxX, b.minY - a.minY, b.maxY - a.maxY, b.minZ - a.minZ, b.maxZ - a.maxZ];
}

/** A scanned mesh may fall into very many faces: the largest of them tell enough, and comparing all takes too long. */
const MOST_FACES = 2500;

function largest(faces: FaceSum[]): FaceSum[] {
  return faces.length <= MOST_FACES ? faces : faces.sort((a, b) => b.area - a.area).slice(0, MOST_FACES);
}

function sumsOf(mesh: TriangleMesh): FaceSum[] {
  const surface: Surface = surfaceOf(mesh);
  const { faceOf, count } = facesOf(surface);
  const groups: number[][] = Array.from({ length: count }, () => []);
  for (let t = 0; t < surface.count; t++) groups[faceOf[t]!]!.push(t);
  return groups.map((triangles) => {
    const area = triangles.reduce((s, t) => s + surface.areas[t]!, 0);
    const normal: Vec3 = [0, 0, 0];
    for (const t of triangles)
      for (let k = 0; k < 3; k++) normal[k]! += (surface.normals[3 * t + k]! * surface.areas[t]!) / (area || 1);
    return { triangles, area, at: centreOf(surface, triangles), normal };
  });
}

/** The report in one or two sentences. */
export function revisionSentence(report: RevisionReport): string {
  const { same, moved, added, gone, isScaled } = report;
  if (isScaled) return 'Another size, or mirrored: all faces went with it. All steps have to be calculated again.';
  if (moved.length + added.length + gone.length === 0) return `The new revision is the same: all ${same} faces agree.`;
  const largest = moved[0];
  const parts = [
    `${same} faces as before`,
    moved.length > 0 ? `${moved.length} moved or changed (by up to ${largest!.distance.toFixed(2)} mm)` : '',
    added.length > 0 ? `${added.length} new` : '',
    gone.length > 0 ? `${gone.length} gone` : '',
  ].filter(Boolean);
  return `New revision: ${parts.join(', ')}. All steps have to be calculated again.`;
}
