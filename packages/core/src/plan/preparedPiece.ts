import { toolOf } from '../cutter/library';
import { EsquisseError } from '../errors';
import { type Box, translateBox } from '../geometry/box';
import { type ContactMesh, contactMesh } from '../geometry/contactMesh';
import { translateMesh, type TriangleMesh } from '../geometry/mesh';
import { sharedFloat32 } from '../geometry/shared';
import { AS_DRAWN, layMesh } from '../part/lay';
import type { Limit } from '../region/bounds';
import { standsOut } from '../stock/blank';
import type { HeightMap } from '../stock/heightMap';
import { partTops } from '../stock/partTops';
import { kindOf } from '../strategy/registry';
import { fixtureBoxes, fixtureMesh } from './fixtures';
import { blankProblems, blockBox, laidBoxes, workZeroPoint } from './frame';
import type { Drilled, Job, StepLimit } from './job';
import { drill, startingSteel } from './startingSteel';

/**
 * Cells that the stock's map has when the job does not say: fine enough to see a scallop band, small enough to be quick. Four
 * times as many where passes lie so close that a cell would cover more than {@link CELL_OF_STEP} of the way between two.
 */
const CELLS = 420_000;
const CELL_OF_STEP = 0.6;
const FINEST_CELL_MM = 0.05;
/** A part may stand out of a cast or turned blank by this where cells are coarse, mm. */
const OUT_OF_BLANK_MM = 0.05;

/** Bodies beside the part, in the frame of its file. */
export interface BesidePart {
  blank?: TriangleMesh;
  fixtures?: TriangleMesh[];
}

/** A job's part, blank and fixtures, laid and made ready; all in the frame of the work zero, mm. */
export class PreparedPiece {
  private partKey = '';
  private part?: ContactMesh;
  private partMap?: HeightMap;
  private block?: HeightMap;
  private blockKey = '';
  /** Holes that were drilled before. */
  drilled: Drilled[] = [];
  private fixtures?: ContactMesh;
  private box?: Box;
  /** Work zero in the laid frame. */
  private zero: readonly [number, number, number] = [0, 0, 0];
  /** What keeps the job as it is from being machined; its steps are then never fresh. */
  private problem = '';

  /** Changes whenever the part, the steel at the beginning or what keeps it from being machined does. */
  get key(): string {
    return `${this.blockKey}${this.problem}`;
  }

  /** Part in the frame of the work zero. @throws EsquisseError when there is none yet */
  get machinedPart(): ContactMesh {
    if (!this.part) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.part;
  }

  /** The steel that the work begins with. @throws EsquisseError when there is no part, or what keeps it from being machined */
  get fullBlock(): HeightMap {
    this.refuseProblem();
    if (!this.block) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.block;
  }

  /**
   * Takes the job's part, blank and fixtures in.
   *
   * @param mesh the part in its file's frame; `meshKey` changes whenever it or one of the bodies beside it does
   * @throws EsquisseError `job-invalid` when the block does not hold the part, or the machine not the block
   */
  prepare(job: Job, mesh: TriangleMesh, meshKey: string, beside: BesidePart = {}): void {
    const lay = job.part?.lay ?? AS_DRAWN;
    const part = layMesh(mesh, lay);
    const blank = beside.blank && layMesh(beside.blank, lay);
    const boxes = laidBoxes(part, blank);
    this.problem = blankProblems(job, boxes).join(' ');
    this.refuseProblem();
    this.zero = workZeroPoint(job, boxes);
    const { zero } = this;
    const [x, y, z] = zero;
    const partKey = `${meshKey}@${JSON.stringify(lay)}${x},${y},${z}`;
    if (partKey !== this.partKey) {
      this.part = contactMesh(translateMesh(part, -x, -y, -z));
      this.partKey = partKey;
      this.blockKey = '';
    }
    const block = translateBox(blockBox(job, boxes), -x, -y, -z);
    const cell = job.cell ?? cellFor(job, (block.maxX - block.minX) * (block.maxY - block.minY));
    const blockKey = `${partKey}|${JSON.stringify([job.blank, job.drilled, cell, job.setup.fixtures])}`;
    if (blockKey === this.blockKey) return;
    this.blockKey = '';
    this.box = block;
    const held = fixtureMesh(
      job.setup.fixtures.flatMap((f) => fixtureBoxes(f, block)),
      (beside.fixtures ?? []).map((f) => translateMesh(layMesh(f, lay), -x, -y, -z)),
    );
    this.fixtures = held && contactMesh(held);
    this.block = startingSteel(job.blank, block, cell, zero, blank);
    this.drilled = job.drilled.map((h) => ({ ...h, x: h.x - x, y: h.y - y, bottom: h.bottom - z }));
    drill(this.block, this.drilled);
    this.partMap = undefined;
    const whole = job.blank.kind === 'offset' || job.blank.kind === 'fixed';
    const out = whole && this.drilled.length === 0 ? undefined : standsOut(this.partTops, this.block, OUT_OF_BLANK_MM);
    if (!out) {
      this.blockKey = blockKey;
      return;
    }
    const place = `at X ${out.x.toFixed(1)} Y ${out.y.toFixed(1)}`;
    this.problem = whole
      ? `A hole drilled before goes ${out.amount.toFixed(2)} mm into the part ${place}; make it less deep or move it.`
      : `The part stands out of the blank by ${out.amount.toFixed(2)} mm ${place}; give the blank more allowance or move it.`;
    this.refuseProblem();
  }

  /** Box of the blank in the frame of the work zero, mm. */
  get blockBox(): Box {
    if (!this.box) throw new EsquisseError('job-invalid', 'There is no part yet.', 'part');
    return this.box;
  }

  /** What holds the block, in the frame of the work zero. */
  get heldBy(): ContactMesh | undefined {
    return this.fixtures;
  }

  /** Refuses to work anything out until the piece is prepared anew. */
  refuse(problem: string): void {
    this.problem = problem;
  }

  /** @throws EsquisseError what keeps the job as it is from being machined */
  refuseProblem(): void {
    if (this.problem) throw new EsquisseError('job-invalid', this.problem, 'blank');
  }

  /** The part's highest points on the cells of the block. */
  get partTops(): HeightMap {
    if (this.partMap) return this.partMap;
    const block = this.fullBlock;
    this.partMap = { ...block, heights: sharedFloat32(block.heights.length) };
    partTops(this.machinedPart, this.partMap);
    return this.partMap;
  }

  /** A limit of a step, in the frame of the work zero. */
  inWorkZero({ points, ...limit }: StepLimit): Limit {
    const [x, y] = this.zero;
    return { ...limit, ring: Float64Array.from(points.flatMap(([px, py]) => [px - x, py - y])) };
  }

  /** Highest steel at the beginning, mm. */
  topOfBlock(): number {
    return this.fullBlock.heights.reduce((top, h) => (h > top ? h : top), -Infinity);
  }
}

/** Side of a cell of the stock's map for a block of `area` mm² in plan, mm: by the memory, and by the closest passes. */
function cellFor(job: Job, area: number): number {
  const wide = Math.sqrt(area / CELLS);
  const steps = job.steps.map((step) => {
    const tool = toolOf(job.crib, step.assemblyId);
    const kind = kindOf(step.kind);
    const values = kind?.schema.safeParse(step.values);
    return (tool && values?.success && kind?.sideStep?.(values.data, tool)) || Infinity;
  });
  return Math.max(FINEST_CELL_MM, wide > CELL_OF_STEP * Math.min(...steps) ? wide / 2 : wide);
}
