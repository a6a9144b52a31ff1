import type { TriangleMesh } from '../geometry/mesh';
import { distanceToSegment, distanceToTriangle } from '../geometry/nearest';
import type { Vec3 } from '../geometry/vector';
import type { FacePair } from './revision';

/** A place this near to a level one lies at its height, mm. */
const AT_MM = 0.011;
/** Of places that lie as far away as one another, to this, the more exact one counts: a corner before its edge and face; mm. */
const AS_NEAR_MM = 1e-3;
/** Corners of a face or an edge whose heights differ by less are level, mm. */
const LEVEL_MM = 1e-3;

/** The more exact ones first; each with how many corners its pieces have. */
const KINDS = [
  ['corners', 1],
  ['edges', 2],
  ['faces', 3],
] as const;

/** A level face, a level edge or a corner of the part as it was. */
interface Place {
  readonly kind: (typeof KINDS)[number][0];
  readonly from: number;
  /** Where it is now; undefined where it is gone or level no more. */
  readonly now: { readonly height: number; readonly by: readonly [number, number] } | undefined;
  /** Distance in plan from a point to it as it was, mm. */
  distanceTo(x: number, y: number): number;
}

/**
 * Where level faces, level edges and corners of a part went at a revision: edges and corners are known by the faces that meet
 * there, so that a place is found again also where no level face lies. Nothing is looked at before a place is asked for.
 *
 * @param before and @param after the two revisions in the laid frame
 * @param pairs their faces, matched; those that are gone have none after
 */
export class MovedPlaces {
  private known: readonly Place[] | undefined;

  constructor(
    private readonly before: TriangleMesh,
    private readonly after: TriangleMesh,
    private readonly pairs: readonly FacePair[],
  ) {}

  /**
   * Where a place went.
   *
   * @param height of the place before, mm
   * @param at where it was in plan; left out where only its height is known
   * @returns undefined where it is not found again, or, known by its height alone, where more than one place may be meant
   */
  moved(height: number, at?: readonly [number, number]): { height: number; at?: [number, number] } | undefined {
    this.known ??= this.look();
    const level = this.known.filter((p) => Math.abs(p.from - height) < AT_MM);
    return at ? this.nearest(level, at) : agreed(level);
  }

  private nearest(level: readonly Place[], at: readonly [number, number]): ReturnType<MovedPlaces['moved']> {
    const all = level.map((place) => ({ place, d: place.distanceTo(...at) }));
    const least = Math.min(...all.map(({ d }) => d));
    // of a very large part not all faces are known: what is meant may be one of the others
    if (least > AS_NEAR_MM && !this.isWhole()) return undefined;
    // a corner whose neighbours changed still lies on its face, but what lies farther off is another place
    const now = all.find(({ place, d }) => d <= least + AS_NEAR_MM && place.now)?.place.now;
    return now && { height: now.height, at: [at[0] + now.by[0], at[1] + now.by[1]] };
  }

  private isWhole(): boolean {
    return this.pairs.reduce((sum, p) => sum + p.before.length, 0) === this.before.indices.length / 3;
  }

  private look(): Place[] {
    const { before, after, pairs } = this;
    const facesBefore = pairs.map((p) => p.before);
    const facesAfter = pairs.map((p) => p.after);
    const [was, is] = [whereFacesMeet(before, facesBefore), whereFacesMeet(after, facesAfter)];
    return KINDS.flatMap(([kind, every]) =>
      [...was[kind]].flatMap(([key, old]): Place[] => {
        const from = levelOf(before, old);
        const same = is[kind].get(key) ?? [];
        const height = levelOf(after, same);
        if (from === undefined) return [];
        const [a, b] = [middleOf(before, old), middleOf(after, same)];
        const now = height === undefined ? undefined : { height, by: [b[0] - a[0], b[1] - a[1]] as const };
        return [{ kind, from, now, distanceTo: distanceInPlan(before, old, every) }];
      }),
    );
  }
}

/** Where all places of one height went, where they went together and none of those that make the height is gone. */
function agreed(level: readonly Place[]): { height: number } | undefined {
  const makers = KINDS.map(([kind]) => level.filter((p) => p.kind === kind)).filter((some) => some.length > 0);
  const [first, ...others] = level.flatMap(({ now }) => now ?? []);
  const isSure = makers.at(-1)?.every((p) => p.now) && others.every((o) => Math.abs(o.height - first!.height) < AT_MM);
  return first && isSure ? { height: first.height } : undefined;
}

/** Corners of triangles, three a face's triangle, two an edge's side, one a corner's vertex; by the faces that meet there. */
interface Meetings {
  readonly faces: Map<string, number[]>;
  readonly edges: Map<string, number[]>;
  readonly corners: Map<string, number[]>;
}

function whereFacesMeet({ indices, positions }: TriangleMesh, faces: readonly (readonly number[])[]): Meetings {
  const found: Meetings = { faces: new Map(), edges: new Map(), corners: new Map() };
  const vertices = positions.length / 3;
  /** The face at the one side of an edge, by its two ends. */
  const sides = new Map<number, number>();
  const around = new Map<number, Set<number>>();
  faces.forEach((triangles, face) => {
    const corners: number[] = [];
    for (const t of triangles)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [indices[3 * t + k]!, indices[3 * t + ((k + 1) % 3)]!];
        corners.push(a);
        const own = around.get(a);
        if (own) own.add(face);
        else around.set(a, new Set([face]));
        const edge = Math.min(a, b) * vertices + Math.max(a, b);
        const other = sides.get(edge);
        sides.set(edge, face);
        if (other === undefined || other === face) continue;
        const key = `${Math.min(other, face)} ${Math.max(other, face)}`;
        const ends = found.edges.get(key);
        if (ends) ends.push(a, b);
        else found.edges.set(key, [a, b]);
      }
    found.faces.set(String(face), corners);
  });
  const twice = new Set<string>();
  for (const [vertex, own] of around) {
    if (own.size < 3) continue;
    const key = [...own].sort((a, b) => a - b).join(' ');
    if (found.corners.has(key)) twice.add(key);
    found.corners.set(key, [vertex]);
  }
  // the same faces meet at several corners: which is which is not known
  for (const key of twice) found.corners.delete(key);
  return found;
}

/** Height of corners that lie level, mm; undefined for none. */
function levelOf({ positions: p }: TriangleMesh, corners: readonly number[]): number | undefined {
  let [low, high] = [Infinity, -Infinity];
  for (const c of corners) {
    low = Math.min(low, p[3 * c + 2]!);
    high = Math.max(high, p[3 * c + 2]!);
  }
  return corners.length > 0 && high - low < LEVEL_MM ? (low + high) / 2 : undefined;
}

function middleOf({ positions: p }: TriangleMesh, corners: readonly number[]): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  for (const c of corners) for (let k = 0; k < 3; k++) sum[k]! += p[3 * c + k]! / corners.length;
  return sum;
}

/** Distance in plan to corners, to the lines between every two of them, or to the triangles of every three. */
function distanceInPlan(
  { positions: p }: TriangleMesh,
  corners: readonly number[],
  every: 1 | 2 | 3,
): Place['distanceTo'] {
  const inPlan = (k: number): Vec3 => [p[3 * corners[k]!]!, p[3 * corners[k]! + 1]!, 0];
  return (x, y) => {
    const at: Vec3 = [x, y, 0];
    let least = Infinity;
    for (let k = 0; k < corners.length && least > 0; k += every) {
      const [a, b, c] = [inPlan(k), inPlan(k + (every > 1 ? 1 : 0)), inPlan(k + every - 1)];
      least = Math.min(least, every === 3 ? distanceToTriangle(at, [a, b, c]) : distanceToSegment(at, a, b));
    }
    return least;
  };
}
