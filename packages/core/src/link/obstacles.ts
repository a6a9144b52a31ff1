import { cutterProfile, holderProfile, shankProfile, type ToolShape } from '../tool/shape';
import type { Box } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import { type Crew, spansOf } from '../crew/crew';
import { FIXTURE_CLEARANCE_MM, type Obstacle } from '../field/bounds';
import { tipRows } from '../field/sampling';
import { tipGridOver } from '../field/tipSurface';

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
export async function obstaclesFor(
  fixtures: ContactMesh | undefined,
  tool: ToolShape,
  plan: Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>,
  lowest: number,
  crew: Crew,
): Promise<Obstacle[]> {
  if (!fixtures) return [];
  const room = FIXTURE_CLEARANCE_MM + SPARE_MM;
  const cutter = cutterProfile(tool);
  const pieces = [
    { z: 0, radius: cutter.radius },
    ...[...shankProfile(tool), ...holderProfile(tool)].map(({ z, radius }) => ({ z, radius })),
  ];
  const obstacles: Obstacle[] = [];
  let widest = 0;
  for (const { z, radius } of pieces) {
    const r = radius + room;
    if (radius <= widest || fixtures.box.maxZ + room - z <= lowest) continue;
    widest = radius;
    const { box } = fixtures;
    if (box.minX - r > plan.maxX || box.maxX + r < plan.minX || box.minY - r > plan.maxY || box.maxY + r < plan.minY)
      continue;
    const spec = {
      mesh: fixtures,
      piece: { kind: 'round' as const, z: 0, flat: r, corner: 0, radius: r },
      side: 0,
      floor: room - z,
    };
    obstacles.push({ grid: tipGridOver(box, r + GRID_MM, GRID_MM), spec });
  }
  for (const { grid, spec } of obstacles)
    await crew.all(
      tipRows,
      spansOf(grid.ny, 24).map((rows) => ({ grid, spec, rows })),
    );
  return obstacles;
}
