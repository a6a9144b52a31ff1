import { type Coolant, COOLANT_WORDS } from '../tool/coolants';
import { type Tool, toolTitle } from '../tool/library';
import { EsquisseError } from '../base/errors';
import type { CycleSpan } from '../path/cycles';
import { Motion, type Toolpath } from '../path/toolpath';
import type { WearSpan } from '../path/wear';
import type { PostDefinition, PostSymbol } from './definition';

/** A worked-out step, ready to be posted. */
export interface PostedStep {
  name: string;
  /** For whoever sets the machine up. */
  note: string;
  tool: Tool;
  /** 1/min. */
  n: number;
  coolant: Coolant;
  path: Toolpath;
}

/** What a program is called, and the work offset that it runs in. */
export interface ProgramNames {
  name: string;
  /** O word; null: none. */
  number: number | null;
  workOffset: string;
}

/** Posted text, and where each motion of each step went. */
export interface Posted {
  text: string;
  /** Line number (from 1) of each point of each step's path; 0 where the motion vanished in rounding. */
  lines: Uint32Array[];
}

/**
 * Writes the steps as word-address text in the frame of the work zero, mm.
 *
 * @throws EsquisseError `step-impossible` for a step without motions or a motion without a feed
 */
export function writeProgram(program: ProgramNames, steps: readonly PostedStep[], post: PostDefinition): Posted {
  const writer = new ProgramWriter(post, program);
  writer.fixed(post.start, {});
  const lines = steps.map((step, i) => {
    const same = i > 0 && steps[i - 1]!.tool.assembly.number === step.tool.assembly.number;
    const last = i + 1 === steps.length || steps[i + 1]!.tool.assembly.number !== step.tool.assembly.number;
    return writer.step(step, same, last);
  });
  writer.fixed(post.end, {});
  return { text: writer.text(), lines };
}

/** Text that may stand in a comment on any control. */
function plain(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '')
    .replace(/[()%;]/g, ' ')
    .trim();
}

/** Lines that name one of these are left out when it is empty. */
const OMITTED: readonly PostSymbol[] = ['coolant', 'note', 'programNumber'];

class ProgramWriter {
  private readonly out: string[] = [];
  private modal = { motion: '', x: '', y: '', z: '', f: '' };
  /** What of the coolant runs. */
  private coolant: Coolant = 'none';
  /** The words of the cycle that is in force. */
  private inCycle = '';
  /** What stands with the motions on which compensation begins and ends, by their numbers. */
  private wear: ReadonlyMap<number, string> = new Map();

  constructor(
    private readonly post: PostDefinition,
    private readonly program: ProgramNames,
  ) {}

  text(): string {
    return this.out.join('\n') + '\n';
  }

  fixed(lines: readonly string[], symbols: Partial<Record<PostSymbol, string>>): void {
    const { name, number, workOffset } = this.program;
    const all: Partial<Record<PostSymbol, string>> = {
      program: plain(name),
      programNumber: number === null ? '' : `O${number}`,
      offset: workOffset,
      ...symbols,
    };
    for (const line of lines) {
      // a line of what a step or job does not have is left out
      const named = [...line.matchAll(/\{(\w+)\}/g)].map((m) => m[1] as PostSymbol);
      if (named.some((n) => OMITTED.includes(n) && !all[n])) continue;
      const filled = line.replace(/\{(\w+)\}/g, (_, name: PostSymbol) => all[name] ?? '');
      for (const one of filled.split('\n'))
        this.line(one.startsWith('(') ? this.post.comment[0] + one.slice(1, -1) + this.post.comment[1] : one);
    }
  }

  step(step: PostedStep, same: boolean, last: boolean): Uint32Array {
    const { path, tool } = step;
    if (path.x.length < 2) throw new EsquisseError('step-impossible', `Step "${step.name}" has no motions to post.`);
    if (!same) this.fixed(this.post.toolChange, {});
    this.fixed(same ? this.post.sameTool : this.post.toolStart, {
      step: plain(step.name),
      tool: plain(toolTitle(tool)),
      number: String(tool.assembly.number),
      lengthOffset: String(tool.assembly.lengthOffset ?? tool.assembly.number),
      n: String(Math.round(step.n)),
      note: plain(step.note),
      coolant: this.coolantWord(step.coolant, same),
      x: this.coordinate(path.x[0]!),
      y: this.coordinate(path.y[0]!),
      z: this.coordinate(path.z[0]!),
    });
    this.modal = { motion: '', x: '', y: '', z: '', f: '' };
    if (!same)
      this.modal = {
        ...this.modal,
        x: this.coordinate(path.x[0]!),
        y: this.coordinate(path.y[0]!),
        z: this.coordinate(path.z[0]!),
      };
    const lines = new Uint32Array(path.x.length);
    this.wear = this.wearOf(step);
    const cycles = this.cyclesOf(step);
    let next = 0;
    for (let i = same ? 0 : 1; i < path.x.length; i++) {
      const cycle = cycles[next];
      if (i !== cycle?.first) {
        // the way to a hole at the height of the last one is told by the next cycle
        if (i + 1 !== cycle?.first || !this.isReached(path, i)) lines[i] = this.motion(step, i);
        continue;
      }
      const from = lines[i - 1] === 0 ? i - 1 : i;
      lines.fill(this.cycle(step, cycle), from, cycle.end);
      i = cycle.end - 1;
      next++;
    }
    this.endCycle();
    if (last) {
      this.fixed(this.post.toolEnd, {});
      this.coolant = 'none';
    }
    return lines;
  }

  /** What switches to a coolant; empty where nothing is to be said. */
  private coolantWord(wanted: Coolant, isRunning: boolean): string {
    const before = isRunning ? this.coolant : 'none';
    this.coolant = wanted;
    if (wanted === before) return '';
    const word = wanted === 'none' ? null : this.post.coolant[wanted];
    const off = before === 'none' || this.post.coolant[before] === null ? '' : 'M9';
    const [open, close] = this.post.comment;
    if (word) return [off, word].filter(Boolean).join('\n');
    const byHand = wanted === 'none' ? '' : `${open}coolant by hand: ${COOLANT_WORDS[wanted]}${close}`;
    return [off, byHand].filter(Boolean).join('\n');
  }

  /** Cycles of a path that the control has words for. @throws EsquisseError `step-impossible` for threads on one without */
  private cyclesOf({ name, path }: PostedStep): readonly CycleSpan[] {
    const { cycles } = this.post;
    const all = path.cycles ?? [];
    if (cycles.tap === null && all.some(({ cycle }) => cycle === 'tap'))
      throw new EsquisseError(
        'step-impossible',
        `Step "${name}" taps, but the control has no cycle for it: its spindle has to turn back at the bottom.`,
      );
    return all.filter(({ cycle }) => cycles[cycle] !== null);
  }

  /** Words by which wear is compensated. @throws EsquisseError `step-impossible` on a control that has none */
  private wearOf({ name, path, tool }: PostedStep): ReadonlyMap<number, string> {
    const spans: readonly WearSpan[] = path.wear ?? [];
    if (spans.length === 0) return new Map();
    const { wear, comment } = this.post;
    if (wear === null)
      throw new EsquisseError(
        'step-impossible',
        `Step "${name}" leaves wear to the control, which has no words for it: take it into the path.`,
      );
    const offset = `D${tool.assembly.radiusOffset ?? tool.assembly.number}`;
    this.line(`${comment[0]}wear of the cutter in ${offset}, 0 to begin with${comment[1]}`);
    return new Map(
      spans.flatMap(({ first, end, side }): [number, string][] => [
        [first, `${wear[side]} ${offset}`],
        [end - 1, wear.off],
      ]),
    );
  }

  /** Whether motion i goes, level and at rapid rate, to where a cycle that is in force can go by itself. */
  private isReached({ z, kind }: Toolpath, i: number): boolean {
    return this.inCycle !== '' && kind[i] === Motion.rapid && this.coordinate(z[i]!) === this.modal.z;
  }

  /** A hole by a cycle, from over it at the height where it begins, which it goes back to (G99). */
  private cycle({ name, path }: PostedStep, { cycle, first, from, to, peck }: CycleSpan): number {
    const [x, y] = [this.coordinate(path.x[first]!), this.coordinate(path.y[first]!)];
    const feed = path.feed[first]!;
    if (!(feed > 0)) throw new EsquisseError('step-impossible', `Step "${name}", motion ${first}: no feed.`);
    // a tap's feed is its pitch in a turn, to the last place
    const f = feed.toFixed(cycle === 'tap' ? 3 : this.post.feedDecimals);
    const words = [
      `G99 ${this.post.cycles[cycle]!}`,
      `Z${this.coordinate(to)}`,
      `R${this.coordinate(from)}`,
      ...(peck > 0 ? [`Q${this.coordinate(peck)}`] : []),
      `F${f}`,
    ];
    const text = words.join(' ');
    const place = `X${x} Y${y}`;
    const line = this.line(text === this.inCycle ? place : [words[0], place, ...words.slice(1)].join(' '));
    this.inCycle = text;
    this.modal = { motion: '', x, y, z: this.coordinate(from), f: '' };
    if (cycle === 'tap') {
      // a reader that does not know the word is not to go on from the bottom of the hole
      this.endCycle();
      this.line(`G0 Z${this.coordinate(from)}`);
    }
    return line;
  }

  private endCycle(): void {
    if (this.inCycle) this.line('G80');
    this.inCycle = '';
  }

  private motion(step: PostedStep, i: number): number {
    const { path } = step;
    this.endCycle();
    const rapid = path.kind[i] === Motion.rapid;
    const words: string[] = [];
    const at = { x: this.coordinate(path.x[i]!), y: this.coordinate(path.y[i]!), z: this.coordinate(path.z[i]!) };
    for (const axis of ['x', 'y', 'z'] as const)
      if (at[axis] !== this.modal[axis]) {
        words.push(axis.toUpperCase() + at[axis]);
        this.modal[axis] = at[axis];
      }
    if (words.length === 0) return 0;
    const motion = rapid ? 'G0' : 'G1';
    if (motion !== this.modal.motion) words.unshift(motion);
    this.modal.motion = motion;
    const wear = this.wear.get(i);
    if (wear) words.unshift(wear);
    if (!rapid) {
      const feed = path.feed[i]!;
      if (!(feed > 0)) throw new EsquisseError('step-impossible', `Step "${step.name}", motion ${i}: no feed.`);
      const f = feed.toFixed(this.post.feedDecimals);
      if (f !== this.modal.f) words.push('F' + f);
      this.modal.f = f;
    }
    return this.line(words.join(' '));
  }

  private coordinate(value: number): string {
    const text = value.toFixed(this.post.decimals);
    return Number(text) === 0 ? (0).toFixed(this.post.decimals) : text;
  }

  private line(text: string): number {
    const bare = /^[%({;]/.test(text) || this.post.numberedBy === 0;
    this.out.push(bare ? text : `N${(this.out.length + 1) * this.post.numberedBy} ${text}`);
    return this.out.length;
  }
}
