import { type Crib, type Tool, toolOf } from '../tool/library';
import { type Conditions, type CuttingFigures, cuttingOf } from '../load/stepCutting';
import { kindOf } from '../strategy/registry';
import { shapeOf } from '../tool/shape';
import type { Job, Step } from './job';
import { cuttingData } from '../load/cuttingData';
import { MOST_BENDING_MM } from '../load/loadAlong';

/** What a step asks of tool and machine at its speed and feed. */
export interface StepLoad {
  /** Engagement angle, degrees, and largest chip thickness, mm. */
  phi: number;
  chip: number;
  /** kW. */
  power: number;
  /** Bending at the tip, mm. */
  deflection: number;
  /** What is more than machine or cutter should bear, in words. */
  warning?: string;
}

/** Speed and feeds of a step, from its cut, the crib and what was set by hand. */
export function stepCutting(
  { material, setup }: Pick<Job, 'material' | 'setup'>,
  step: Step,
  tool: Tool,
): CuttingFigures {
  const { machine, stiffness } = setup;
  const cut = kindOf(step.kind)!.bind(step.values).cut(shapeOf(tool));
  return cuttingOf(step.cutting, tool, cut, { material, machine, stiffness });
}

/** Load of a cut as deep as `ap` and as wide as `ae`, mm, at a speed n, 1/min, and a feed fz, mm. */
export function stepLoad(
  job: Pick<Job, 'material' | 'setup'>,
  tool: Tool,
  { ae, ap }: { ae: number; ap: number },
  { n, fz }: Pick<CuttingFigures, 'n' | 'fz'>,
): StepLoad {
  const { machine } = job.setup;
  const boundless = { ...machine, power: 1e9, torque: 1e9, maxFeed: 1e9, maxSpindle: 1e9, minSpindle: 1e-9 };
  const { stickOut } = tool.assembly;
  const d = cuttingData({
    cutter: tool.cutter,
    stickOut,
    extensions: tool.extensions,
    material: job.material,
    machine: boundless,
    cut: 'rough',
    ae,
    ap,
    stiffness: job.setup.stiffness,
    overrides: { n, fz },
  });
  const warnings = [
    d.Pc.value > machine.power ? `takes ${d.Pc.value.toFixed(1)} kW, the spindle has ${machine.power}` : '',
    d.Mc.value > machine.torque ? `takes ${d.Mc.value.toFixed(1)} Nm, the spindle has ${machine.torque}` : '',
    n > machine.maxSpindle ? `turns ${n} 1/min, the spindle ${machine.maxSpindle}` : '',
    d.vf.value > machine.maxFeed ? `feeds ${Math.round(d.vf.value)} mm/min, the machine ${machine.maxFeed} mm/min` : '',
    d.deflection.value > (tool.assembly.mostBending ?? MOST_BENDING_MM)
      ? `bends the cutter by ${d.deflection.value.toFixed(2)} mm`
      : '',
    ap > (tool.cutter.mostAp ?? Infinity) ? `is ${ap} mm deep, the cutter bears ${tool.cutter.mostAp} mm` : '',
    ae > (tool.cutter.mostAe ?? Infinity) ? `is ${ae} mm wide, the cutter bears ${tool.cutter.mostAe} mm` : '',
  ].filter(Boolean);
  return {
    phi: d.phi.value,
    chip: d.hex.value,
    power: d.Pc.value,
    deflection: d.deflection.value,
    ...(warnings.length > 0 ? { warning: `This cut ${warnings.join('; ')}.` } : {}),
  };
}

/** n and fz of all assemblies that follow a cut, worked out again for the job as it is. */
export function withFollowingData(job: Job): Job {
  const { machine, stiffness } = job.setup;
  const crib = cribFollowing(job.crib, { material: job.material, machine, stiffness });
  return crib === job.crib ? job : { ...job, crib };
}

/** A crib with n and fz of all its assemblies that follow a cut worked out for some conditions; the very same when they are. */
export function cribFollowing(crib: Crib, conditions: Conditions): Crib {
  let changed = false;
  const assemblies = crib.assemblies.map((a) => {
    const tool = a.data && toolOf(crib, a.id);
    if (!a.data || !tool) return a;
    const { cutter, extensions } = tool;
    const figures = cuttingData({ cutter, extensions, stickOut: a.stickOut, ...conditions, ...a.data });
    const n = Math.max(1, Math.round(figures.n.value));
    const fz = Math.max(1e-4, Math.round(figures.fz.value * 1e4) / 1e4);
    if (n === a.n && fz === a.fz) return a;
    changed = true;
    return { ...a, n, fz };
  });
  return changed ? { ...crib, assemblies } : crib;
}
