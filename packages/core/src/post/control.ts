import { EsquisseError } from '../base/errors';
import { type Cycle, movesOf } from '../path/cycles';
import { Motion } from '../path/toolpath';
import { arcPoints } from './arc';
import { type ControlRun, type Modes, Recorder } from './recorder';
import { type Block, readBlocks, type Word } from './words';

const INCH = 25.4;
/** Where the control stands before the first motion and after a tool change, mm above the work zero. */
export const HOME_Z = 1000;

/** A change of the cutter (M6). */
export interface ToolChange {
  readonly line: number;
  readonly tool: number;
  /** Whether the spindle was sent to its reference height (G28, G53 Z0) and has not moved since. */
  readonly isHome: boolean;
  readonly modes: Modes;
}

/** What the simulated control made of a program. */
export interface ControlResult {
  readonly runs: readonly ControlRun[];
  readonly changes: readonly ToolChange[];
  /** Things that a control would refuse or ignore, with their lines; a program with any is not released. */
  readonly complaints: readonly { readonly line: number; readonly text: string }[];
  /** What a program leaves to the state that the control happens to be in, in words. */
  readonly unsaid: readonly string[];
  /** What is in force at the end. */
  readonly atEnd: Modes;
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
/** What a program must say before its first motion: a control may be in any state when it starts. */
const MUST_SAY: readonly { what: string; codes: readonly number[] }[] = [
  { what: 'mm or inch (G21, G20)', codes: [20, 21] },
  { what: 'absolute or incremental (G90, G91)', codes: [90, 91] },
  { what: 'what a feed is told in (G94, G93)', codes: [93, 94] },
  { what: 'the plane of arcs (G17, G18, G19)', codes: [17, 18, 19] },
  { what: 'that no cutter radius compensation is in force (G40)', codes: [40, 41, 42] },
  { what: 'that no length offset is in force (G49, G43)', codes: [43, 49] },
];
/** Cycles by their G words: what they do of moves. */
const CYCLE_OF: Readonly<Record<number, Cycle>> = {
  73: 'break',
  81: 'drill',
  82: 'drill',
  83: 'peck',
  84: 'tap',
  85: 'ream',
  86: 'drill',
  89: 'ream',
};
const CYCLES: readonly number[] = Object.keys(CYCLE_OF).map(Number);

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
  private readonly changes: ToolChange[] = [];
  private readonly complaints: { line: number; text: string }[] = [];
  private readonly unsaid = new Set<string>();
  /** What has been said so far of {@link MUST_SAY}. */
  private readonly said = new Set<string>();
  private recorder = new Recorder();
  private modes: Modes = {
    lengthOffset: undefined,
    workOffset: undefined,
    radius: undefined,
    plane: 17,
    n: 0,
    spindle: 'stopped',
    coolant: [],
  };
  private isHome = false;
  private tool = 0;
  private waiting = 0;
  private line = 0;
  private at: [number, number, number] = [0, 0, HOME_Z];
  private motion = -1;
  private absolute = true;
  private unit = 1;
  private feed = 0;
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
    this.radius(g, values);
    if (g.includes(28) || g.includes(53)) this.goHome(g, values);
    else if (!g.includes(4)) this.motionOf(g, values);
    if (m.includes(2) || m.includes(30)) {
      this.ended = true;
      if (this.modes.radius) this.complain('The program ends while the cutter radius is compensated (G40 is missing).');
    }
    if (m.includes(5)) this.set({ spindle: 'stopped' });
    if (m.includes(9)) this.set({ coolant: [] });
  }

  private motionOf(g: readonly number[], values: Values): void {
    const motion = g.find((code) => GROUPS['motion']!.includes(code));
    if (motion !== undefined) this.setMotion(motion);
    if ('X' in values || 'Y' in values || 'Z' in values) this.move(values);
    else if (motion !== undefined && CYCLES.includes(motion)) this.complain(`G${motion} without where it drills.`);
    else if (motion === 2 || motion === 3) {
      if ('I' in values || 'J' in values || 'K' in values) this.move(values);
      else this.complain('An arc without end or centre.');
    }
  }

  result(): ControlResult {
    this.closeRun();
    if (!this.ended) this.complaints.push({ line: this.line, text: 'The program does not end with M2 or M30.' });
    const { runs, changes, complaints, modes } = this;
    return { runs, changes, complaints, unsaid: [...this.unsaid], atEnd: modes };
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
    for (const codes of Object.values(GROUPS)) {
      const used = g.filter((code) => codes.includes(code));
      if (used.length > 1) this.complain(`${used.map((c) => `G${c}`).join(' and ')} exclude each other.`);
    }
  }

  private settings(g: readonly number[], m: readonly number[], values: Values): void {
    for (const { what, codes } of MUST_SAY) if (g.some((code) => codes.includes(code))) this.said.add(what);
    for (const code of g) {
      if (code === 20) this.unit = INCH;
      else if (code === 21) this.unit = 1;
      else if (code === 17 || code === 18 || code === 19) this.set({ plane: code });
      else if (code === 90) this.absolute = true;
      else if (code === 91) this.absolute = false;
      else if (code === 43) {
        this.set({ lengthOffset: values['H'] });
        if (values['H'] === undefined) this.complain('A length offset (G43) without its number (H).');
      } else if (code === 49) this.set({ lengthOffset: undefined });
      else if (GROUPS['offset']!.includes(code)) this.set({ workOffset: code });
      else if (code === 98) this.backToStart = true;
      else if (code === 99) this.backToStart = false;
      else if (code === 93) this.complain('Inverse time feed (G93) is not known.');
    }
    if (values['F'] !== undefined) {
      this.feed = values['F'] * this.unit;
      if (!(this.feed > 0)) this.complain('A feed must be above 0.');
    }
    if (values['S'] !== undefined) this.set({ n: values['S'] });
    if (values['T'] !== undefined) this.waiting = values['T'];
    if (m.includes(3) || m.includes(4)) {
      if (this.modes.n <= 0) this.complain('The spindle is started without a speed.');
      this.set({ spindle: m.includes(3) ? 'forward' : 'reverse' });
    }
    const on = [7, 8].filter((code) => m.includes(code)).map((code) => `M${code}`);
    if (on.length > 0) this.set({ coolant: [...new Set([...this.modes.coolant, ...on])].sort() });
    if (m.includes(6)) {
      if (this.modes.radius) this.complain('The cutter is changed while its radius is compensated (G40 is missing).');
      this.closeRun();
      this.tool = this.waiting;
      this.changes.push({ line: this.line, tool: this.tool, isHome: this.isHome, modes: this.modes });
      this.at = [this.at[0], this.at[1], HOME_Z];
      // a change stops the spindle and ends the length offset of the cutter before (NISTIR 6556)
      this.set({ lengthOffset: undefined, spindle: 'stopped' });
    }
  }

  /**
   * Cutter radius compensation as a control has it whose path is that of the axis: its offset holds what the cutter is larger or smaller
   * by, here nothing, so the motions are those that are written. It begins and ends on straight motions at feed in the plane
   * (NISTIR 6556 3.5.10, from memory; controls differ in what they do on others).
   */
  private radius(g: readonly number[], values: Values): void {
    const code = g.find((c) => GROUPS['cutterRadius']!.includes(c));
    if (code === undefined) return;
    const motion = g.find((c) => GROUPS['motion']!.includes(c)) ?? this.motion;
    const isStraight = motion === 1 && ('X' in values || 'Y' in values);
    const { radius, plane } = this.modes;
    if (code === 40) {
      if (radius && !isStraight)
        this.complain('The compensation of the cutter radius ends (G40) on a straight feed motion in X and Y only.');
      this.set({ radius: undefined });
      return;
    }
    if (radius) this.complain(`G${code} while the cutter radius is compensated already.`);
    if (!isStraight) this.complain(`G${code} begins on a straight feed motion in X and Y only.`);
    if (plane !== 17) this.complain(`G${code} is known in the XY plane (G17) only.`);
    const offset = values['D'];
    if (offset === undefined) this.complain(`G${code} without the number of its offset (D).`);
    else this.set({ radius: { side: code === 41 ? 'left' : 'right', offset } });
  }

  private set(change: Partial<Modes>): void {
    this.modes = { ...this.modes, ...change };
  }

  private closeRun(): void {
    if (this.recorder.length > 1) this.runs.push({ tool: this.tool, ...this.recorder.build() });
    this.recorder = new Recorder();
  }

  /** G28 and G53: up to the reference height. What is sent anywhere else in machine coordinates is not known here. */
  private goHome(g: readonly number[], values: Values): void {
    const motion = g.find((code) => GROUPS['motion']!.includes(code));
    if (motion !== undefined) this.setMotion(motion);
    // RS274/NGC 3.5.12: an error with an arc or a cycle; at feed it would take its time
    if (g.includes(53) && this.motion !== 0)
      this.complain('Machine coordinates (G53) are approached at rapid rate (G0) only.');
    const height = values['Z'];
    if (height !== undefined && height !== 0)
      this.complain(
        `Where Z${height} of the machine lies above the work is not known: only its reference height Z0 is.`,
      );
    if (height === undefined && ('X' in values || 'Y' in values)) return;
    this.to(this.at[0], this.at[1], HOME_Z, Motion.rapid);
    this.isHome = true;
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
    if (this.modes.spindle === 'stopped') this.complain('A feed motion with the spindle at rest.');
    this.to(x, y, z, Motion.cut);
  }

  private to(x: number, y: number, z: number, kind: Motion): void {
    for (const { what } of MUST_SAY) if (!this.said.has(what)) this.unsaid.add(what);
    const { recorder, line, modes } = this;
    if (kind === Motion.rapid && modes.radius) this.complain('A rapid while the cutter radius is compensated.');
    if (recorder.length === 0) recorder.add(...this.at, Motion.rapid, 0, line, modes);
    recorder.add(x, y, z, kind, kind === Motion.rapid ? 0 : this.feed, line, modes);
    this.at = [x, y, z];
    this.isHome = false;
  }

  private arc(end: [number, number, number], values: Values): void {
    const scaled: Values = {};
    for (const letter of ['I', 'J', 'K', 'R']) if (letter in values) scaled[letter] = values[letter]! * this.unit;
    try {
      for (const p of arcPoints(this.at, end, this.motion === 2, this.modes.plane, scaled))
        this.feedTo(p[0], p[1], p[2]);
    } catch (error) {
      if (!(error instanceof EsquisseError)) throw error;
      this.complain(error.message);
    }
  }

  /** Drilling cycles, move by move; modal R, Z and Q; G98 goes back to where the cycle began, G99 to R. */
  private drill(values: Values): void {
    if (this.modes.plane !== 17) this.complain('Drilling cycles are known in the XY plane (G17) only.');
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
    const top = this.backToStart ? Math.max(initial, r) : r;
    const cycle = CYCLE_OF[this.motion]!;
    const moves = movesOf({ cycle, from: r, to: z, peck: q });
    for (const [k, { z: next, kind }] of moves.entries())
      // the way out at rapid rate goes right to the top
      if (kind === Motion.rapid) this.to(x, y, k + 1 < moves.length ? next : top, kind);
      else this.feedTo(x, y, next);
    this.to(x, y, top, Motion.rapid);
  }
}
