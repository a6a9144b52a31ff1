import { type Tool, toolTitle } from '../tool/library';
import { EsquisseError } from '../base/errors';
import { Motion, type Toolpath } from '../path/toolpath';
import type { PostDefinition, PostSymbol } from './definition';

/** A worked-out step, ready to be posted. */
export interface PostedStep {
  name: string;
  tool: Tool;
  path: Toolpath;
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
export function writeProgram(
  program: string,
  workOffset: string,
  steps: readonly PostedStep[],
  post: PostDefinition,
): Posted {
  const writer = new ProgramWriter(post, plain(program), workOffset);
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

class ProgramWriter {
  private readonly out: string[] = [];
  private modal = { motion: '', x: '', y: '', z: '', f: '' };

  constructor(
    private readonly post: PostDefinition,
    private readonly program: string,
    private readonly workOffset: string,
  ) {}

  text(): string {
    return this.out.join('\n') + '\n';
  }

  fixed(lines: readonly string[], symbols: Partial<Record<PostSymbol, string>>): void {
    const all: Partial<Record<PostSymbol, string>> = { program: this.program, offset: this.workOffset, ...symbols };
    for (const line of lines) {
      const filled = line.replace(/\{(\w+)\}/g, (_, name: PostSymbol) => all[name] ?? '');
      this.line(filled.startsWith('(') ? this.post.comment[0] + filled.slice(1, -1) + this.post.comment[1] : filled);
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
      n: String(Math.round(tool.assembly.n)),
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
    for (let i = same ? 0 : 1; i < path.x.length; i++) lines[i] = this.motion(step, i);
    if (last) this.fixed(this.post.toolEnd, {});
    return lines;
  }

  private motion(step: PostedStep, i: number): number {
    const { path } = step;
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
