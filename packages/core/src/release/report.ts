import type { Session } from '../evaluate/session';
import type { Cutter, Tool } from '../tool/library';
import { clampingStack, cuttingPiece, shapeOf } from '../tool/shape';
import type { Release } from './release';

/** Kinds of cutter as tool lists name them. */
function listType({ kind, RE }: Cutter): string {
  if (kind === 'flat' || kind === 'ball' || kind === 'chamfer') return kind;
  if (kind === 'drill' || kind === 'spot') return 'drill';
  return RE > 0 ? 'bull' : 'flat';
}

/** Tools by their number, sizes in mm, holders from the bottom up beginning `stickOut` above the tip. */
export function toolList(tools: readonly Tool[]): Record<string, unknown> {
  return Object.fromEntries(
    tools.map((tool) => [
      String(tool.assembly.number),
      {
        type: listType(tool.cutter),
        // what it makes: a tap the hole that was drilled for it
        diameter: 2 * cuttingPiece(shapeOf(tool)).radius,
        cornerRadius: shapeOf(tool).RE,
        ...(tool.cutter.SIG > 0 ? { pointAngle: tool.cutter.SIG } : {}),
        fluteLength: tool.cutter.APMX,
        stickOut: shapeOf(tool).stickOut,
        shankDiameter: tool.cutter.DMM,
        shank: shapeOf(tool).shank,
        holder: clampingStack(tool),
      },
    ]),
  );
}

/** What was calculated, as plain figures: lengths in mm, times in s. */
export function jobReport(session: Session, released?: Release): unknown {
  const { job, piece, steps } = session.snapshot;
  const { box } = piece;
  return {
    job: job.name,
    setup: job.setup.name,
    blank: [box.minX, box.minY, box.minZ, box.maxX, box.maxY, box.maxZ],
    cell: piece.cell,
    steps: steps.flatMap(({ step, tool }) => {
      const result = session.results.get(step.id);
      if (!result) return [];
      const { path, figures } = result;
      return [
        {
          id: step.id,
          name: step.name,
          kind: step.kind,
          tool: tool.assembly.number,
          secondsComputing: figures.seconds,
          machineTime: figures.time,
          lengths: figures.lengths,
          air: figures.air,
          retracts: figures.retracts,
          removed: figures.removed,
          leftover: figures.leftover,
          unfinished: figures.unfinished,
          ridges: figures.ridges,
          neededStickOut: figures.neededStickOut,
          findings: figures.findings.map((f) => ({
            ...f,
            at: { x: path.x[f.motion], y: path.y[f.motion], z: path.z[f.motion] },
          })),
          leftOut: figures.leftOut,
          notes: figures.notes,
        },
      ];
    }),
    release: released && { ok: released.ok, verdicts: released.verdicts },
  };
}
