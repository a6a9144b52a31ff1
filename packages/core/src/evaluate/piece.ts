import { EsquisseError, messageOf } from '../base/errors';
import { sharedFloat32 } from '../base/shared';
import type { Limit } from '../field/bounds';
import type { FaceLimits } from '../field/faceLimits';
import { type Box, boxOfPositions, translateBox } from '../geometry/box';
import { type ContactMesh, contactMesh } from '../geometry/contactMesh';
import { thickened } from '../geometry/thickened';
import { partOf, translateMesh, type TriangleMesh } from '../geometry/mesh';
import { fixtureBoxes, fixtureMesh } from '../job/fixtures';
import { blankProblems, blockBox, workZeroPoint } from '../job/frame';
import { type Drilled, isPlanLimit, type Job, type PlanLimit, type StepLimit } from '../job/job';
import { AS_DRAWN, type Lay, layMesh } from '../part/lay';
import { standsOut } from '../steel/blank';
import { type Hole, holesIn } from '../survey/features';
import { surfaceOf } from '../survey/surface';
import { facesPicked } from '../survey/facePicks';
import type { HeightMap } from '../steel/heightMap';
import { partTops } from '../steel/partTops';
import { drill, startingSteel } from './startingSteel';

/** Cells that the steel's map has when the job does not say: fine enough to see a scallop band, small enough to be quick. */
const CELLS = 420_000;
/** No cell is smaller, mm. */
export const FINEST_CELL_MM = 0.05;
/** A part may stand out of a cast or turned blank by this where cells are coarse, mm. */
const OUT_OF_BLANK_MM = 0.05;

/** Meshes of a piece, in the frame of the part's file. `key` changes whenever one of them does. */
export interface PieceMeshes {
  readonly part: TriangleMesh;
  readonly key: string;
  readonly blank?: TriangleMesh | undefined;
  readonly fixtures?: readonly TriangleMesh[];
}

/** What is worked out of a piece that can be machined. */
interface Made {
  readonly part: ContactMesh;
  /** The part in the frame of the work zero, and as its file has it: their triangles have the same numbers. */
  readonly mesh: TriangleMesh;
  readonly drawn: TriangleMesh;
  readonly partKey: string;
  readonly box: Box;
  /** Work zero in the laid frame. */
  readonly zero: readonly [number, number, number];
  readonly fixtures: ContactMesh | undefined;
  readonly drilled: readonly Drilled[];
  /** What is looked for when it is asked for, once for all pieces of the same part. */
  readonly found: { holes?: readonly Hole[] };
  /** The steel at the beginning, on cells of a size. */
  readonly steelOn: (cell: number) => HeightMap;
  readonly cell: number;
  readonly steel: HeightMap;
  readonly top: number;
}

/**
 * A job's part, blank and fixtures, oriented and made ready, in the frame of the work zero, mm. It never changes: a changed
 * job has a piece of its own, so work that goes on is not disturbed by what is edited meanwhile.
 */
export class Piece {
  private readonly tops = new Map<number, HeightMap>();

  private constructor(
    private readonly made: Made | undefined,
    /** What keeps the job as it is from being machined, as a sentence; empty when nothing does. */
    readonly problem: string,
    /** Changes whenever the part, the steel at the beginning or what holds it does. */
    readonly key: string,
  ) {}

  /**
   * Takes a job's part, blank and fixtures in. What keeps them from being machined is kept as the piece's `problem`.
   *
   * @param before a piece whose work is used again where nothing of it changed
   */
  static of(job: Job, meshes: PieceMeshes, before?: Piece): Piece {
    try {
      return Piece.made(job, meshes, before);
    } catch (error) {
      if (!(error instanceof EsquisseError)) throw error;
      return Piece.unfit(messageOf(error));
    }
  }

  /** A piece that cannot be machined. */
  static unfit(problem: string): Piece {
    return new Piece(undefined, problem, '');
  }

  private static made(job: Job, meshes: PieceMeshes, before?: Piece): Piece {
    const orientation = job.part?.lay ?? AS_DRAWN;
    const part = oriented(meshes.part, orientation);
    const blank = meshes.blank && oriented(meshes.blank, orientation);
    const boxes = { part: part.box, blank: blank?.box };
    const problems = blankProblems(job, boxes).join(' ');
    if (problems) return Piece.unfit(problems);
    const zero = workZeroPoint(job, boxes);
    const [x, y, z] = zero;
    const partKey = `${meshes.key}@${JSON.stringify(orientation)}${x},${y},${z}`;
    const box = translateBox(blockBox(job, boxes), -x, -y, -z);
    const cell = job.cell ?? cellFor((box.maxX - box.minX) * (box.maxY - box.minY));
    const key = `${partKey}|${JSON.stringify([job.blank, job.drilled, cell, job.setup.fixtures])}`;
    if (before?.made && before.key === key) return before;
    const held = fixtureMesh(
      job.setup.fixtures.flatMap((f) => fixtureBoxes(f, box)),
      (meshes.fixtures ?? []).map((f) => translateMesh(oriented(f, orientation).mesh, -x, -y, -z)),
    );
    const drilled = job.drilled.map((h) => ({ ...h, x: h.x - x, y: h.y - y, bottom: h.bottom - z }));
    const steelOn = (size: number): HeightMap => {
      const map = startingSteel(job.blank, box, size, zero, blank?.mesh);
      drill(map, drilled);
      return map;
    };
    const steel = steelOn(cell);
    const known = before?.made?.partKey === partKey ? before.made : undefined;
    const mesh = known?.mesh ?? translateMesh(part.mesh, -x, -y, -z);
    const made: Made = {
      part: known?.part ?? contactMesh(mesh),
      mesh,
      drawn: meshes.part,
      partKey,
      box,
      zero,
      fixtures: held && contactMesh(held),
      drilled,
      found: known?.found ?? {},
      steelOn,
      cell,
      steel,
      top: steel.heights.reduce((top, h) => (h > top ? h : top), -Infinity),
    };
    const piece = new Piece(made, '', key);
    const out = piece.standsOut(job);
    return out ? new Piece(made, out, key) : piece;
  }

  /** Where the part stands out of the steel at the beginning, as a sentence; empty when it does not. */
  private standsOut({ blank, drilled }: Job): string {
    const isWhole = blank.kind === 'offset' || blank.kind === 'fixed';
    if (isWhole && drilled.length === 0) return '';
    const out = standsOut(this.topsOn(this.cell), this.use().steel, OUT_OF_BLANK_MM);
    if (!out) return '';
    const place = `at X ${out.x.toFixed(1)} Y ${out.y.toFixed(1)}`;
    return isWhole
      ? `A pre-drilled hole goes ${out.amount.toFixed(2)} mm into the part ${place}; make it less deep or move it.`
      : `The part stands out of the blank by ${out.amount.toFixed(2)} mm ${place}; give the blank more allowance or move it.`;
  }

  /** @throws EsquisseError what keeps the piece from being machined */
  refuseProblem(): void {
    if (this.problem) throw new EsquisseError('job-invalid', this.problem, 'blank');
  }

  private use(): Made {
    if (!this.made) throw new EsquisseError('job-invalid', this.problem, 'blank');
    return this.made;
  }

  /** The part. @throws EsquisseError what keeps the piece from being machined, as all of these */
  get part(): ContactMesh {
    return this.use().part;
  }

  /** The steel that the work begins with. */
  get steel(): HeightMap {
    this.refuseProblem();
    return this.use().steel;
  }

  /** The same on cells of another size, mm. */
  steelOn(cell: number): HeightMap {
    this.refuseProblem();
    return this.use().steelOn(cell);
  }

  /** Side of a cell of the steel's map, mm. */
  get cell(): number {
    return this.use().cell;
  }

  /** Box of the blank. */
  get box(): Box {
    return this.use().box;
  }

  /** What holds the blank; undefined when nothing is told to. */
  get fixtures(): ContactMesh | undefined {
    return this.made?.fixtures;
  }

  /** Upright holes of the part. */
  get holes(): readonly Hole[] {
    const made = this.use();
    return (made.found.holes ??= holesIn(surfaceOf(made.mesh)));
  }

  /** Holes that were drilled before. */
  get drilled(): readonly Drilled[] {
    return this.use().drilled;
  }

  /** Highest steel at the beginning, mm. */
  get top(): number {
    return this.use().top;
  }

  /** Highest of steel and fixtures, mm. */
  get highest(): number {
    return Math.max(this.top, this.fixtures?.box.maxZ ?? -Infinity);
  }

  /** Size of cells of which the blank has no more than so many, mm: that of the piece where it will do. */
  coarserCell(most: number): number {
    const { steel } = this.use();
    return steel.cell * Math.max(1, Math.ceil(Math.sqrt((steel.nx * steel.ny) / most)));
  }

  /** The part's highest points on cells of the blank, mm. */
  topsOn(cell: number): HeightMap {
    const known = this.tops.get(cell);
    if (known) return known;
    const { steel, steelOn } = this.use();
    const frame = cell === steel.cell ? steel : steelOn(cell);
    const map: HeightMap = { ...frame, heights: sharedFloat32(frame.heights.length) };
    partTops(this.part, map);
    this.tops.set(cell, map);
    return map;
  }

  /** A limit of a step, in the frame of the work zero. */
  inWorkZero({ points, ...limit }: PlanLimit): Limit {
    const [x, y] = this.use().zero;
    return { ...limit, ring: Float64Array.from(points.flatMap(([px, py]) => [px - x, py - y])) };
  }

  /** The faces among a step's limits, as meshes in the frame of the work zero. */
  heldByFaces(limits: readonly StepLimit[]): HeldByFaces {
    const { mesh: laid, drawn, part } = this.use();
    const own = limits.map((limit) => (isPlanLimit(limit) ? undefined : limit));
    if (!own.some(Boolean)) return { part, faces: undefined, lost: [] };
    const known = heldFaces.get(part) ?? new Map<string, HeldByFaces>();
    heldFaces.set(part, known);
    const name = JSON.stringify(own);
    const before = known.get(name);
    if (before) return before;
    const found = own.map((limit) => limit && facesPicked(drawn, limit.faces));
    const layers = own.flatMap((limit, k) =>
      limit?.kind === 'more-on-faces' && found[k]!.marks.includes(1)
        ? [{ marks: found[k]!.marks, by: limit.amount }]
        : [],
    );
    const { mesh, source } = layers.length > 0 ? thickened(laid, layers) : { mesh: laid, source: [] };
    /** A face with what is left on it. */
    const meshOf = (marks: Uint8Array): ContactMesh | undefined => {
      if (!marks.includes(1)) return undefined;
      const all = new Uint8Array(marks.length + source.length);
      all.set(marks);
      source.forEach((t, k) => (all[marks.length + k] = marks[t]!));
      return contactMesh(partOf(mesh, all));
    };
    const only = new Uint8Array(laid.indices.length / 3);
    own.forEach((limit, k) => {
      if (limit?.kind === 'faces') found[k]!.marks.forEach((mark, t) => (only[t]! |= mark));
    });
    const onlyMesh = meshOf(only);
    const clear = own.flatMap((limit, k) => {
      const away = limit?.kind === 'off-faces' ? meshOf(found[k]!.marks) : undefined;
      return limit?.kind === 'off-faces' && away ? [{ mesh: away, distance: limit.distance }] : [];
    });
    const held: HeldByFaces = {
      part: layers.length > 0 ? contactMesh(mesh) : part,
      faces: {
        only: onlyMesh && { own: onlyMesh, others: meshOf(only.map((mark) => 1 - mark)) },
        clear,
      },
      lost: found.map((f) => f?.lost ?? 0),
    };
    known.set(name, held);
    return held;
  }
}

/** Faces that a step is held by, and how many of those picked for each of its limits are not there. */
interface HeldByFaces {
  /** The part, with what is left besides on some of them. */
  readonly part: ContactMesh;
  readonly faces: FaceLimits | undefined;
  readonly lost: readonly number[];
}

interface Oriented {
  readonly lay: string;
  readonly mesh: TriangleMesh;
  readonly box: Box;
}
/** Faces by which steps of a part are held, by their limits. */
const heldFaces = new WeakMap<ContactMesh, Map<string, HeldByFaces>>();

/** Meshes as they were oriented last: most changes of a job leave that as it is. */
const lastOriented = new WeakMap<TriangleMesh, Oriented>();

function oriented(mesh: TriangleMesh, lay: Lay): Oriented {
  const name = JSON.stringify(lay);
  const last = lastOriented.get(mesh);
  if (last?.lay === name) return last;
  const turned = layMesh(mesh, lay);
  const made = { lay: name, mesh: turned, box: boxOfPositions(turned.positions) };
  lastOriented.set(mesh, made);
  return made;
}

/** Side of a cell for a blank of `area` mm² in plan view, mm. */
function cellFor(area: number): number {
  return Math.max(FINEST_CELL_MM, Math.sqrt(area / CELLS));
}
