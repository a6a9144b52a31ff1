import { type Motion, PathBuilder, type Toolpath } from '../path/toolpath';
import type { Side } from '../path/wear';
import type { ArcPlane } from './arc';

/** What is in force while a motion runs. */
export interface Modes {
  /** Number of the length offset (G43 H); undefined without one. */
  readonly lengthOffset: number | undefined;
  /** G54 to G59.3 as 54 to 59.3; undefined until one is named. */
  readonly workOffset: number | undefined;
  /** Cutter radius compensation: its side, and the number of its offset (G41, G42 with D); undefined without one. */
  readonly radius: { readonly side: Side; readonly offset: number } | undefined;
  readonly plane: ArcPlane;
  /** Spindle speed, 1/min, and which way it turns: M3, M4, M5. */
  readonly n: number;
  readonly spindle: 'forward' | 'reverse' | 'stopped';
  /** Words of the coolants that run, in their order: `M7`, `M8`. */
  readonly coolant: readonly string[];
}

/** What one cutter does between two tool changes. */
export interface ControlRun {
  /** The T word. */
  readonly tool: number;
  readonly path: Toolpath;
  /** Line of the program that point i comes from. */
  readonly lines: readonly number[];
  /** What is in force during motion i. */
  readonly modes: readonly Modes[];
}

/** Motions with what was in force during each. */
export class Recorder {
  private readonly path = new PathBuilder();
  private readonly feeds: number[] = [];
  private readonly lines: number[] = [];
  private readonly modes: Modes[] = [];

  get length(): number {
    return this.lines.length;
  }

  add(x: number, y: number, z: number, kind: Motion, feed: number, line: number, modes: Modes): void {
    this.path.to(x, y, z, kind);
    if (this.path.length === this.lines.length) return;
    this.feeds.push(feed);
    this.lines.push(line);
    this.modes.push(modes);
  }

  build(): Omit<ControlRun, 'tool'> {
    return {
      path: { ...this.path.build(), feed: Float32Array.from(this.feeds) },
      lines: this.lines,
      modes: this.modes,
    };
  }
}
