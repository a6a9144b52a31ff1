import {
  addPicks,
  CancelFlag,
  type Crew,
  type FacePick,
  facesPicked,
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
  togglePick,
  type TriangleMesh,
  type Vec3,
} from '@esquisse/core';
import { proxyMarker } from 'comlink';
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

  readonly [proxyMarker] = true;

  /** @param meshes the part of the job that is open; throws when there is none */
  constructor(
    private readonly meshes: () => DrawnMeshes,
    private readonly crewFor: (cancel: Int32Array) => Crew,
  ) {}

  /** Worked out by a helper when it is first asked for. */
  async survey(lay: Lay, cancel?: Int32Array): Promise<Survey> {
    return (await this.at(lay, cancel)).survey;
  }

  /** What is meant by a place on a triangle of the part, in the laid frame; `reach` in mm. */
  async pick(lay: Lay, triangle: number, point: Vec3, reach: number): Promise<Picked> {
    const looked = await this.at(lay);
    const { faceOf, holes } = await looked.survey;
    looked.surface ??= surfaceOf(looked.mesh);
    return pickAt(looked.surface, faceOf, holes, triangle, point, reach);
  }

  /** Outlines in plan view of what lies under triangles of the part, in the laid frame. */
  outlines(lay: Lay, triangles: readonly number[]): Point2[][] {
    return outlinesUnder(layMesh(this.meshes().part, lay), triangles);
  }

  /** Triangles of the part that belong to picked faces. */
  facesLit(picks: readonly FacePick[]): number[] {
    const { marks } = facesPicked(this.meshes().part, picks);
    return [...marks.keys()].filter((t) => marks[t]);
  }

  /** Picked faces with that of a triangle added, or taken away when it is among them. */
  facesToggled(picks: readonly FacePick[], triangle: number): readonly FacePick[] {
    return togglePick(this.meshes().part, picks, triangle);
  }

  /** Picked faces with all that hold one of these triangles. */
  facesAdded(picks: readonly FacePick[], triangles: readonly number[]): readonly FacePick[] {
    return addPicks(this.meshes().part, picks, triangles);
  }

  private async at(lay: Lay, cancel: Int32Array = new CancelFlag().cell): Promise<Looked> {
    const meshes = this.meshes();
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
