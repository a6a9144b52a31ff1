import { bareSides, isBare } from '../field/bareSides';
import { closedAreas } from '../field/bounds';
import { groundPieces, type GroundPieces } from '../field/groundPieces';
import { tipGridOver, type TipGrid } from '../field/tipSurface';
import { sampleNodes } from '../field/sampling';
import type { WantedSpec } from '../field/wanted';
import type { Crew } from '../crew/crew';
import { isCancelled } from '../base/errors';
import { covered } from '../geometry/polygon';
import { planAround, ringOf } from '../link/workspace';
import type { HeightMap } from '../steel/heightMap';
import { type Sketch, sketchOf } from '../field/sketch';
import type { CuttingFigures } from '../load/stepCutting';
import type { Expected, ExpectContext } from '../strategy/expected';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { cutterProfile } from '../tool/shape';
import type { Piece } from './piece';
import type { SnapshotStep } from './snapshot';

/** Links, entries, lifts and slowing down, as a share of the cuts' own time: 2 to 15 % on the parts of the benches. */
const BETWEEN_SHARE = 0.07;

/** What was looked at for the last steps, so that other values of theirs are told at once. */
const MOST_KEPT = 24;

/** What a step will come to, with its time at the machine. */
export interface ExpectedStep extends Expected {
  /** s: of its cuts at their feed, with what lies between them. */
  readonly time?: number;
  /** How its pattern lies on the part, in the frame of the work zero. */
  readonly sketch?: Sketch;
}

/** Looks over the ground of parts for what steps will come to, and keeps it for other values of theirs. */
export class Expectations {
  private readonly kept = new Map<string, Promise<unknown>>();

  /** @param steel before the step with a key that stands for it, as far as it is known */
  async of(
    piece: Piece,
    at: Pick<SnapshotStep, 'part' | 'step' | 'bound' | 'shape' | 'limits' | 'faces' | 'named' | 'cutting'>,
    steel: { readonly map: HeightMap; readonly key: string } | undefined,
    crew: Crew,
  ): Promise<ExpectedStep | undefined> {
    const { part, step, bound, shape, limits, faces, named, cutting } = at;
    const cutter = cutterProfile(shape);
    // what a bull-nose's corner touches is told by a ball that bends as it does
    const ballOf = (): RoundPiece => roundProfile(2 * shape.RE, shape.RE) as RoundPiece;
    const keyed = <T>(what: unknown[], make: () => Promise<T>): Promise<T> =>
      this.remember(JSON.stringify([piece.key, ...what]), make, crew);
    const axisRing = ringOf(planAround(piece.box, cutter.radius));
    const context: ExpectContext = {
      part,
      tool: shape,
      steel: steel?.map,
      shapeNamed: (id) => named.get(id),
      ground: (allowance, { rest, mostSteel, leastSteel }) => {
        const ball = ballOf();
        const wanted: WantedSpec = {
          slopes: [0, Math.PI / 2],
          ...(rest && { rest }),
          ...(faces && { faces: { limits: faces, round: ball.corner + allowance.side } }),
          ...(steel && leastSteel !== null && { thicker: leastSteel }),
        };
        const wish = {
          spec: { mesh: part, piece: ball, ...allowance },
          bounds: {
            closed: closedAreas(limits, cutter.radius, ringOf(planAround(part.box, cutter.radius))),
            obstacles: [],
          },
          wanted,
          steel: steel?.map ?? piece.steel,
          whole: cutter,
          mostSteel: steel ? mostSteel : Infinity,
          bare: bareSides(part.box, piece.box),
        };
        const of = [rest && [rest.spec.piece, rest.thicker], steel && [steel.key, mostSteel, leastSteel]];
        return keyed<GroundPieces>(['ground', cutter, allowance, step.limits, ...of], () => groundPieces(wish, crew));
      },
      bounds: { closed: closedAreas(limits, cutter.radius, axisRing), obstacles: [] },
      within: axisRing,
      crew,
      tips: (allowance) =>
        keyed<TipGrid>(['tips', cutter, allowance, step.limits], async () => {
          const grid = tipGridOver(part.box, cutter.radius + allowance.side + 1, roughStep(part.box, cutter.radius));
          await sampleNodes(grid, { mesh: part, piece: cutter, ...allowance }, crew, () => undefined);
          return grid;
        }),
    };
    const expected = await bound.expect?.(context);
    if (!expected) return undefined;
    const { length, planes = [], between, drawn } = expected;
    const closed = closedAreas(limits, cutter.radius, ringOf(planAround(part.box, cutter.radius)));
    const bare = bareSides(part.box, piece.box);
    const isOpen = (x: number, y: number): boolean =>
      !isBare(bare, x, y) && (closed.length === 0 || !covered(closed, x, y));
    return {
      ...expected,
      ...(length !== undefined && { time: timeOf(length, between, cutting) }),
      ...(drawn && { sketch: drawn }),
      ...(planes.length > 0 && { sketch: sketchOf(faces?.only?.own ?? part, planes, isOpen) }),
    };
  }

  private async remember<T>(key: string, make: () => Promise<T>, crew: Crew): Promise<T> {
    const known = this.kept.get(key) as Promise<T> | undefined;
    if (known)
      return known.catch((error: unknown) => {
        // somebody else's look that was called off is taken up again
        crew.cancel.check();
        if (isCancelled(error)) return this.remember(key, make, crew);
        throw error;
      });
    const made = make();
    this.kept.set(key, made);
    // what was called off or failed is looked at again
    made.catch(() => this.kept.delete(key));
    const oldest = this.kept.keys().next();
    if (this.kept.size > MOST_KEPT && !oldest.done) this.kept.delete(oldest.value);
    return made;
  }
}

/** Nodes of the plan by which levels are told. */
const NODES = 9_000;
const roughStep = (
  { minX, minY, maxX, maxY }: { minX: number; minY: number; maxX: number; maxY: number },
  by: number,
) => Math.sqrt(((maxX - minX + 2 * by) * (maxY - minY + 2 * by)) / NODES);

/** Lifting and coming down elsewhere, and coming to a line that eases a corner, s: on the mean over the parts of the benches. */
const LIFT_S = 0.65;
const EASE_S = 0.25;

/** Seconds of cuts at their feed, with what lies between them. */
function timeOf(length: number, between: Expected['between'], { vf, entry, link }: CuttingFigures): number {
  const cuts = (60 * length) / vf;
  if (!between) return cuts * (1 + BETWEEN_SHARE);
  return (
    cuts + (60 * between.entry) / entry + (60 * between.link) / link + LIFT_S * between.lifts + EASE_S * between.eases
  );
}
