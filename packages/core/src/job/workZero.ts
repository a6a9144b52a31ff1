import { type Lay, unlaid } from '../part/lay';
import type { Vec3 } from '../geometry/vector';
import { blockBox, type LaidBoxes, workZeroPoint } from './frame';
import type { Job, WorkZero } from './job';

type Placed = Pick<Job, 'blank' | 'setup' | 'part'>;

/** The work zero at a place of the laid frame that was picked as a whole, such as a corner or a hole. */
export function zeroAtPick({ setup, part }: Placed, at: Vec3, what: string): WorkZero {
  return { ...setup.workZero, of: 'picked', at: unlaid(part!.lay, at), what, axes: undefined };
}

/** The work zero moved along one axis (0 to 2) to where a picked face stands, the other axes where they were. */
export function zeroOnAxis(job: Placed, boxes: LaidBoxes, axis: 0 | 1 | 2, value: number, what: string): WorkZero {
  const at = workZeroPoint(job, boxes);
  at[axis] = value;
  const words = [...axisWords(job, boxes)] as [string, string, string];
  words[axis] = what;
  const { lay } = job.part!;
  return { ...job.setup.workZero, of: 'picked', at: unlaid(lay, at), what: 'picked places', axes: { lay, words } };
}

/** What is probed for each axis. */
function axisWords(job: Placed, boxes: LaidBoxes): readonly [string, string, string] {
  const zero = job.setup.workZero;
  if (zero.of === 'picked') {
    const { axes } = zero;
    if (axes && job.part && isSame(axes.lay, job.part.lay)) return axes.words;
    const whole = `the ${zero.what || 'picked place'}`;
    return [whole, whole, whole];
  }
  const box = zero.of === 'part' ? boxes.part : blockBox(job, boxes);
  const whole = zero.of === 'part' ? 'the finished part' : 'the block';
  const face = `the middle of the ${trim(box.maxX - box.minX)} x ${trim(box.maxY - box.minY)} mm face`;
  const side = (axis: 'X' | 'Y', level: WorkZero['x']): string =>
    level === 'middle' ? face : `the ${level === 'low' ? '-' : '+'}${axis} side`;
  const top = {
    high: `the top of ${whole}`,
    low: `the surface under ${whole}`,
    middle: `top and underside of ${whole}, half the height between`,
  }[zero.z];
  return [side('X', zero.x), side('Y', zero.y), top];
}

function isSame(a: Lay, b: Lay): boolean {
  return (['x', 'z'] as const).every((k) => a[k].every((v, i) => Math.abs(v - b[k][i]!) < 1e-9));
}

/** What the operator does to find the work zero: one sentence. */
export function probeSentence(job: Placed, boxes: LaidBoxes): string {
  const zero = job.setup.workZero;
  const end = `and set ${job.setup.workOffset} there.`;
  const [x, y, z] = axisWords(job, boxes);
  if (zero.of === 'picked') {
    if (x === y && y === z) return `Probe ${x} ${end}`;
    const plan = x === y ? `in X and Y ${x}` : `in X ${x}, in Y ${y}`;
    return `Probe in Z ${z}, ${plan}, ${end}`;
  }
  let plan: string;
  if (zero.x === 'middle' && zero.y === 'middle') plan = x;
  else if (zero.x !== 'middle' && zero.y !== 'middle') plan = `the corner of ${x} and ${y}`;
  else plan = zero.x === 'middle' ? `${y} and, in X, ${x}` : `${x} and, in Y, ${y}`;
  return `Probe ${z}, ${plan}, ${end}`;
}

const trim = (value: number): string => String(Math.round(value * 100) / 100);
