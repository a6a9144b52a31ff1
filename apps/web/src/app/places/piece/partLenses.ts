import { ROOMY_MM, SLOPE_BIN_DEG, type Survey } from '@esquisse/core';
import { rampColour, type Rgb } from '../../bench/palette';
import { length, unitOf } from '../../shared/units';

/** A figure that each corner of the part's triangles has. */
export interface PartField {
  /** Value at corner `c` (0 to 2) of triangle `t`. */
  at: (t: number, c: number) => number;
  /** Bins of the histogram: their lower ends, in order; the last one has no upper end. */
  ends: readonly number[];
  /** Bins that have their name written beside them. */
  named: (bin: number) => string;
  /** From `from` to `to`, in words; `to` is infinite in the last bin. */
  told: (from: number, to: number) => string;
  colour: (value: number, wrong: Rgb) => Rgb;
}

/** A lens on the part. */
export interface PartLens {
  id: string;
  name: string;
  /** What it colours by; without it the part is plaster. */
  field?: (survey: Survey) => PartField;
  title?: string;
}

const upTo = (count: number, step: number): number[] => Array.from({ length: count }, (_, k) => k * step);

/** Steeper than upright by more than this looks down, degrees. */
const DOWN_DEG = 0.5;
const DEPTH_BINS = 16;

function slope(survey: Survey): PartField {
  const bins = Math.round(90 / SLOPE_BIN_DEG);
  return {
    at: (t) => {
      const degrees = survey.slopeOf[t]!;
      return degrees > 90 + DOWN_DEG ? degrees : Math.min(degrees, 90 - 1e-6);
    },
    ends: upTo(bins + 1, SLOPE_BIN_DEG),
    named: (bin) => (bin === bins ? 'down' : bin % 3 === 0 ? `${bin * SLOPE_BIN_DEG}°` : ''),
    told: (from, to) => (from >= 90 ? 'looks down' : `${from}° to ${to === Infinity ? 'down' : `${to}°`}`),
    colour: (value, wrong) => (value > 90 + DOWN_DEG ? wrong : rampColour(value / 90)),
  };
}

function tightness(survey: Survey): PartField {
  return {
    at: (t, c) => survey.tightness.radius[3 * t + c]!,
    ends: upTo(ROOMY_MM + 1, 1),
    named: (bin) => (bin === ROOMY_MM ? `${ROOMY_MM} up` : bin % 4 === 0 ? `R ${bin}` : ''),
    told: (from, to) => (to === Infinity ? `R ${from} and more` : `R ${from} to ${to}`),
    // tight places are dark
    colour: (r) => rampColour(r >= ROOMY_MM ? 0 : 1 - Math.log(1 + r) / Math.log(1 + ROOMY_MM)),
  };
}

function depth(survey: Survey): PartField {
  const deepest = survey.box.maxZ - survey.box.minZ || 1;
  const step = deepest / DEPTH_BINS;
  return {
    at: (t) => survey.depthOf[t]!,
    ends: upTo(DEPTH_BINS, step),
    named: (bin) => (bin % 4 === 0 ? length(bin * step, 1) : ''),
    told: (from, to) => `${length(from, 1)} to ${length(Math.min(to, deepest), 1)} ${unitOf('mm')} deep`,
    colour: (value) => rampColour(value / deepest),
  };
}

function hidden(survey: Survey): PartField {
  const isHidden = new Uint8Array(survey.triangles);
  for (const t of survey.hidden.triangles) isHidden[t] = 1;
  return {
    at: (t) => isHidden[t]!,
    ends: [0, 1],
    named: (bin) => (bin === 0 ? 'seen' : 'hidden'),
    told: (from) => (from === 0 ? 'seen from above' : 'not seen from above'),
    colour: (value, wrong) => (value > 0 ? wrong : rampColour(0)),
  };
}

/** The lenses of the place Piece, in the order in which they are offered. */
export const PART_LENSES: readonly PartLens[] = [
  { id: 'plain', name: 'Plain' },
  { id: 'slope', name: 'Slope', title: 'Slope from level', field: slope },
  { id: 'tightness', name: 'Inside radius', title: 'Radius of a ball that fits', field: tightness },
  { id: 'depth', name: 'Depth', title: 'Depth under the top', field: depth },
  { id: 'hidden', name: 'Not seen from above', title: 'Seen from above', field: hidden },
];

export function partLens(id: string): PartLens {
  return PART_LENSES.find((l) => l.id === id) ?? PART_LENSES[0]!;
}

/** The bin of a value. */
export function binOf(field: PartField, value: number): number {
  let bin = field.ends.length - 1;
  while (bin > 0 && value < field.ends[bin]!) bin--;
  return bin;
}

/** Area in each bin, in mm², from the mean of each triangle's corners. */
export function areasIn(field: PartField, survey: Survey): number[] {
  const out = new Array<number>(field.ends.length).fill(0);
  for (let t = 0; t < survey.triangles; t++) out[binOf(field, meanAt(field, t))]! += survey.areaOf[t]!;
  return out;
}

export function meanAt(field: PartField, t: number): number {
  return (field.at(t, 0) + field.at(t, 1) + field.at(t, 2)) / 3;
}
