/** Colours of what stands on the bench, for day and night; see the style sheet for the rest of the page. */
export interface Palette {
  paper: string;
  sheet: string;
  rule: string;
  ink: string;
  pencil: string;
  plaster: string;
  /** Steel that was cut, and steel as it came. */
  graphite: string;
  graphiteSide: string;
  flutes: string;
  shank: string;
  holder: string;
  /** How dark the shadow on the ground is, 0 to 1. */
  shadow: number;
  indigo: string;
  ochre: string;
  sanguine: string;
  verdigris: string;
}

export const DAY: Palette = {
  paper: '#f4f1ea',
  sheet: '#fbfaf6',
  rule: '#d9d4c7',
  ink: '#22252a',
  pencil: '#6c6a64',
  plaster: '#e8e2d4',
  graphite: '#868e97',
  graphiteSide: '#666a70',
  flutes: '#b9ad84',
  shank: '#8f949b',
  holder: '#6b7078',
  shadow: 0.2,
  indigo: '#3c4c86',
  ochre: '#c08a2b',
  sanguine: '#b4472e',
  verdigris: '#2e7d74',
};

export const NIGHT: Palette = {
  paper: '#1e2023',
  sheet: '#26292d',
  rule: '#41444a',
  ink: '#e9e4d8',
  pencil: '#a29d92',
  plaster: '#cfc8b8',
  graphite: '#747b84',
  graphiteSide: '#666a70',
  flutes: '#b9ad84',
  shank: '#8f949b',
  holder: '#6b7078',
  shadow: 0.75,
  indigo: '#93a3dc',
  ochre: '#dcae58',
  sanguine: '#e07f66',
  verdigris: '#6fbfb4',
};

/** Red, green and blue, 0 to 1. */
export type Rgb = readonly [number, number, number];

export function rgb(hex: string): Rgb {
  return [1, 3, 5].map((k) => parseInt(hex.slice(k, k + 2), 16) / 255) as unknown as Rgb;
}

/** From `a` at 0 to `b` at 1. */
export function mix(a: Rgb, b: Rgb, t: number): Rgb {
  return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
}

/** Places of the leftover ramp from nothing to much: plaster, through a light and a middle indigo, to indigo. */
const RAMP: readonly [number, Rgb][] = [
  [0, rgb('#efe9db')],
  [0.25, rgb('#c4c6d3')],
  [0.55, rgb('#8790b8')],
  [1, rgb('#343f78')],
];
const GOUGE = rgb('#b4472e');
const CLOSE = rgb('#c08a2b');

/**
 * Colour of steel left: sanguine below the part by more than `tolerance`, ochre within the last tenth of it, else a ramp
 * from plaster to indigo at `high` (all mm).
 */
export function leftoverColour(value: number, high: number, tolerance: number): Rgb {
  if (value < -tolerance) return GOUGE;
  if (value < -0.9 * tolerance) return CLOSE;
  return rampColour(value / high);
}

/** The ramp of all lenses, from plaster at 0 to indigo at 1. */
export function rampColour(share: number): Rgb {
  const t = Math.min(1, Math.max(0, share));
  for (let k = 1; k < RAMP.length; k++) {
    const [to, colour] = RAMP[k]!;
    const [from, before] = RAMP[k - 1]!;
    if (t <= to) return mix(before, colour, (t - from) / (to - from));
  }
  return RAMP[RAMP.length - 1]![1];
}

export function css(colour: Rgb): string {
  return `rgb(${colour.map((c) => Math.round(c * 255)).join(' ')})`;
}
