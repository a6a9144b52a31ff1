import { type Bounds, BoundsTest, closedAreas } from '../field/bounds';
import type { Box } from '../geometry/box';
import type { Polygon } from '../geometry/polygon';
import { PathBuilder } from '../path/toolpath';
import { coarseMap } from '../steel/coarse';
import type { HeightMap } from '../steel/heightMap';
import { type BodyRoom, bodyWithRoom, cutterProfile } from '../tool/shape';
import type { LeftOut, StepContext, StepPlan } from './context';
import { bodyObstacles, faceObstacles, obstaclesFor } from './obstacles';
import { Travel, travelTool } from './travel';

/** Side of a cell of the map by which entries and links are planned, in cells of the steel. */
const COARSE = 2;

/** A rectangle in plan view, mm. */
export type PlanBox = Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>;

/** What every kind of step works with: where its axis may go, and how its path begins. */
export interface Workspace {
  readonly bounds: Bounds;
  readonly test: BoundsTest;
  /** Begins a path. */
  readonly begin: () => Growing;
}

/** A path that grows, and how the tool gets from cut to cut of it. */
export interface Growing {
  readonly path: PathBuilder;
  readonly travel: Travel;
  /** Leaves the work upward and gives the plan. */
  readonly finish: (leftOut: readonly LeftOut[]) => StepPlan;
}

/**
 * @param plan where the axis may go without limits
 * @param steel what stands when the step begins
 * @param leaves what steps that cut level by level leave on the part, mm: what stands above the edges keeps off that as well
 */
export async function workspaceOf(
  context: StepContext,
  plan: PlanBox,
  steel: HeightMap = context.steel,
  leaves?: number,
): Promise<Workspace> {
  const { part, tool, limits, faces, fixtures, crew, safeZ, rawTop, room } = context;
  const body = room.safe && bodyWithRoom(tool, grownBy(room.safe, leaves ?? 0));
  const bounds: Bounds = {
    closed: closedAreas(limits, cutterProfile(tool).radius, ringOf(plan)),
    obstacles: [
      ...(await obstaclesFor(fixtures, tool, plan, context.steel.floor, crew)),
      ...(await faceObstacles(faces, tool, crew)),
      ...(body && leaves !== undefined ? await bodyObstacles(part, body, plan, context.steel.floor, crew) : []),
    ],
    only: faces?.only?.others && { own: faces.only.own, others: faces.only.others, piece: cutterProfile(tool) },
    body: body && leaves === undefined ? { mesh: part, profile: body } : undefined,
  };
  const test = new BoundsTest(bounds);
  const begin = (): Growing => {
    const path = new PathBuilder();
    const travel = new Travel(
      path,
      coarseMap(steel, COARSE),
      travelTool(tool),
      safeZ,
      rawTop,
      (x, y) => test.lowest(x, y),
      room,
    );
    const finish = (leftOut: readonly LeftOut[]): StepPlan => {
      travel.leave();
      return { path: path.build(), leftOut };
    };
    return { path, travel, finish };
  };
  return { bounds, test, begin };
}

const grownBy = ({ shank, holder }: BodyRoom, by: number): BodyRoom => ({ shank: shank + by, holder: holder + by });

/** How far outside what is cut the axis may run, beyond the cutter's radius, mm. */
export const OUTSIDE_MM = 1;

/** Where the axis may go to cut what lies in a box, with a cutter that reaches so far sideways, mm. */
export function planAround({ minX, minY, maxX, maxY }: PlanBox, reach: number): PlanBox {
  const by = reach + OUTSIDE_MM;
  return { minX: minX - by, minY: minY - by, maxX: maxX + by, maxY: maxY + by };
}

/** A rectangle as a ring, counter-clockwise. */
export function ringOf({ minX, minY, maxX, maxY }: PlanBox): Polygon {
  return Float64Array.of(minX, minY, maxX, minY, maxX, maxY, minX, maxY);
}
