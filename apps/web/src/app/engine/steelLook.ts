import {
  type Crew,
  EsquisseError,
  type HeightMap,
  leftoverFigures,
  type LoadQuantity,
  type Session,
  steelSoup,
  type Vec3,
  writeStl,
  writeThreeMf,
  type Zone,
  zonesIn,
} from '@esquisse/core';
import { proxyMarker } from 'comlink';
import { type DrawnSteel, histogram, SteelDrawing } from './display';
import { reachView, ridgeView } from './lensViews';
import type { LeftoverView, LoadView, Moment, ReachView, RegionView, RidgeView, Watched } from './views';

const BINS = 12;
/** Cells of the steel that a file of it holds at most. */
const MOST_TERRACES = 120_000;

/** The steel at a moment of the workplan as it is drawn, with what a lens shows on it. */
export class SteelLook {
  readonly [proxyMarker] = true;
  private readonly drawing = new SteelDrawing();
  /** Leftover inside a step, for the moment that was looked at last. */
  private looking: { key: string; field: Float32Array } = { key: '', field: new Float32Array() };

  /** @param fromZero what brings a point of the frame of the work zero into the frame of the part's file, as the part lies now */
  constructor(
    private readonly session: Session,
    private readonly crew: (cancel: Int32Array) => Crew,
    private readonly fromZero: () => (point: Vec3) => Vec3,
  ) {}

  /** The steel at a moment. */
  at(moment: Moment): DrawnSteel {
    return this.drawing.of(this.mapAt(moment));
  }

  /** The steel at a moment as a mesh file, in the frame of the part's file, so that it can be another job's blank. */
  file(moment: Moment, format: 'stl' | '3mf'): Uint8Array {
    const map = this.mapAt(moment);
    const stride = Math.max(1, Math.ceil(Math.sqrt((map.nx * map.ny) / MOST_TERRACES)));
    const soup = steelSoup(map, stride);
    const inFile = this.fromZero();
    for (let i = 0; i < soup.length; i += 3) {
      const p = inFile([soup[i]!, soup[i + 1]!, soup[i + 2]!]);
      for (let c = 0; c < 3; c++) soup[i + c] = p[c]!;
    }
    return format === 'stl' ? writeStl(soup) : writeThreeMf(soup);
  }

  async leftover(moment: Moment, ...watched: Watched): Promise<LeftoverView> {
    const map = this.mapAt(moment);
    const field = await this.fieldAt(moment, map, watched);
    const figures = leftoverFigures(field);
    const high = Math.max(0.02, Math.min(figures.largest, figures.p99 * 1.15));
    const low = figures.gouge > 0 ? -Math.min(figures.gouge, high) : 0;
    return { steel: this.drawing.of(map, field), figures, low, high, bins: histogram(field, low, high, BINS) };
  }

  /** Where a step would cut, in the job as it is now. */
  async region(stepId: string, ...[cancel, onProgress]: Watched): Promise<RegionView> {
    const found = await this.session.regionOf(stepId, this.crew(cancel), onProgress);
    if (!found) throw new EsquisseError('job-invalid', 'This kind of step does not look for a region.', stepId);
    const field = found.map.heights.map((h) => (h > -Infinity ? 1 : NaN));
    const { area, volume, threshold, stairs } = found;
    return { area, volume, threshold, stairs, steel: this.drawing.of(found.stock, field) };
  }

  /** Zones of the steel before the first step that are to be removed. */
  zones(cancel: Int32Array): Promise<readonly Zone[]> {
    return zonesIn(this.session.snapshot.piece, this.crew(cancel));
  }

  /** How far a step's cutter has to stand out over the part. */
  async reach(stepId: string, ...[cancel, onProgress]: Watched): Promise<ReachView> {
    return reachView(this.drawing, await this.session.standOut(stepId, this.crew(cancel), onProgress), BINS);
  }

  /** Ridges of a step that is up to date, as they are seen from above. */
  async ridges(stepId: string, ...[cancel, onProgress]: Watched): Promise<RidgeView> {
    return ridgeView(this.drawing, await this.session.ridges(stepId, this.crew(cancel), onProgress), BINS);
  }

  /** How hard the step at the playhead cut, over the steel that it took up to there. */
  load({ stepId, motion }: Moment, quantity: LoadQuantity): LoadView {
    const figure = stepId === null ? undefined : this.session.results.get(stepId)?.figures.load?.[quantity];
    if (stepId === null || !figure)
      throw new EsquisseError('job-invalid', 'The load shows at a step that is calculated and takes steel.');
    const map = this.session.steelAt(stepId, motion);
    const field = this.session.loadField(stepId, map, motion, quantity);
    return { steel: this.drawing.of(map, field), stepId, quantity, figure };
  }

  private mapAt({ stepId, motion }: Moment): HeightMap {
    return stepId === null || !this.session.results.has(stepId)
      ? this.session.snapshot.piece.steel
      : this.session.steelAt(stepId, motion);
  }

  private async fieldAt(
    { stepId, motion }: Moment,
    map: HeightMap,
    [cancel, onProgress]: Watched,
  ): Promise<Float32Array> {
    const result = stepId === null ? undefined : this.session.results.get(stepId);
    if (!result) return this.session.leftoverOfBlank(this.crew(cancel), onProgress);
    if (motion >= result.path.x.length - 1) return result.steel.leftover;
    const key = `${result.key}:${motion}`;
    if (this.looking.key !== key) {
      const field = await this.session.leftoverAt(result.stepId, map, this.crew(cancel), onProgress);
      this.looking = { key, field };
    }
    return this.looking.field;
  }
}
