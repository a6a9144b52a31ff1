import { toolOf } from '../cutter/library';
import { EsquisseError } from '../errors';
import { type ControlResult, runControl } from '../post/control';
import { postOf } from '../post/definition';
import { type Posted, writeProgram } from '../post/writer';
import { copyMap, type HeightMap } from '../stock/heightMap';
import { TILE } from '../stock/sweep';
import { type Crew, spansOf } from './crew';
import { joinBands } from './findings';
import type { Job } from './job';
import { bodyOf, type PlanSession } from './session';

const BANDS = 12;
/** Feeds are single precision. */
const FEED_SLACK = 1 + 1e-6;
/** Steel after the program may differ from the plan's by this, mm: rounding of words to 0.001 on slopes up to 80 degrees. */
export const SAME_STEEL_MM = 0.01;

/** One line of the check list: what was looked at, and whether it holds. */
export interface Verdict {
  id: 'worked-out' | 'findings' | 'machine' | 'words' | 'motions' | 'steel' | 'part';
  title: string;
  ok: boolean;
  text: string;
  /** Where it fails: a place in the setup (mm), a line of the program, or a step. */
  at?: { x?: number; y?: number; z?: number; line?: number; stepId?: string };
}

export interface Release {
  text: string;
  fileName: string;
  lines: Uint32Array[];
  verdicts: Verdict[];
  ok: boolean;
}

/**
 * Posts the worked-out plan, reads the text back, runs it on the simulated control, and compares the steel that it leaves
 * with the plan's.
 *
 * @throws EsquisseError `step-impossible` when a step is not worked out
 */
export async function release(job: Job, session: PlanSession, crew: Crew): Promise<Release> {
  const post = postOf(job.setup.post);
  const results = job.steps.map((step, i) => {
    const result = session.results.get(step.id);
    if (!result || !session.isFresh(job, i))
      throw new EsquisseError('step-impossible', `Step ${i + 1} "${step.name}" is not worked out yet.`, step.id);
    return result;
  });
  if (results.length === 0) throw new EsquisseError('step-impossible', 'The workplan has no step yet.', 'steps');
  const posted = writeProgram(
    job.setup.name,
    job.setup.workOffset,
    results.map((r, i) => ({ name: job.steps[i]!.name, tool: r.tool, path: r.path })),
    post,
  );
  const verdicts = [findingsVerdict(job, session), machineVerdict(job, session)];
  const control = runControl(posted.text);
  verdicts.push(wordsVerdict(control));
  verdicts.push(...(await steelVerdicts(job, session, control, posted, crew)));
  return {
    text: posted.text,
    fileName: `program-${job.setup.name.replace(/[^A-Za-z0-9_.-]+/g, '-')}.${post.extension}`,
    lines: posted.lines,
    verdicts,
    ok: verdicts.every((v) => v.ok),
  };
}

function findingsVerdict(job: Job, session: PlanSession): Verdict {
  for (const [i, step] of job.steps.entries()) {
    const finding = session.results.get(step.id)!.figures.findings[0];
    if (!finding) continue;
    const path = session.results.get(step.id)!.path;
    return {
      id: 'findings',
      title: 'Nothing but the edges touches steel',
      ok: false,
      text: `Step ${i + 1}: ${finding.text}`,
      at: { x: path.x[finding.motion], y: path.y[finding.motion], z: path.z[finding.motion], stepId: step.id },
    };
  }
  return {
    id: 'findings',
    title: 'Nothing but the edges touches steel',
    ok: true,
    text: 'No gouge, no contact of shank or holder, no rapid through steel, no plunge in any step.',
  };
}

/** Whether the machine can turn, feed and travel as the plan asks. */
function machineVerdict(job: Job, session: PlanSession): Verdict {
  const { machine } = job.setup;
  const title = 'The machine can do it';
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const [i, step] of job.steps.entries()) {
    const { tool, path } = session.results.get(step.id)!;
    const { n } = tool.assembly;
    const feed = path.feed.reduce((most, f) => (f > most ? f : most), 0);
    const no = (text: string): Verdict => ({
      id: 'machine',
      title,
      ok: false,
      text: `Step ${i + 1}: ${text}`,
      at: { stepId: step.id },
    });
    if (n > machine.maxSpindle || n < machine.minSpindle)
      return no(
        `T${tool.assembly.number} turns ${n} 1/min, ${machine.name} from ${machine.minSpindle} to ${machine.maxSpindle}.`,
      );
    if (feed > machine.maxFeed * FEED_SLACK)
      return no(`it feeds ${Math.round(feed)} mm/min, ${machine.name} at most ${machine.maxFeed}.`);
    [path.x, path.y, path.z].forEach((values, k) => {
      for (const v of values) {
        if (v < low[k]!) low[k] = v;
        if (v > high[k]!) high[k] = v;
      }
    });
  }
  for (const [k, axis] of (['X', 'Y', 'Z'] as const).entries()) {
    const way = high[k]! - low[k]!;
    if (way > machine[`travel${axis}`])
      return {
        id: 'machine',
        title,
        ok: false,
        text: `The paths reach over ${way.toFixed(1)} mm in ${axis}, ${machine.name} travels ${machine[`travel${axis}`]} mm.`,
      };
  }
  return {
    id: 'machine',
    title,
    ok: true,
    text: 'Speeds, feeds and ways of all steps are within what the machine turns, feeds and travels.',
  };
}

function wordsVerdict(control: ControlResult): Verdict {
  const first = control.complaints[0];
  return {
    id: 'words',
    title: 'Every word is understood',
    ok: !first,
    text: first
      ? `Line ${first.line}: ${first.text}${control.complaints.length > 1 ? ` (and ${control.complaints.length - 1} more)` : ''}`
      : 'The posted text was read back word by word.',
    at: first ? { line: first.line } : undefined,
  };
}

async function steelVerdicts(
  job: Job,
  session: PlanSession,
  control: ControlResult,
  posted: Posted,
  crew: Crew,
): Promise<Verdict[]> {
  const steel = copyMap(session.piece.fullBlock);
  let worst: Verdict | undefined;
  for (const run of control.runs) {
    const assembly = job.crib.assemblies.find((a) => a.number === run.tool);
    const tool = assembly && toolOf(job.crib, assembly.id);
    if (!tool) {
      worst ??= {
        id: 'motions',
        title: 'The control moves as planned',
        ok: false,
        text: `The program calls T${run.tool}, which is not in the crib.`,
        at: { line: run.lines[0] },
      };
      continue;
    }
    const offset = tool.assembly.lengthOffset ?? tool.assembly.number;
    if (run.lengthOffset !== offset)
      worst ??= {
        id: 'motions',
        title: 'The control moves as planned',
        ok: false,
        text: `T${run.tool} cuts ${run.lengthOffset === undefined ? 'without one length offset' : `with the length offset H${run.lengthOffset}`}; its own is H${offset}.`,
        at: { line: run.lines[0] },
      };
    const bands = await crew.all(
      'machine',
      spansOf(steel.ny, BANDS, TILE).map((rows) => ({
        map: steel,
        rows,
        body: bodyOf(tool),
        path: run.path,
        marks: new Uint32Array(),
      })),
    );
    const fixtures = session.piece.heldBy;
    const held = fixtures
      ? await crew.all(
          'fixtures',
          spansOf(run.path.x.length, BANDS).map((span) => ({ fixtures, body: bodyOf(tool), path: run.path, span })),
        )
      : [];
    const mishap = [...joinBands(bands).mishaps, ...held.flat()][0];
    if (mishap)
      worst ??= {
        id: 'motions',
        title: 'The control moves as planned',
        ok: false,
        text: `T${run.tool} meets ${mishap.kind === 'fixture' ? 'a fixture' : 'steel'} where it must not (${mishap.kind}).`,
        at: { line: run.lines[mishap.motion] },
      };
  }
  const planned = session.results.get(job.steps[job.steps.length - 1]!.id)!.after;
  const difference = worstDifference(planned, steel);
  const lines = posted.text.split('\n').length - 1;
  return [
    worst ?? {
      id: 'motions',
      title: 'The control moves as planned',
      ok: true,
      text: `${lines} lines, ${control.runs.length} tool changes run on the simulated control; nothing touches but the edges.`,
    },
    {
      id: 'steel',
      title: 'The program leaves the steel that the plan promised',
      ok: difference.amount <= SAME_STEEL_MM,
      text:
        difference.amount <= SAME_STEEL_MM
          ? `Largest difference ${difference.amount.toFixed(4)} mm on ${planned.nx} x ${planned.ny} cells of ${planned.cell.toFixed(3)} mm.`
          : `The steel differs by ${difference.amount.toFixed(3)} mm at X ${difference.x.toFixed(2)} Y ${difference.y.toFixed(2)}.`,
      at: difference.amount <= SAME_STEEL_MM ? undefined : { x: difference.x, y: difference.y, z: difference.z },
    },
  ];
}

/**
 * Largest difference of two states of the stock, mm, beyond the map's resolution: a height that lies between the planned
 * heights of the cell and its neighbours is one that a shift of less than a cell explains (at a wall, or at the rim of a
 * cut, a hair's shift moves a cell from floor to top).
 */
export function worstDifference(a: HeightMap, b: HeightMap): { amount: number; x: number; y: number; z: number } {
  const worst = { amount: 0, x: 0, y: 0, z: 0 };
  for (let j = 0; j < a.ny; j++)
    for (let i = 0; i < a.nx; i++) {
      const o = j * a.nx + i;
      const h = b.heights[o]!;
      if (Math.abs(h - a.heights[o]!) <= worst.amount) continue;
      const [low, high] = rangeAround(a, i, j);
      const amount = Math.max(low - h, h - high);
      if (amount > worst.amount)
        Object.assign(worst, {
          amount,
          x: a.x0 + (i + 0.5) * a.cell,
          y: a.y0 + (j + 0.5) * a.cell,
          z: a.heights[o]!,
        });
    }
  return worst;
}

/** Lowest and highest of a cell and its neighbours. */
function rangeAround(map: HeightMap, i: number, j: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (let v = Math.max(0, j - 1); v <= Math.min(map.ny - 1, j + 1); v++)
    for (let u = Math.max(0, i - 1); u <= Math.min(map.nx - 1, i + 1); u++) {
      const h = map.heights[v * map.nx + u]!;
      if (h < low) low = h;
      if (h > high) high = h;
    }
  return [low, high];
}
