import { type Box, boxPoint, translateBox } from '../geometry/box';
import type { Job } from './job';

/** The block around a part, in the frame of the part's file, mm. */
export function blockBox(job: Pick<Job, 'blank'>, part: Box): Box {
  const b = job.blank;
  if (b.kind === 'offset')
    return {
      minX: part.minX - b.minX,
      maxX: part.maxX + b.maxX,
      minY: part.minY - b.minY,
      maxY: part.maxY + b.maxY,
      minZ: part.minZ - b.minZ,
      maxZ: part.maxZ + b.maxZ,
    };
  const x = (part.minX + part.maxX) / 2;
  const y = (part.minY + part.maxY) / 2;
  const z = part.minZ - b.below;
  return {
    minX: x - b.sizeX / 2,
    maxX: x + b.sizeX / 2,
    minY: y - b.sizeY / 2,
    maxY: y + b.sizeY / 2,
    minZ: z,
    maxZ: z + b.sizeZ,
  };
}

/** The work zero in the frame of the part's file, mm. */
export function workZeroPoint(job: Pick<Job, 'blank' | 'setup'>, part: Box): [number, number, number] {
  const zero = job.setup.workZero;
  return boxPoint(zero.of === 'part' ? part : blockBox(job, part), zero);
}

/** The block in the frame of the work zero, mm. */
export function blockInSetup(job: Pick<Job, 'blank' | 'setup'>, part: Box): Box {
  const [x, y, z] = workZeroPoint(job, part);
  return translateBox(blockBox(job, part), -x, -y, -z);
}

const BOX_SLACK_MM = 1e-6;

/** Sentences on what keeps a block from holding its part; empty when it does. */
export function blankProblems(job: Pick<Job, 'blank'>, part: Box): string[] {
  const block = blockBox(job, part);
  const problems: string[] = [];
  for (const [axis, low, high] of [
    ['X', 'minX', 'maxX'],
    ['Y', 'minY', 'maxY'],
    ['Z', 'minZ', 'maxZ'],
  ] as const) {
    const missing = Math.max(block[low] - part[low], part[high] - block[high]);
    if (missing > BOX_SLACK_MM)
      problems.push(
        `The part stands out of the block by ${missing.toFixed(3)} mm in ${axis}; make the block larger in ${axis} or move it.`,
      );
  }
  return problems;
}
