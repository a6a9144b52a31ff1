import { clampingStack, type Cutter, type Tool } from '../cutter/library';
import type { Job } from './job';
import type { Release } from './release';
import type { PlanSession } from './session';

/** Kinds of cutter as tool lists name them. */
function listType({ kind, RE }: Cutter): string {
  if (kind === 'flat' || kind === 'ball') return kind;
  return RE > 0 ? 'bull' : 'flat';
}

/** Tools by their number, sizes in mm, holders from the bottom up beginning `stickOut` above the tip. */
export function toolList(tools: readonly Tool[]): Record<string, unknown> {
  return Object.fromEntries(
    tools.map((tool) => [
      String(tool.assembly.number),
      {
        type: listType(tool.cutter),
        diameter: tool.cutter.DC,
        cornerRadius: tool.cutter.RE,
        fluteLength: tool.cutter.APMX,
        stickOut: tool.assembly.stickOut,
        shankDiameter: tool.cutter.DMM,
        holder: clampingStack(tool),
      },
    ]),
  );
}

/** What was worked out, as plain figures: lengths in mm, times in s. */
export function jobReport(job: Job, session: PlanSession, released?: Release): unknown {
  const box = session.piece.blockBox;
  const steps = job.steps.flatMap((step) => {
    const result = session.results.get(step.id);
    if (!result) return [];
    const { seconds, time, lengths, air, retracts, removed, leftover, neededStickOut, findings, leftOut } =
      result.figures;
    return [
      {
        id: step.id,
        name: step.name,
        kind: step.kind,
        tool: result.tool.assembly.number,
        secondsComputing: seconds,
        machineTime: time,
        lengths,
        air,
        retracts,
        removed,
        leftover,
        neededStickOut,
        findings: findings.map((f) => ({
          ...f,
          at: { x: result.path.x[f.motion], y: result.path.y[f.motion], z: result.path.z[f.motion] },
        })),
        leftOut,
      },
    ];
  });
  return {
    job: job.name,
    setup: job.setup.name,
    blank: [box.minX, box.minY, box.minZ, box.maxX, box.maxY, box.maxZ],
    cell: session.piece.fullBlock.cell,
    steps,
    release: released && { ok: released.ok, verdicts: released.verdicts },
  };
}
