import { EsquisseError } from '../errors';
import { Motion, PathBuilder, type Toolpath } from '../path/toolpath';
import { arcPoints, type ArcPlane } from './arc';
import { type Block, readBlocks, type Word } from './words';

const INCH = 25.4;
/** Where the control stands before the first motion and after a tool change, mm above the work zero. */
export const HOME_Z = 1000;
/** Height that a peck of G73 goes back, and that G83 stops above the last depth, mm. */
const PECK_BACK_MM = 0.254;

/** What one cutter does between two tool changes. `lines[i]` is the program line of point i. */
export interface ControlRun {
  tool: number;
  path: Toolpath;
  lines: number[];
  /** Number of the length offset that its feed motions ran with; undefined for none, or for several. */
  lengthOffset?: number;
}

/** What the simulated control made of a program. */
export interface ControlResult {
  runs: ControlRun[];
  /** Things that a control would refuse or ignore, with their lines; a program with any is not released. */
  complaints: { line: number; text: string }[];
}

/** Modal groups of G words that are understood (after RS274/NGC: Kramer, Proctor, Messina, NISTIR 6556, from memory). */
const GROUPS: Readonly<Record<string, readonly number[]>> = {
  motion: [0, 1, 2, 3, 73, 80, 81, 82, 83, 84, 85, 86, 89],
  plane: [17, 18, 19],
  distance: [90, 91],
  feedMode: [93, 94],
  units: [20, 21],
  cutterRadius: [40, 41, 42],
  length: [43, 49],
  back: [98, 99],
  offset: [54, 55, 56, 57, 58, 59, 59.1, 59.2, 59.3],
  once: [4, 28, 53],
};
const M_WORDS: readonly number[] = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 30];
const VALUE_LETTERS = 'XYZIJKRFSTHDPQL';
const CYCLES: readonly number[] = [73, 81, 82, 83, 84, 85, 86, 89];

/**
 * Runs word-address text on a simulated control: every motion that it would make, tool by tool, in the frame of the work
 * zero, mm. All work offsets are that frame.
 *
 * @throws EsquisseError `program-invalid` when the text cannot be split into words
 */
export function runControl(text: string): ControlResult {
  const control = new Control();
  for (const block of readBlocks(text)) {
    if (control.ended) break;
    control.block(block);
  }
  return control.result();
}

type Values = Partial<Record<string, number>>;

class Control {
  ended = false;
  private readonly runs: ControlRun[] = [];
  private readonly complaints: { line: number; text: string }[] = [];
  private builder = new FeedBuilder();
  private lines: number[] = [];
  private length?: number;
  /** Length offsets that the run's feed motions had. */
  private readonly lengths = new Set<number | undefined>();
  private tool = 0;
  private waiting = 0;
  private line = 0;
  private at: [number, number, number] = [0, 0, HOME_Z];
  private motion = -1;
  private plane: ArcPlane = 17;
  private absolute = true;
  private unit = 1;
  private feed = 0;
  private spindle = 0;
  private turning = false;
  private backToStart = true;
  private cycle = { r: 0, z: 0, q: 0, initial: 0 };

  block(block: Block): void {
    this.line = block.line;
    const g: number[] = [];
    const m: number[] = [];
    const values: Values = {};
    for (const word of block.words) this.sort(word, g, m, values);
    this.refuseClashes(g);
    this.settings(g, m, values);
    if (g.includes(4)) return;
    if (g.includes(28) || g.includes(53)) {
      this.goHome(values);
      return;
    }
    const motion = g.find((code) => GROUPS['motion']!.includes(code));
    if (motion !== undefined) this.setMotion(motion);
    if ('X' in values || 'Y' in values || 'Z' in values) this.move(values);
    else if (motion === 2 || motion === 3) {
      if ('I' in values || 'J' in values || 'K' in values) this.move(values);
      else this.complain('An arc without end or centre.');
    }
    if (m.includes(2) || m.includes(30)) this.ended = true;
    if (m.includes(5)) this.turning = false;
  }

  result(): ControlResult {
    this.closeRun();
    if (!this.ended) this.complaints.push({ line: this.line, text: 'The program does not end with M2 or M30.' });
    return { runs: this.runs, complaints: this.complaints };
  }

  private complain(text: string): void {
    this.complaints.push({ line: this.line, text });
  }

  private sort(word: Word, g: number[], m: number[], values: Values): void {
    if (word.letter === 'G') {
      if (Object.values(GROUPS).some((codes) => codes.includes(word.value))) g.push(word.value);
      else this.complain(`G${word.value} is not known.`);
    } else if (word.letter === 'M') {
      if (M_WORDS.includes(word.value)) m.push(word.value);
      else this.complain(`M${word.value} is not known.`);
    } else if (!VALUE_LETTERS.includes(word.letter)) this.complain(`${word.letter} is not known.`);
    else if (word.letter in values) this.complain(`${word.letter} stands twice in the block.`);
    else values[word.letter] = word.value;
  }

  private refuseClashes(g: readonly number[]): void {
    for (const [name, codes] of Object.entries(GROUPS)) {
      const used = g.filter((code) => codes.includes(code));
      if (name === 'motion' && used.length === 2 && g.includes(53)) continue;
      if (used.length > 1) this.complain(`${used.map((c) => `G${c}`).join(' and ')} exclude each other.`);
    }
  }

  private settings(g: readonly number[], m: readonly number[], values: Values): void {
    for (const code of g) {
      if (code === 20) this.unit = INCH;
      else if (code === 21) this.unit = 1;
      else if (code === 17 || code === 18 || code === 19) this.plane = code;
      else if (code === 90) this.absolute = true;
      else if (code === 91) this.absolute = false;
      else if (code === 43) {
        this.length = values['H'];
        if (this.length === undefined) this.complain('A length offset (G43) without its number (H).');
      } else if (code === 49) this.length = undefined;
      else if (code === 98) this.backToStart = true;
      else if (code === 99) this.backToStart = false;
      else if (code === 93) this.complain('Inverse time feed (G93) is not known.');
      else if (code === 41 || code === 42) this.complain(`Cutter radius compensation (G${code}) is not known.`);
    }
    if (values['F'] !== undefined) {
      this.feed = values['F'] * this.unit;
      if (!(this.feed > 0)) this.complain('A feed must be above 0.');
    }
    if (values['S'] !== undefined) this.spindle = values['S'];
    if (values['T'] !== undefined) this.waiting = values['T'];
    if (m.includes(3) || m.includes(4)) {
      if (this.spindle <= 0) this.complain('The spindle is started without a speed.');
      this.turning = true;
    }
    if (m.includes(6)) {
      this.closeRun();
      this.tool = this.waiting;
      this.length = undefined;
      this.at = [this.at[0], this.at[1], HOME_Z];
      this.turning = false;
    }
  }

  private closeRun(): void {
    const lengthOffset = this.lengths.size === 1 ? [...this.lengths][0] : undefined;
    if (this.builder.length > 1)
      this.runs.push({ tool: this.tool, path: this.builder.build(), lines: this.lines, lengthOffset });
    this.lengths.clear();
    this.builder = new FeedBuilder();
    this.lines = [];
  }

  /** G28 and G53: to the top; the part never stands there, so X and Y are not followed. */
  private goHome(values: Values): void {
    if ('Z' in values || !('X' in values || 'Y' in values)) this.to(this.at[0], this.at[1], HOME_Z, Motion.rapid);
  }

  private setMotion(code: number): void {
    if (CYCLES.includes(code) && !CYCLES.includes(this.motion))
      this.cycle = { r: NaN, z: NaN, q: 0, initial: this.at[2] };
    this.motion = code;
  }

  private move(values: Values): void {
    if (CYCLES.includes(this.motion)) {
      this.drill(values);
      return;
    }
    const target: [number, number, number] = [
      this.axis(values['X'], this.at[0]),
      this.axis(values['Y'], this.at[1]),
      this.axis(values['Z'], this.at[2]),
    ];
    if (this.motion === 0) this.to(...target, Motion.rapid);
    else if (this.motion === 1) this.feedTo(...target);
    else if (this.motion === 2 || this.motion === 3) this.arc(target, values);
    else this.complain(this.motion === 80 ? 'Axis words after G80.' : 'Axis words without a motion (G0, G1, G2, G3).');
  }

  private axis(value: number | undefined, now: number): number {
    if (value === undefined) return now;
    return this.absolute ? value * this.unit : now + value * this.unit;
  }

  private feedTo(x: number, y: number, z: number): void {
    if (!(this.feed > 0)) this.complain('A feed motion without a feed (F).');
    if (!this.turning) this.complain('A feed motion with the spindle at rest.');
    this.lengths.add(this.length);
    this.to(x, y, z, Motion.cut);
  }

  private to(x: number, y: number, z: number, kind: Motion): void {
    if (this.builder.length === 0) {
      this.builder.add(...this.at, Motion.rapid, 0);
      this.lines.push(this.line);
    }
    const before = this.builder.length;
    this.builder.add(x, y, z, kind, this.feed);
    if (this.builder.length > before) this.lines.push(this.line);
    this.at = [x, y, z];
  }

  private arc(end: [number, number, number], values: Values): void {
    const scaled: Values = {};
    for (const letter of ['I', 'J', 'K', 'R']) if (letter in values) scaled[letter] = values[letter]! * this.unit;
    try {
      for (const p of arcPoints(this.at, end, this.motion === 2, this.plane, scaled)) this.feedTo(p[0], p[1], p[2]);
    } catch (error) {
      if (!(error instanceof EsquisseError)) throw error;
      this.complain(error.message);
    }
  }

  /** Drilling cycles, move by move; modal R, Z and Q; G98 goes back to where the cycle began, G99 to R. */
  private drill(values: Values): void {
    if (this.plane !== 17) this.complain('Drilling cycles are known in the XY plane (G17) only.');
    const c = this.cycle;
    if (values['R'] !== undefined) c.r = this.absolute ? values['R'] * this.unit : c.initial + values['R'] * this.unit;
    if (values['Z'] !== undefined) c.z = this.absolute ? values['Z'] * this.unit : c.r + values['Z'] * this.unit;
    if (values['Q'] !== undefined) c.q = values['Q'] * this.unit;
    if (!(c.z <= c.r)) {
      this.complain('A drilling cycle needs R, and Z below it.');
      return;
    }
    if ((this.motion === 83 || this.motion === 73) && !(c.q > 0)) {
      this.complain(`G${this.motion} needs a peck Q above 0.`);
      return;
    }
    const repeats = Math.max(1, Math.round(values['L'] ?? 1));
    for (let k = 0; k < repeats; k++) {
      const x = k > 0 && this.absolute ? this.at[0] : this.axis(values['X'], this.at[0]);
      const y = k > 0 && this.absolute ? this.at[1] : this.axis(values['Y'], this.at[1]);
      this.hole(x, y);
    }
  }

  private hole(x: number, y: number): void {
    const { r, z, q, initial } = this.cycle;
    if (this.at[2] < r) this.to(this.at[0], this.at[1], r, Motion.rapid);
    this.to(x, y, this.at[2], Motion.rapid);
    this.to(x, y, r, Motion.rapid);
    if (this.motion === 83 || this.motion === 73)
      for (let deep = r; deep > z;) {
        deep = Math.max(z, deep - q);
        this.feedTo(x, y, deep);
        if (deep <= z) break;
        this.to(x, y, this.motion === 83 ? r : deep + PECK_BACK_MM, Motion.rapid);
        if (this.motion === 83) this.to(x, y, deep + PECK_BACK_MM, Motion.rapid);
      }
    else this.feedTo(x, y, z);
    const top = this.backToStart ? Math.max(initial, r) : r;
    if (this.motion === 84 || this.motion === 85 || this.motion === 89) this.feedTo(x, y, r);
    this.to(x, y, top, Motion.rapid);
  }
}

/** A path whose feed is given with each motion. */
class FeedBuilder {
  private readonly inner = new PathBuilder({ cut: 0, entry: 0, link: 0 });
  private readonly feeds: number[] = [];

  get length(): number {
    return this.feeds.length;
  }

  add(x: number, y: number, z: number, kind: Motion, feed: number): void {
    this.inner.to(x, y, z, kind);
    if (this.inner.length > this.feeds.length) this.feeds.push(feed);
  }

  build(): Toolpath {
    const path = this.inner.build();
    path.feed.set(this.feeds);
    return path;
  }
}
