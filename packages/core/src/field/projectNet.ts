import type { Cancel } from '../base/cancel';
import { type Crew, spansOf } from '../crew/crew';
import { defineTask } from '../crew/task';
import type { ContactNet } from './contactNet';
import { OnSurface } from './onSurface';
import { TipSurface, type TipSurfaceSpec } from './tipSurface';

/** A vertex holds where it came this near, mm: in a valley two sides of the part push it to and fro. */
const HOLDS_MM = 2e-3;
/** The cutter may stand where its tip is no lower than this below the tip surface, mm. */
const BELOW_MM = 5e-3;
/** How far off the part that is looked at, mm. */
const OFF_MM = 1e-3;
/** Vertices in one piece of work. */
const PIECE = 6000;

interface NetRows {
  readonly net: Pick<ContactNet, 'centres' | 'normals' | 'holds'>;
  readonly spec: TipSurfaceSpec;
  readonly rows: readonly [number, number];
}

export const projectNetTask = defineTask('projectNet', ({ net, spec, rows }: NetRows, cancel): void =>
  projectRows(net, spec, rows, cancel),
);

/** Puts the vertices of a net at their distance from the part: that of a ball with its allowance. */
export async function projectNet(
  net: ContactNet,
  spec: TipSurfaceSpec,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<void> {
  const { centres, normals, holds } = net;
  const spans = spansOf(net.count, Math.ceil(net.count / PIECE));
  await crew.all(
    projectNetTask,
    spans.map((rows) => ({ net: { centres, normals, holds }, spec, rows })),
    (done) => onDone(done / spans.length),
  );
}

function projectRows(
  { centres, normals, holds }: NetRows['net'],
  spec: TipSurfaceSpec,
  [from, to]: readonly [number, number],
  cancel?: Cancel,
): void {
  const on = new OnSurface(spec);
  const surface = new TipSurface(spec);
  for (let v = from; v < to; v++) {
    if ((v & 255) === 0) cancel?.check();
    const o = 3 * v;
    const off = on.put(centres[o]!, centres[o + 1]!, centres[o + 2]!);
    normals[o] = on.nx;
    normals[o + 1] = on.ny;
    normals[o + 2] = on.nz;
    centres[o] = on.x;
    centres[o + 1] = on.y;
    centres[o + 2] = on.z;
    const tip = centres[o + 2]! - spec.piece.corner + BELOW_MM;
    // a hair off an upright wall, which else may be counted as under the cutter
    const [x, y] = [centres[o]! + OFF_MM * normals[o]!, centres[o + 1]! + OFF_MM * normals[o + 1]!];
    holds[v] = off < HOLDS_MM && !surface.forbids(x, y, tip) ? 1 : 0;
  }
}
