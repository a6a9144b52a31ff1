import { sharedFloat32 } from '../base/shared';
import type { Engagement } from '../simulate/engagement';
import type { Tool } from '../tool/library';
import { barsOf } from './cuttingData';
import type { Machine } from './machine';
import type { Material } from './material';
import { CHIP_SHARE, GROUP_CHIP } from './practice';
import { effectiveDiameter, teethInCut, tipDeflection, unevenPitch } from './quantities';

/** What is told of the load along a path, in the terms of ISO 3002 and in the units that people read. */
export const LOAD_QUANTITIES = [
  { id: 'angle', name: 'Engagement angle', symbol: 'φ', unit: '°', decimals: 0 },
  { id: 'width', name: 'Width in steel', symbol: 'ae', unit: 'mm', decimals: 2 },
  { id: 'depth', name: 'Depth in steel', symbol: 'ap', unit: 'mm', decimals: 2 },
  { id: 'chip', name: 'Largest chip thickness', symbol: 'hex', unit: 'mm', decimals: 4 },
  { id: 'meanChip', name: 'Mean chip thickness', symbol: 'hm', unit: 'mm', decimals: 4 },
  { id: 'force', name: 'Cutting force, mean', symbol: 'Fc', unit: 'N', decimals: 0 },
  { id: 'power', name: 'Cutting power', symbol: 'Pc', unit: 'kW', decimals: 2 },
  { id: 'torque', name: 'Torque', symbol: 'Mc', unit: 'Nm', decimals: 2 },
  { id: 'bending', name: 'Bending at the tip', symbol: 'δ', unit: 'mm', decimals: 4 },
] as const;
export type LoadQuantity = (typeof LOAD_QUANTITIES)[number]['id'];

/** What turns an engagement into forces: speed (1/min) and all that cuts and bends. */
export interface LoadConditions {
  readonly n: number;
  readonly tool: Tool;
  readonly material: Pick<Material, 'kc11' | 'mc' | 'group'>;
  readonly machine: Pick<Machine, 'power' | 'torque'>;
}

/** A thinner chip than this is reckoned as if it were this thick, mm: kc grows without end. */
const THINNEST_MM = 1e-4;
/** No rim is reckoned narrower than this share of DC: at the very tip of a ball no speed and no force can be told. */
const LEAST_RIM = 0.01;
/** Bending beyond this leaves its mark on the next step, mm: common practice, no source. */
export const MOST_BENDING_MM = 0.1;
/** A chip this many times as thick as the one aimed at breaks edges: common practice, no source. */
const MOST_CHIP = 1.5;

/** Limits of machine and assembly, where there are any. */
export function loadLimits({ tool, machine, material }: LoadConditions): Partial<Record<LoadQuantity, number>> {
  const { assembly, cutter } = tool;
  return {
    power: machine.power,
    torque: machine.torque,
    bending: assembly.mostBending ?? MOST_BENDING_MM,
    chip: assembly.mostChip ?? MOST_CHIP * CHIP_SHARE.rough * GROUP_CHIP[material.group] * cutter.DC,
    ...(cutter.mostAp === null ? {} : { depth: cutter.mostAp }),
    ...(cutter.mostAe === null ? {} : { width: cutter.mostAe }),
  };
}

/** All that the load of an engagement depends on, beside the feed. */
export function loadKey(conditions: LoadConditions): unknown[] {
  const { n, tool, material } = conditions;
  const { DC, RE, ZEFP, FHA, largestPitch } = tool.cutter;
  return [
    n,
    DC,
    RE,
    ZEFP,
    FHA,
    largestPitch,
    bendingPerForce(tool),
    material.kc11,
    material.mc,
    loadLimits(conditions),
  ];
}

/** Bending at the tip by a force of 1 N, mm. */
function bendingPerForce({ cutter, assembly, extensions }: Tool): number {
  return tipDeflection(1, barsOf({ cutter, stickOut: assembly.stickOut, extensions }));
}

/** The load of one stretch at a feed per tooth, mm. */
export type Load = Readonly<Record<LoadQuantity, number>>;

/** Works out the load of stretches of a path. */
export class LoadAlong {
  private readonly bent: number;
  private readonly uneven: number;

  constructor(
    private readonly engagement: Engagement,
    private readonly conditions: LoadConditions,
  ) {
    this.bent = bendingPerForce(conditions.tool);
    this.uneven = unevenPitch(conditions.tool.cutter);
  }

  /**
   * The load of stretch k at a feed vf, mm/min.
   *
   * Mean chip thickness hm = fz A / S from the area A that is taken off per length and the surface S that does it; power
   * Pc = A vf kc with kc = kc1.1 hm^-mc (Kienzle 1952). The force Fc is that power over the speed of the edge, on the mean of the
   * time in which a tooth cuts. In a straight cut these are the figures of the cutting data.
   */
  at(k: number, vf: number): Load {
    const { engagement: e, bent } = this;
    const { n, material, tool } = this.conditions;
    const { DC, RE, ZEFP, FHA } = tool.cutter;
    const fz = vf / (ZEFP * n);
    const [area, surface, angle, depth] = [e.area[k]!, e.surface[k]!, e.angle[k]!, e.depth[k]!];
    const meanChip = surface > 0 ? Math.min(fz, (fz * area) / surface) : 0;
    const kc = material.kc11 * Math.pow(Math.max(THINNEST_MM, meanChip), -material.mc);
    const power = (area * vf * kc) / 60e6;
    // the rim that cuts is no narrower than what it meets
    const rim = Math.max(effectiveDiameter(DC, RE, depth), e.width[k]!, LEAST_RIM * DC) / 2;
    const arc = Math.max(angle, e.width[k]! / rim);
    const mean = (60e6 * power) / (2 * Math.PI * rim * n);
    const force =
      arc > 0 ? (mean * teethInCut(ZEFP, arc, depth, rim, FHA ?? undefined)) / ((ZEFP * arc) / (2 * Math.PI)) : mean;
    return {
      angle: (angle * 180) / Math.PI,
      width: e.width[k]!,
      depth,
      chip: fz * e.chip[k]! * this.uneven,
      meanChip,
      force,
      power,
      torque: (9549 * power) / n,
      bending: force * bent,
    };
  }

  /** The load of all stretches, at the feeds of the motions in which they end, mm/min. */
  all(feed: Float32Array): Readonly<Record<LoadQuantity, Float32Array>> {
    const { motion } = this.engagement;
    const out = Object.fromEntries(LOAD_QUANTITIES.map(({ id }) => [id, sharedFloat32(motion.length)]));
    for (let k = 0; k < motion.length; k++) {
      const load = this.at(k, feed[motion[k]!]!);
      for (const { id } of LOAD_QUANTITIES) out[id]![k] = load[id];
    }
    return out as Record<LoadQuantity, Float32Array>;
  }
}
