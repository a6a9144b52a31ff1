import {
  CancelFlag,
  type Crew,
  type Lay,
  layMesh,
  outlinesUnder,
  pickAt,
  type Picked,
  type Point2,
  type Surface,
  surfaceOf,
  type Survey,
  surveyTask,
  type TriangleMesh,
  type Vec3,
} from '@esquisse/core';
import type { DrawnMeshes } from './pieceFiles';

/** A part as it lies one way, and what it was found to be. */
interface Looked {
  readonly key: string;
  readonly mesh: TriangleMesh;
  readonly survey: Promise<Survey>;
  surface?: Surface;
}

/** The part looked over, for the way it lies that was asked for last. */
export class PartLook {
  private last?: Looked | undefined;

  constructor(private readonly crewFor: (cancel: Int32Array) => Crew) {}

  /** Worked out by a helper when it is first asked for. */
  async survey(meshes: DrawnMeshes, lay: Lay, cancel?: Int32Array): Promise<Survey> {
    return (await this.at(meshes, lay, cancel)).survey;
  }

  /** What is meant by a place on a triangle of the part, in the laid frame; `reach` in mm. */
  async pick(meshes: DrawnMeshes, lay: Lay, triangle: number, point: Vec3, reach: number): Promise<Picked> {
    const looked = await this.at(meshes, lay);
    const { faceOf, holes } = await looked.survey;
    looked.surface ??= surfaceOf(looked.mesh);
    return pickAt(looked.surface, faceOf, holes, triangle, point, reach);
  }

  /** Outlines in plan view of what lies under triangles of the part, in the laid frame. */
  outlines(meshes: DrawnMeshes, lay: Lay, triangles: readonly number[]): Point2[][] {
    return outlinesUnder(layMesh(meshes.part, lay), triangles);
  }

  private async at(meshes: DrawnMeshes, lay: Lay, cancel: Int32Array = new CancelFlag().cell): Promise<Looked> {
    const key = `${meshes.key}${JSON.stringify(lay)}`;
    let looked = this.last?.key === key ? this.last : undefined;
    if (!looked) {
      const mesh = layMesh(meshes.part, lay);
      const survey = this.crewFor(cancel)
        .all(surveyTask, [{ mesh }])
        .then(([found]) => found!);
      this.last = looked = { key, mesh, survey };
    }
    try {
      await looked.survey;
      return looked;
    } catch (error) {
      // what was called off is begun anew when it is asked for again
      if (this.last === looked) this.last = undefined;
      throw error;
    }
  }
}
