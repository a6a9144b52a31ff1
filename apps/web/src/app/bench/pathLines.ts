import { Motion, NO_CONTACT, SLOW_SHARE, type Toolpath } from '@esquisse/core';
import { BufferAttribute, BufferGeometry, GLSL3, LineSegments, ShaderMaterial, Vector3, Vector4 } from 'three';
import { type Palette, rampColour, rgb, type Rgb } from './palette';

/** What the colours of a path say. */
export type PathColour = 'kind' | 'feed' | 'height' | 'pass' | 'contact';
/** What of a path is drawn: all of it, what was gone, or what is cut in one go or at one height at the playhead. */
export type PathShare = 'all' | 'behind' | 'pass' | 'level';
/** Kinds of motion that are told apart. */
export const PATH_KINDS = ['cut', 'entry', 'link', 'rapid'] as const;
export type PathKind = (typeof PATH_KINDS)[number];

export interface PathView {
  readonly colour: PathColour;
  readonly share: PathShare;
  readonly kinds: readonly PathKind[];
}

/** Of all that the lines of a path cover, no more than this share is inked, so that dense passes do not hide the steel. */
const MOST_INK = 0.16;
/** What lies ahead of the playhead is drawn with this share of the ink. */
const AHEAD = 0.4;
/** Under this share of its speed at DC an edge rubs, percent. */
export const SLOW_PERCENT = 100 * SLOW_SHARE;
/** Length of a dash with its gap, mm. */
const DASH_MM = 4;
/** Cuts at heights nearer than this are at one level, mm. */
const LEVEL_MM = 1e-3;

const VERTEX = /* glsl */ `
  in vec4 about;
  in float pass;
  out vec4 vAbout;
  out float vPass;
  out vec3 vColour;
  void main() {
    vAbout = about;
    vPass = pass;
    vColour = color.rgb;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }
`;

const FRAGMENT = /* glsl */ `
  uniform vec4 kinds;
  uniform vec3 at;
  uniform float share;
  uniform float ink;
  in vec4 vAbout;
  in float vPass;
  in vec3 vColour;
  out vec4 drawn;
  void main() {
    int kind = int(vAbout.z + 0.5);
    bool isBehind = vAbout.x <= at.x + 0.5;
    if (kinds[kind] < 0.5) discard;
    if (share == 1.0 && !isBehind) discard;
    if (share == 2.0 && abs(vPass - at.y) > 0.5) discard;
    if (share == 3.0 && abs(vAbout.w - at.z) > ${LEVEL_MM}) discard;
    if (kind >= 2 && fract(vAbout.y / ${DASH_MM.toFixed(1)}) > 0.5) discard;
    drawn = vec4(vColour, ink * (isBehind ? 1.0 : ${AHEAD}));
  }
`;

const GROUPS = new Map<number, PathKind>([
  [Motion.cut, 'cut'],
  [Motion.entry, 'entry'],
  [Motion.exit, 'entry'],
  [Motion.link, 'link'],
  [Motion.rapid, 'rapid'],
]);

/** The motions of a step as lines: cutting full, ways between cuts dashed; what was gone strong, what lies ahead light. */
export class PathLines {
  readonly object: LineSegments;
  private readonly material: ShaderMaterial;
  /** Number of the pass, and height of the level, of each motion. */
  private readonly passes: Float32Array;
  private readonly levels: Float32Array;
  private readonly length: number;

  constructor(
    readonly path: Toolpath,
    readonly palette: Palette,
    readonly colour: PathColour,
    contact?: Uint8Array,
  ) {
    const n = path.x.length;
    this.passes = passesOf(path);
    this.levels = levelsOf(path);
    const position = new Float32Array(6 * (n - 1));
    const about = new Float32Array(8 * (n - 1));
    const pass = new Float32Array(2 * (n - 1));
    const colours = new Uint8Array(8 * (n - 1));
    const colourOf = colouring(path, palette, colour, this.passes, contact);
    let along = 0;
    for (let i = 1; i < n; i++) {
      const kind = PATH_KINDS.indexOf(GROUPS.get(path.kind[i]!) ?? 'cut');
      const paint = colourOf(i);
      for (let end = 0; end < 2; end++) {
        const k = i - 1 + end;
        const row = 2 * (i - 1) + end;
        if (end === 1)
          along += Math.hypot(path.x[i]! - path.x[i - 1]!, path.y[i]! - path.y[i - 1]!, path.z[i]! - path.z[i - 1]!);
        // written one by one: a path has tens of thousands of motions
        position[3 * row] = path.x[k]!;
        position[3 * row + 1] = path.y[k]!;
        position[3 * row + 2] = path.z[k]!;
        about[4 * row] = i;
        about[4 * row + 1] = along % 1e4;
        about[4 * row + 2] = kind;
        about[4 * row + 3] = this.levels[i]!;
        pass[row] = this.passes[i]!;
        for (let c = 0; c < 3; c++) colours[4 * row + c] = 255 * paint[c]!;
        colours[4 * row + 3] = 255;
      }
    }
    this.length = along;
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(position, 3));
    geometry.setAttribute('about', new BufferAttribute(about, 4));
    geometry.setAttribute('pass', new BufferAttribute(pass, 1));
    geometry.setAttribute('color', new BufferAttribute(colours, 4, true));
    this.material = new ShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      vertexColors: true,
      transparent: true,
      depthWrite: false,
      uniforms: {
        kinds: { value: new Vector4(1, 1, 1, 1) },
        at: { value: new Vector3() },
        share: { value: 0 },
        ink: { value: 1 },
      },
    });
    this.object = new LineSegments(geometry, this.material);
    this.object.frustumCulled = false;
  }

  /** What is drawn, and where the playhead stands. */
  show({ share, kinds }: PathView, motion: number): void {
    const { uniforms } = this.material;
    uniforms['kinds']!.value.fromArray(PATH_KINDS.map((k) => Number(kinds.includes(k))));
    uniforms['at']!.value.set(motion, this.passes[motion] ?? 0, this.levels[motion] ?? 0);
    uniforms['share']!.value = ['all', 'behind', 'pass', 'level'].indexOf(share);
  }

  /** Sets how strong the lines are by how much of the view they cover. */
  inkFor(pixelsPerMm: number, coveredPixels: number): void {
    const share = (this.length * pixelsPerMm) / Math.max(1, coveredPixels);
    this.material.uniforms['ink']!.value = Math.min(
      0.85,
      Math.max(0.06, (this.colour === 'contact' ? 2.5 : 1) * (MOST_INK / share)),
    );
  }

  /**
   * The motion whose end is seen nearest to a place, of those that are drawn.
   *
   * @param seen where a place is seen, pixels
   * @param most farther away than this nothing is meant, pixels
   */
  nearest(
    seen: (x: number, y: number, z: number) => readonly [number, number],
    at: readonly [number, number],
    most: number,
  ): number | undefined {
    const { x, y, z, kind } = this.path;
    const { kinds, at: head, share } = this.material.uniforms;
    let best = most;
    let found: number | undefined;
    let before = seen(x[0]!, y[0]!, z[0]!);
    for (let i = 1; i < x.length; i++) {
      const here = seen(x[i]!, y[i]!, z[i]!);
      const from = before;
      before = here;
      if (kinds!.value.getComponent(PATH_KINDS.indexOf(GROUPS.get(kind[i]!) ?? 'cut')) < 0.5) continue;
      if (share!.value === 1 && i > head!.value.x) continue;
      if (share!.value === 2 && this.passes[i] !== head!.value.y) continue;
      if (share!.value === 3 && Math.abs(this.levels[i]! - head!.value.z) > LEVEL_MM) continue;
      const far = distanceTo(from, here, at);
      if (far >= best) continue;
      best = far;
      found = i;
    }
    return found;
  }
}

/** Runs of cuts are passes; what leads to a pass belongs to it. */
function passesOf(path: Toolpath): Float32Array {
  const passes = new Float32Array(path.kind.length);
  let pass = 0;
  for (let i = 1; i < passes.length; i++) {
    if (path.kind[i] !== Motion.cut && path.kind[i - 1] === Motion.cut) pass++;
    passes[i] = pass;
  }
  return passes;
}

/** Height that a motion ends at; what leads to a cut is of its level. */
function levelsOf({ kind, z }: Toolpath): Float32Array {
  const levels = new Float32Array(kind.length);
  let level = z[z.length - 1] ?? 0;
  for (let i = kind.length - 1; i >= 0; i--) {
    if (kind[i] === Motion.cut) level = z[i]!;
    levels[i] = level;
  }
  return levels;
}

/** The range of what a path's colours tell: feed in mm/min or height in mm. */
export function rangeOf(path: Toolpath, colour: PathColour): readonly [low: number, high: number] {
  const values = colour === 'feed' ? path.feed : path.z;
  let low = Infinity;
  let high = -Infinity;
  for (let i = 1; i < values.length; i++) {
    if (path.kind[i] === Motion.rapid) continue;
    low = Math.min(low, values[i]!);
    high = Math.max(high, values[i]!);
  }
  return low <= high ? [low, high] : [0, 0];
}

/** Where a value lies in a range, 0 to 1, as the ramp of the lenses is read: nothing is as light as the paper. */
export function pathShade(value: number, [low, high]: readonly [number, number]): Rgb {
  return rampColour(0.3 + 0.7 * (high > low ? (value - low) / (high - low) : 1));
}

/** A ball's edge at its contact, in percent of its speed at DC: what rubs stands out. */
export function contactShade(palette: Palette, percent: number): Rgb {
  if (percent === NO_CONTACT) return rgb(palette.pencil);
  return percent < SLOW_PERCENT ? rgb(palette.sanguine) : pathShade(percent, [SLOW_PERCENT, 100]);
}

function colouring(
  path: Toolpath,
  palette: Palette,
  colour: PathColour,
  passes: Float32Array,
  contact?: Uint8Array,
): (i: number) => Rgb {
  const kinds: Record<PathKind, Rgb> = {
    cut: rgb(palette.ink),
    entry: rgb(palette.verdigris),
    link: rgb(palette.pencil),
    rapid: rgb(palette.indigo),
  };
  const range = rangeOf(path, colour);
  const tints = [palette.ink, palette.verdigris, palette.indigo, palette.ochre].map(rgb);
  return (i) => {
    const kind = GROUPS.get(path.kind[i]!) ?? 'cut';
    if (kind === 'rapid' || colour === 'kind') return kinds[kind];
    if (colour === 'feed') return pathShade(path.feed[i]!, range);
    if (colour === 'contact') return contactShade(palette, contact?.[i] ?? NO_CONTACT);
    if (colour === 'height') return pathShade(path.z[i]!, range);
    return tints[passes[i]! % tints.length]!;
  };
}

function distanceTo(a: readonly [number, number], b: readonly [number, number], p: readonly [number, number]): number {
  const [ux, uy] = [b[0] - a[0], b[1] - a[1]];
  const [vx, vy] = [p[0] - a[0], p[1] - a[1]];
  const length = ux * ux + uy * uy;
  const t = length > 0 ? Math.min(1, Math.max(0, (ux * vx + uy * vy) / length)) : 1;
  return Math.hypot(vx - t * ux, vy - t * uy);
}
