import type { Cancel } from '../base/cancel';
import { type Box, boxOfPositions } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import { volumeOf } from '../geometry/mesh';
import type { Vec3 } from '../geometry/vector';
import { chamfersOf } from './chamfers';
import { type Flat, flatsIn, type Hole, holesIn } from './features';
import { type Hidden, hiddenByDirection, hiddenFromAbove } from './seen';
import { type PlanCorners, planCornersOf } from './planCorners';
import { facesOf, middleOf, type Surface } from './surface';
import { type Tightness, tightnessOf } from './tightness';

/** Degrees a bin of the slope histogram. */
export const SLOPE_BIN_DEG = 5;
/** Walls up to this draft are walls, degrees from upright. */
const WALL_DEG = 15;
/** Draft below this is none: degrees. */
const NO_DRAFT_DEG = 0.05;
/** A tenth of a degree that holds this share of the leaning walls is the draft of a wall. */
const WALL_SHARE = 0.02;
/** A worn, wobbling cutter needs this much room: share of the inside radius that it stays under. */
export const ROOM_SHARE = 0.05;
/** Inside radii read from a mesh without faces were up to this share too large (measured on parts with known fillets). */
const MESH_ERROR = 0.05;
/** Stick-out beyond the depth, mm: common practice, no source. */
export const STICK_OUT_MARGIN_MM = 5;
/** A larger share of hidden surface than this is worth a warning. */
export const HIDDEN_SHARE = 0.12;

/** Chamfers are looked for at these angles from level, degrees: those that cutters have. */
const CHAMFER_DEG = [30, 45, 60];
/** Less of them is a speck of freeform ground, mm². */
const LEAST_CHAMFER_MM2 = 5;

/** Chamfers of the part that lean alike. */
export interface ChamferRow {
  /** From level, degrees. */
  angle: number;
  /** mm². */
  area: number;
  /** Height of the highest, mm: it is taken from its upper to its lower end. */
  height: number;
}

/** Walls by how far they lean, mm². */
export interface Draft {
  upright: number;
  upTo1: number;
  upTo3: number;
  upTo5: number;
  more: number;
  /** Smallest draft of a leaning wall, degrees. */
  least?: number;
}

/** The part looked over, in its laid frame, mm. */
export interface Survey {
  box: Box;
  volume: number;
  area: number;
  triangles: number;
  faces: number;
  /** Whether the faces are the file's own: radii are then told more exactly. */
  facesFromFile: boolean;
  /** mm² for each {@link SLOPE_BIN_DEG} from level to upright; the last is what looks down. */
  slope: number[];
  /** Slope from level of each triangle, degrees; above 90 looks down. */
  slopeOf: Float32Array;
  /** Depth of each triangle's middle under the part's top, mm. */
  depthOf: Float32Array;
  /** Area of each triangle, mm². */
  areaOf: Float32Array;
  /** Face number of each triangle. */
  faceOf: Uint32Array;
  tightness: Tightness;
  flats: Flat[];
  holes: Hole[];
  draft: Draft;
  hidden: Hidden;
  directions: { up: Vec3; share: number }[];
  deepest: { depth: number; at: Vec3 };
  chamfers: ChamferRow[];
  /** Inside corners of upright walls. */
  corners: PlanCorners;
}

/** Looks the surface of a laid part over. `contact` is the same mesh. */
export function surveyOf(surface: Surface, contact: ContactMesh, cancel?: Cancel): Survey {
  const { mesh } = surface;
  const { count, normals, areas } = surface;
  const box = boxOfPositions(mesh.positions);
  const bins = Math.round(90 / SLOPE_BIN_DEG);
  const slope = new Array<number>(bins + 1).fill(0);
  const slopeOf = new Float32Array(count);
  const depthOf = new Float32Array(count);
  const draft: Draft = { upright: 0, upTo1: 0, upTo3: 0, upTo5: 0, more: 0 };
  const holes = holesIn(surface);
  const inHole = new Set(holes.flatMap((h) => h.triangles));
  // a blind hole's floor is for a drill, not for the longest end mill
  const drilled = (x: number, y: number): boolean =>
    holes.some((h) => (h.x - x) ** 2 + (h.y - y) ** 2 < (h.diameter / 2) ** 2);
  const deepest = { depth: 0, at: [0, 0, 0] as Vec3 };
  const bare = new Float64Array(WALL_DEG * 10);
  let area = 0;
  for (let t = 0; t < count; t++) {
    const nz = Math.min(1, Math.max(-1, normals[3 * t + 2]!));
    const degrees = (Math.acos(nz) * 180) / Math.PI;
    slopeOf[t] = degrees;
    area += areas[t]!;
    slope[degrees > 90 + NO_DRAFT_DEG ? bins : Math.min(bins - 1, Math.floor(degrees / SLOPE_BIN_DEG))]! += areas[t]!;
    const middle = middleOf(mesh, t);
    depthOf[t] = box.maxZ - middle[2];
    // points and sinks of holes are for drills as well: no hollow of theirs limits an end mill
    if (drilled(middle[0], middle[1])) inHole.add(t);
    else if (nz > 0.1 && depthOf[t]! > deepest.depth && !inHole.has(t))
      Object.assign(deepest, { depth: depthOf[t], at: middle });
    addDraft(draft, bare, 90 - degrees, areas[t]!);
  }
  // bends pass through every angle; a wall is where much of the area stands at one
  const leaning = draft.upTo1 + draft.upTo3 + draft.upTo5 + draft.more;
  const least = bare.findIndex((a) => a > WALL_SHARE * leaning);
  if (least >= 0) draft.least = least / 10;
  const flats = flatsIn(surface);
  const { faceOf, count: faces, fromFile: facesFromFile } = facesOf(surface);
  return {
    box,
    volume: Math.abs(volumeOf(mesh)),
    area,
    triangles: count,
    faces,
    facesFromFile,
    faceOf,
    slope,
    slopeOf,
    depthOf,
    areaOf: Float32Array.from(areas),
    tightness: tightnessOf(surface, faceOf, contact, inHole, cancel),
    flats,
    holes,
    draft,
    hidden: hiddenFromAbove(surface),
    directions: hiddenByDirection(surface),
    deepest,
    corners: planCornersOf(contact, flats, holes),
    chamfers: CHAMFER_DEG.flatMap((angle): ChamferRow[] => {
      const found = chamfersOf(contact, Math.tan((angle * Math.PI) / 180));
      const area = found.reduce((sum, chamfer) => sum + chamfer.area, 0);
      if (area < LEAST_CHAMFER_MM2) return [];
      const height = Math.max(...found.map(({ low, high }) => high - low));
      return [{ angle, area, height }];
    }),
  };
}

/** `tenths` gathers the area of leaning walls by tenths of a degree. */
function addDraft(draft: Draft, tenths: Float64Array, degrees: number, area: number): void {
  if (degrees < -NO_DRAFT_DEG || degrees > WALL_DEG) return;
  if (degrees < NO_DRAFT_DEG) draft.upright += area;
  else {
    if (degrees <= 1) draft.upTo1 += area;
    else if (degrees <= 3 + NO_DRAFT_DEG) draft.upTo3 += area;
    else if (degrees <= 5 + NO_DRAFT_DEG) draft.upTo5 += area;
    else draft.more += area;
    tenths[Math.min(tenths.length - 1, Math.floor(degrees * 10))]! += area;
  }
}

/**
 * Largest corner radius that a cutter may have to get into every hollow: 5 % under the tightest inside radius, and under
 * what its measuring may be wrong by, mm.
 */
export function largestRadius(tightest: number, facesFromFile = true): number {
  const least = facesFromFile ? tightest : tightest / (1 + MESH_ERROR);
  return Math.floor(least * (1 - ROOM_SHARE) * 100 + 1e-6) / 100;
}

/** What to cut it with, in words. */
export function adviceOf(survey: Survey): string {
  const { tightness, deepest } = survey;
  const tight = tightness.bends[0];
  const radius = tight
    ? `A corner radius of ${largestRadius(tight.value, survey.facesFromFile).toFixed(2)} mm or less gets into every hollow: the tightest inside radius is ${tight.value.toFixed(2)} mm${survey.facesFromFile ? '' : ', to 5 % on a mesh without faces'}, and a worn, wobbling cutter needs 5 % room.`
    : 'No smooth hollow limits the corner radius.';
  const sharp =
    tightness.sharp.length > 0.5
      ? ` ${tightness.sharp.length.toFixed(0)} mm of inside edges are sharp: no round cutter clears those wholly.`
      : '';
  const depth = ` The deepest place is ${deepest.depth.toFixed(1)} mm under the top and asks for a stick-out of about ${Math.ceil(deepest.depth + STICK_OUT_MARGIN_MM)} mm.`;
  return radius + sharp + depth;
}
