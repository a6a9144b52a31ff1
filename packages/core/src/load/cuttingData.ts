import { type Cut, CUT_WORDS, isAxial } from '../tool/cuts';
import { type Cutter, type Extension, feedRate, shankStack, spindleSpeed } from '../tool/library';
import type { Frustum } from '../tool/profile';
import { upTo } from '../tool/shape';
import type { Machine } from './machine';
import type { Material } from './material';
import {
  CHIP_SHARE,
  ENTRY_SHARE,
  GRADE_SPEED,
  GROUP_CHIP,
  hardnessFactor,
  MOST_THINNING,
  overhangFactor,
  PLUNGE_SHARE,
  SPEEDS,
  STIFFNESS,
} from './practice';
import {
  type Bar,
  cuttingForce,
  effectiveDiameter,
  engagementAngle,
  FLUTED_SHARE,
  HOUSE_HELIX_DEG,
  largestChip,
  meanChip,
  STEEL_E,
  teethInCut,
  tipDeflection,
  unevenPitch,
} from './quantities';

export interface CuttingInput {
  cutter: Cutter;
  stickOut: number;
  /** Between cutter and holder, from the cutter up. */
  extensions?: readonly Extension[];
  material: Material;
  machine: Machine;
  cut: Cut;
  /** mm. */
  ae: number;
  ap: number;
  /** Index into {@link STIFFNESS}. */
  stiffness: number;
  /** Values that a person set instead. */
  overrides?: Partial<Record<OverrideKey, number>>;
}
export type OverrideKey = 'vc' | 'n' | 'fz';

export type FigureKey =
  | 'Deff'
  | 'phi'
  | 'vc'
  | 'n'
  | 'fz'
  | 'hex'
  | 'hm'
  | 'vf'
  | 'vEntry'
  | 'vPlunge'
  | 'Fc'
  | 'Pc'
  | 'Mc'
  | 'deflection'
  | 'Q';

/** A figure with its reason. */
export interface Figure {
  key: FigureKey;
  symbol: string;
  name: string;
  value: number;
  unit: string;
  decimals: number;
  formula: string;
  /** The formula with the values put in. */
  put: string;
  source: string;
  /** The machine's limit that holds this figure, in words. */
  limit?: string;
  overridden?: boolean;
}

const f = (value: number, decimals = 2): string => String(Number(value.toFixed(decimals)));

/** All figures of a cut, each with its formula, the values put in, and its source. */
export function cuttingData(input: CuttingInput): Record<FigureKey, Figure> {
  const { cutter, material, machine, cut, ap, overrides = {} } = input;
  const ae = cut === 'slot' ? cutter.DC : Math.min(input.ae, cutter.DC);
  const out = {} as Record<FigureKey, Figure>;
  const tell = (figure: Figure): number => {
    out[figure.key] = figure;
    return figure.value;
  };
  const Deff = tell({
    key: 'Deff',
    symbol: 'Deff',
    name: 'Effective diameter',
    value: effectiveDiameter(cutter.DC, cutter.RE, ap),
    unit: 'mm',
    decimals: 2,
    formula: cutter.RE > 0 ? 'DC - 2 RE + 2 sqrt(ap (2 RE - ap)), DC from ap = RE up' : 'DC',
    put: `DC ${cutter.DC}, RE ${cutter.RE}, ap ${f(ap, 3)}`,
    source: 'geometry of the corner',
  });
  const phi = tell({
    key: 'phi',
    symbol: 'φ',
    name: 'Engagement angle',
    value: engagementAngle(Math.min(ae, Deff), Deff),
    unit: '°',
    decimals: 1,
    formula: 'arccos(1 - 2 ae / Deff)',
    put: `ae ${f(ae, 3)}, Deff ${f(Deff)}`,
    source: 'ISO 3002-3 quantities; geometry',
  });
  const grade = GRADE_SPEED[cutter.grade];
  const hard = hardnessFactor(material.group, material.hardness);
  const wanted = overrides.vc ?? SPEEDS[material.group][cut] * grade * hard;
  const free = overrides.n ?? spindleSpeed(wanted, Deff);
  const n = Math.max(machine.minSpindle, Math.min(machine.maxSpindle, free));
  const nLimit =
    free > machine.maxSpindle
      ? `the spindle's ${machine.maxSpindle} 1/min hold it back from ${Math.round(free)}`
      : free < machine.minSpindle
        ? `the spindle does not turn slower than ${machine.minSpindle} 1/min`
        : undefined;
  tell({
    key: 'vc',
    symbol: 'vc',
    name: 'Cutting speed',
    value: (Math.PI * Deff * n) / 1000,
    unit: 'm/min',
    decimals: 0,
    formula:
      overrides.n !== undefined || nLimit
        ? 'π Deff n / 1000'
        : 'by ISO 513 group and kind of cut x cutting material x hardness',
    put:
      overrides.n !== undefined || nLimit
        ? `Deff ${f(Deff)}, n ${Math.round(n)}`
        : overrides.vc !== undefined
          ? `${wanted}, set by hand`
          : `group ${material.group}, ${CUT_WORDS[cut]}: ${SPEEDS[material.group][cut]} x ${grade} (${cutter.grade}) x ${f(hard)} (${material.hardness === null ? 'hardness not given' : `${material.hardness} HBW`})`,
    source: 'common practice, no source',
    limit: nLimit,
    overridden: overrides.vc !== undefined,
  });
  tell({
    key: 'n',
    symbol: 'n',
    name: 'Spindle speed',
    value: n,
    unit: '1/min',
    decimals: 0,
    formula: '1000 vc / (π Deff)',
    put: `vc ${f(wanted, 0)}, Deff ${f(Deff)}`,
    source: 'ISO 3002 quantities',
    limit: nLimit,
    overridden: overrides.n !== undefined,
  });
  const stiff = STIFFNESS[input.stiffness] ?? STIFFNESS[1];
  const bars = barsOf(input);
  const standsOut = bars.reduce((sum, bar) => sum + bar.length, 0);
  const overhang = isAxial(cut) ? 1 : overhangFactor(standsOut, cutter.DC);
  const chip = CHIP_SHARE[cut] * GROUP_CHIP[material.group] * cutter.DC;
  const thinning = Math.min(MOST_THINNING, 1 / Math.max(1e-3, largestChip(1, phi)));
  const pitch = cut === 'tap' && cutter.TP > 0 ? cutter.TP / cutter.ZEFP : undefined;
  const fzWanted = pitch ?? overrides.fz ?? chip * thinning * overhang * stiff.factor;
  const forced = forces({ ...input, ae }, Deff, phi, n, fzWanted);
  const bind = pitch ? UNBOUND : binding(machine, cutter.ZEFP, n, fzWanted, forced);
  const fz = fzWanted * bind.factor;
  tell({
    key: 'fz',
    symbol: 'fz',
    name: 'Feed per tooth',
    value: fz,
    unit: 'mm',
    decimals: 4,
    formula: pitch ? 'TP / z' : 'chip share x DC x thinning 1 / sin φ x overhang x stiffness',
    put: pitch
      ? `TP ${cutter.TP}, z ${cutter.ZEFP}`
      : `${CHIP_SHARE[cut]} x ${GROUP_CHIP[material.group]} x ${cutter.DC} x ${f(thinning)} x ${f(overhang)} (L/D ${f(standsOut / cutter.DC, 1)}) x ${stiff.factor} (${stiff.words})`,
    source: pitch ? 'a tap goes its pitch in a turn' : 'common practice, no source; thinning by geometry',
    limit: bind.words,
    overridden: overrides.fz !== undefined,
  });
  tell({
    key: 'hex',
    symbol: 'hex',
    name: 'Largest chip thickness',
    value: unevenPitch(cutter) * largestChip(fz, phi),
    unit: 'mm',
    decimals: 4,
    formula: `fz sin φ, fz from 90° up${cutter.largestPitch === null ? '' : ', x largest pitch z / 360°'}`,
    put: `fz ${f(fz, 4)}, φ ${f(phi, 1)}°${cutter.largestPitch === null ? '' : `, pitch ${f(cutter.largestPitch, 1)}°`}`,
    source: 'geometry',
  });
  const hm = tell({
    key: 'hm',
    symbol: 'hm',
    name: 'Mean chip thickness',
    value: meanChip(fz, Math.min(ae, Deff), Deff, phi),
    unit: 'mm',
    decimals: 4,
    formula: 'fz ae / (Deff / 2 φ)',
    put: `fz ${f(fz, 4)}, ae ${f(Math.min(ae, Deff), 3)}, φ ${f(phi, 1)}°`,
    source: 'geometry: area of the chip over its length',
  });
  const vf = tell({
    key: 'vf',
    symbol: 'vf',
    name: 'Feed',
    value: feedRate(fz, cutter.ZEFP, n),
    unit: 'mm/min',
    decimals: 0,
    formula: 'fz z n',
    put: `fz ${f(fz, 4)}, z ${cutter.ZEFP}, n ${Math.round(n)}`,
    source: 'ISO 3002 quantities',
    limit: bind.words,
  });
  for (const [key, symbol, name, share] of [
    ['vEntry', 'vf entry', 'Feed into steel, sloping', ENTRY_SHARE],
    ['vPlunge', 'vf plunge', 'Feed straight down', PLUNGE_SHARE],
  ] as const)
    tell({
      key,
      symbol,
      name,
      value: share * vf,
      unit: 'mm/min',
      decimals: 0,
      formula: `${share} vf`,
      put: `vf ${Math.round(vf)}`,
      source: 'common practice, no source',
    });
  const { Fc, Pc, Mc, teeth } = forces({ ...input, ae }, Deff, phi, n, fz);
  tell({
    key: 'Fc',
    symbol: 'Fc',
    name: 'Cutting force, mean',
    value: Fc,
    unit: 'N',
    decimals: 0,
    formula: `kc1.1 ap hm^(1 - mc) x teeth in the cut, with a helix of ${cutter.FHA ?? HOUSE_HELIX_DEG}°`,
    put: `${material.kc11} x ${f(ap, 3)} x ${f(hm, 4)}^(1 - ${material.mc}) x ${f(teeth)}`,
    source: 'Kienzle 1952; kc1.1 and mc of the material',
  });
  tell({
    key: 'Pc',
    symbol: 'Pc',
    name: 'Cutting power',
    value: Pc,
    unit: 'kW',
    decimals: 2,
    formula: 'ap ae vf kc / 60 000 000, kc = kc1.1 hm^-mc',
    put: `${f(ap, 3)} x ${f(ae, 3)} x ${Math.round(vf)} x ${Math.round(material.kc11 * Math.pow(Math.max(hm, 1e-6), -material.mc))}`,
    source: 'Kienzle 1952; volume removed',
    limit: bind.which === 'power' ? bind.words : undefined,
  });
  tell({
    key: 'Mc',
    symbol: 'Mc',
    name: 'Torque',
    value: Mc,
    unit: 'Nm',
    decimals: 2,
    formula: '9549 Pc / n',
    put: `Pc ${f(Pc)}, n ${Math.round(n)}`,
    source: 'mechanics',
    limit: bind.which === 'torque' ? bind.words : undefined,
  });
  tell({
    key: 'deflection',
    symbol: 'δ',
    name: 'Bending at the tip',
    value: isAxial(cut) ? 0 : tipDeflection(Fc, bars),
    unit: 'mm',
    decimals: 4,
    formula: 'Fc / 3 Σ (z₂³ - z₁³) / (E I), I = π d⁴ / 64, z from the tip; flutes as 0.8 DC',
    put: `Fc ${f(Fc, 0)}; ${bars.map((bar) => `${f(bar.length, 1)} of ⌀ ${f(bar.diameter, 1)}${bar.modulus ? ' steel' : ''}`).join(', ')}`,
    source: 'beam theory; carbide; the holder as stiff',
  });
  tell({
    key: 'Q',
    symbol: 'Q',
    name: 'Removal rate',
    value: (ap * ae * vf) / 1000,
    unit: 'cm³/min',
    decimals: 1,
    formula: 'ap ae vf / 1000',
    put: `${f(ap, 3)} x ${f(ae, 3)} x ${Math.round(vf)}`,
    source: 'ISO 3002 quantities',
  });
  return out;
}

/** A frustum as the bar that stands for it. */
const barOf = ({ bottomDiameter, topDiameter, length }: Frustum): Bar => ({
  length,
  diameter: (bottomDiameter + topDiameter) / 2,
});

/** What bends: flutes, neck and shank, then extensions, from the tip up. */
export function barsOf({
  cutter,
  stickOut,
  extensions = [],
}: Pick<CuttingInput, 'cutter' | 'stickOut' | 'extensions'>): Bar[] {
  const flutes = Math.min(cutter.APMX, stickOut);
  return [
    { length: flutes, diameter: FLUTED_SHARE * cutter.DC },
    ...upTo(shankStack(cutter), stickOut - flutes).map(barOf),
    ...extensions.flatMap((e) => e.stack.map((f) => ({ ...barOf(f), modulus: STEEL_E }))),
  ].filter((bar) => bar.length > 0 && bar.diameter > 0);
}

function forces(input: CuttingInput, Deff: number, phi: number, n: number, fz: number) {
  const { cutter, material, ap, ae } = input;
  const hm = meanChip(fz, Math.min(ae, Deff), Deff, phi);
  const teeth = teethInCut(cutter.ZEFP, (phi * Math.PI) / 180, ap, Deff / 2, cutter.FHA ?? undefined);
  const Fc = cuttingForce(material.kc11, material.mc, ap, hm) * teeth;
  const kc = material.kc11 * Math.pow(Math.max(hm, 1e-6), -material.mc);
  const Pc = (ap * ae * feedRate(fz, cutter.ZEFP, n) * kc) / 60e6;
  return { Fc, Pc, Mc: (9549 * Pc) / n, teeth, mc: material.mc };
}

const UNBOUND = { which: '', factor: 1, words: undefined };

/** Which limit of the machine binds, and by what factor the feed gives way: power grows as the feed to the 1 - mc. */
function binding(
  machine: Machine,
  teeth: number,
  n: number,
  fz: number,
  { Pc, Mc, mc }: { Pc: number; Mc: number; mc: number },
) {
  const vf = feedRate(fz, teeth, n);
  const limits: { which: string; factor: number; words: string }[] = [
    {
      which: 'feed',
      factor: machine.maxFeed / vf,
      words: `the machine's largest feed of ${machine.maxFeed} mm/min holds it`,
    },
    {
      which: 'power',
      factor: Math.pow(machine.power / Pc, 1 / (1 - mc)),
      words: `the spindle's ${machine.power} kW hold it`,
    },
    {
      which: 'torque',
      factor: Math.pow(machine.torque / Mc, 1 / (1 - mc)),
      words: `the spindle's ${machine.torque} Nm hold it`,
    },
  ];
  const least = limits.reduce((a, b) => (b.factor < a.factor ? b : a));
  return least.factor < 1 ? least : UNBOUND;
}
