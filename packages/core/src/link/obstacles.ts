import { cutterProfile, cuttingPiece, holderProfile, shankProfile, type ToolShape } from '../tool/shape';
import type { Box } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import { type Crew, spansOf } from '../crew/crew';
import type { FaceLimits } from '../field/faceLimits';
import { FIXTURE_CLEARANCE_MM, type Obstacle } from '../field/bounds';
import { tipRows } from '../field/sampling';
import { tipGridOver } from '../field/tipSurface';
import { type Profile, withClearance } from '../tool/profile';

/** Kept beyond the clearance that is asked for, mm: what rounding and chords may take of it. */
const SPARE_MM = 0.1;
/** Step of the grid on which borders around fixtures are looked for, mm. */
const GRID_MM = 1;

/**
 * Fixtures as surfaces that cutter, shank and holder keep the clearance from: one for each piece of the tool that could
 * come down to them.
 *
 * @param lowest lowest height that the tip may go to, mm
 */
export function obstaclesFor(
  fixtures: ContactMesh | undefined,
  tool: ToolShape,
  plan: PlanRange,
  lowest: number,
  crew: Crew,
): Promise<Obstacle[]> {
  if (!fixtures) return Promise.resolve([]);
  const room = FIXTURE_CLEARANCE_MM + SPARE_MM;
  const cutter = { z: -room, radius: cuttingPiece(tool).radius + room };
  const above = withClearance([...shankProfile(tool), ...holderProfile(tool)], room, room);
  return surfacesOver(fixtures, [cutter, ...above], plan, lowest, crew);
}

/** The part as surfaces that what stands above the edges keeps off, each piece as wide as it is anywhere. */
export function bodyObstacles(
  part: ContactMesh,
  body: Profile,
  plan: PlanRange,
  lowest: number,
  crew: Crew,
): Promise<Obstacle[]> {
  return surfacesOver(part, body, plan, lowest, crew);
}

/** Faces of the part that a cutter keeps clear of, as tip surfaces of the cutter grown by the distance. */
export async function faceObstacles(faces: FaceLimits | undefined, tool: ToolShape, crew: Crew): Promise<Obstacle[]> {
  const piece = cutterProfile(tool);
  const obstacles = (faces?.clear ?? []).map(({ mesh, distance }): Obstacle => ({
    grid: tipGridOver(mesh.box, piece.radius + distance + GRID_MM, GRID_MM),
    spec: { mesh, piece, side: distance, floor: distance },
  }));
  await filled(obstacles, crew);
  return obstacles;
}

async function filled(obstacles: readonly Obstacle[], crew: Crew): Promise<void> {
  for (const { grid, spec } of obstacles)
    await crew.all(
      tipRows,
      spansOf(grid.ny, 24).map((rows) => ({ grid, spec, rows })),
    );
}

type PlanRange = Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>;

/** Heights that the tip keeps above something, for discs that stand over it one above another. */
async function surfacesOver(
  mesh: ContactMesh,
  discs: readonly { readonly z: number; readonly radius: number }[],
  plan: PlanRange,
  lowest: number,
  crew: Crew,
): Promise<Obstacle[]> {
  const obstacles: Obstacle[] = [];
  let widest = 0;
  for (const { z, radius: r } of discs) {
    if (r <= widest || mesh.box.maxZ - z <= lowest) continue;
    widest = r;
    const { box } = mesh;
    if (box.minX - r > plan.maxX || box.maxX + r < plan.minX || box.minY - r > plan.maxY || box.maxY + r < plan.minY)
      continue;
    const spec = {
      mesh,
      piece: { kind: 'round' as const, z: 0, flat: r, corner: 0, radius: r },
      side: 0,
      floor: -z,
    };
    obstacles.push({ grid: tipGridOver(box, r + GRID_MM, GRID_MM), spec });
  }
  await filled(obstacles, crew);
  return obstacles;
}
