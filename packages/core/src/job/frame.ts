import { type Box, boxOfPositions, boxPoint, sizeOf, translateBox } from '../geometry/box';
import type { TriangleMesh } from '../geometry/mesh';
import { laid } from '../part/lay';
import { formatOf } from '../part/read';
import { type UnitDoubt, unitDoubt } from '../part/unit';
import type { Job, ModelFile } from './job';

/** What the block is worked out from: the part's box as it lies, and that of the body that is the blank, mm. */
export interface LaidBoxes {
  part: Box;
  blank?: Box;
}

export function laidBoxes(part: TriangleMesh, blank?: TriangleMesh): LaidBoxes {
  return { part: boxOfPositions(part.positions), blank: blank && boxOfPositions(blank.positions) };
}

/** The box of the blank, in the laid frame of the part's file, mm. */
export function blockBox(job: Pick<Job, 'blank'>, { part, blank }: LaidBoxes): Box {
  const b = job.blank;
  const midX = (part.minX + part.maxX) / 2;
  const midY = (part.minY + part.maxY) / 2;
  switch (b.kind) {
    case 'offset':
      return {
        minX: part.minX - b.minX,
        maxX: part.maxX + b.maxX,
        minY: part.minY - b.minY,
        maxY: part.maxY + b.maxY,
        minZ: part.minZ - b.minZ,
        maxZ: part.maxZ + b.maxZ,
      };
    case 'fixed':
      return around(midX + b.shiftX, midY + b.shiftY, b.sizeX, b.sizeY, part.minZ - b.below, b.sizeZ);
    case 'cylinder':
      return around(midX + b.shiftX, midY + b.shiftY, b.diameter, b.diameter, part.minZ - b.below, b.height);
    case 'outline': {
      const plan = boxOfPositions(b.points.flatMap(([x, y]) => [x, y, 0]));
      return { ...plan, minZ: part.minZ - b.below, maxZ: part.maxZ + b.above };
    }
    case 'body': {
      const box = blank ?? part;
      const a = b.allowance;
      return {
        minX: box.minX - a,
        maxX: box.maxX + a,
        minY: box.minY - a,
        maxY: box.maxY + a,
        minZ: Math.min(box.minZ, part.minZ),
        maxZ: box.maxZ + a,
      };
    }
  }
}

function around(x: number, y: number, sizeX: number, sizeY: number, minZ: number, sizeZ: number): Box {
  return {
    minX: x - sizeX / 2,
    maxX: x + sizeX / 2,
    minY: y - sizeY / 2,
    maxY: y + sizeY / 2,
    minZ,
    maxZ: minZ + sizeZ,
  };
}

/** The work zero in the laid frame of the part's file, mm. */
export function workZeroPoint(job: Pick<Job, 'blank' | 'setup' | 'part'>, boxes: LaidBoxes): [number, number, number] {
  const zero = job.setup.workZero;
  if (zero.of === 'picked' && job.part) return laid(job.part.lay, zero.at);
  return boxPoint(zero.of === 'part' ? boxes.part : blockBox(job, boxes), zero);
}

/** The block in the frame of the work zero, mm. */
export function blockInSetup(job: Pick<Job, 'blank' | 'setup' | 'part'>, boxes: LaidBoxes): Box {
  const [x, y, z] = workZeroPoint(job, boxes);
  return translateBox(blockBox(job, boxes), -x, -y, -z);
}

const BOX_SLACK_MM = 1e-6;
/** A body that was machined already may lie below the part by the tolerance it was cut to, mm. */
const BODY_SLACK_MM = 0.05;

/** Sentences on what keeps a block from holding its part, or the machine from reaching it; empty when nothing does. */
export function blankProblems(job: Pick<Job, 'blank' | 'setup' | 'part'>, boxes: LaidBoxes): string[] {
  const { part } = boxes;
  const block = blockBox(job, boxes);
  const { machine } = job.setup;
  const problems: string[] = [];
  for (const [axis, low, high] of [
    ['X', 'minX', 'maxX'],
    ['Y', 'minY', 'maxY'],
    ['Z', 'minZ', 'maxZ'],
  ] as const) {
    const missing = Math.max(block[low] - part[low], part[high] - block[high]);
    if (missing > (job.blank.kind === 'body' ? BODY_SLACK_MM : BOX_SLACK_MM))
      problems.push(
        `The part stands out of the block by ${missing.toFixed(3)} mm in ${axis}; make the block larger in ${axis} or move it.`,
      );
    const size = block[high] - block[low];
    const travel = machine[`travel${axis}`];
    if (size > travel)
      problems.push(
        `The block is ${size.toFixed(1)} mm long in ${axis}, but ${machine.name} travels ${travel} mm; turn the piece or choose another machine.`,
      );
  }
  const doubt = problems.length > 0 && job.part && sizeDoubt(job.part, part);
  return doubt ? [...problems, doubt.sentence] : problems;
}

/** A doubt about the size of a part, whose box is that of its laid body. */
export function sizeDoubt(part: ModelFile, box: Box): UnitDoubt | undefined {
  return unitDoubt(Math.max(...sizeOf(box)), part.unit, formatOf(part.file).hasUnit);
}
