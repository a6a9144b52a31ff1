import { computed, inject, Injectable } from '@angular/core';
import {
  AS_DRAWN,
  axesOf,
  blockInSetup,
  type Box,
  isPlanLimit,
  kindOf,
  type Vec3,
  workZeroPoint,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { runOf } from '../engine/runs';
import { ExpectedLook } from '../lens/expectedLook';
import { LensData } from '../lens/lensData';
import { LENSES } from '../lens/lenses';
import { clock } from '../shared/numbers';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';
import { timeBefore } from '../state/planTime';
import { type HeightGrip, levelPlaces } from './heightGrips';
import type { LimitLine } from './solids';
import { BenchStage } from './stage';

/** How much of the part is seen through a block that nothing was cut of. */
const PART_INSIDE = 0.55;

/** Beside what is fitted into the view so much is seen, mm. */
const FIT_BESIDE_MM = 5;
const NOTHING: readonly never[] = [];
/** Whether two small plain values are equal: what did not change is not drawn again. */
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** What of the job the bench shows: where its part lies, the block around it, and what is marked. Lengths in mm, in the frame of the work zero. */
@Injectable({ providedIn: 'root' })
export class BenchContent {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly lensData = inject(LensData);
  private readonly expectedLook = inject(ExpectedLook);
  private readonly stage = inject(BenchStage);
  readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  readonly ready = this.store.selectSignal(planFeature.selectReady);
  readonly partOnly = computed(() => this.stage.slot()?.partOnly() ?? false);
  private readonly chosenLens = this.store.selectSignal(planFeature.selectLens);
  readonly lens = computed(() => (this.partOnly() ? 'part' : this.chosenLens()));
  readonly at = this.store.selectSignal(planFeature.selectAt);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);

  readonly colours = computed(() => this.stage.slot()?.colours());
  readonly edges = computed(() => this.stage.slot()?.edges());
  readonly lit = computed(() => this.stage.slot()?.lit() ?? NOTHING);
  readonly marks = computed(() => this.stage.slot()?.marks() ?? NOTHING);

  readonly part = computed(() => (this.ready() ? this.engine.piece() : undefined));
  readonly drawing = computed(() => this.part()?.drawing);
  readonly fixtures = computed(() => this.part()?.fixtures);
  readonly lay = computed(() => this.job()?.part?.lay ?? AS_DRAWN, { equal: same });
  /** The view is fitted anew for another part only, not for every change of how it lies or is held. */
  readonly partKey = computed(() => this.part()?.key);
  private readonly boxes = computed(() => this.part()?.boxes, { equal: same });
  readonly block = computed(
    () => {
      const job = this.job();
      const boxes = this.boxes();
      return job && boxes ? blockInSetup(job, boxes) : undefined;
    },
    { equal: same },
  );
  readonly zero = computed(
    (): Vec3 => {
      const job = this.job();
      const boxes = this.boxes();
      return job && boxes ? workZeroPoint(job, boxes) : [0, 0, 0];
    },
    { equal: same },
  );
  /** Plan of a blank that is no box, in the frame of the work zero. */
  readonly outline = computed((): [number, number][] => this.outlineNow(), { equal: same });

  private outlineNow(): [number, number][] {
    const blank = this.job()?.blank;
    const box = this.block();
    const [x, y] = this.zero();
    if (blank?.kind === 'outline') return blank.points.map(([u, v]) => [u - x, v - y]);
    if (blank?.kind !== 'cylinder' || !box) return [];
    return Array.from({ length: 72 }, (_, k) => [
      (box.minX + box.maxX) / 2 + (blank.diameter / 2) * Math.cos((k * Math.PI) / 36),
      (box.minY + box.maxY) / 2 + (blank.diameter / 2) * Math.sin((k * Math.PI) / 36),
    ]);
  }

  /** Where the chosen step is held in plan, in the frame of the work zero. */
  readonly limits = computed(
    (): LimitLine[] => {
      const [x, y] = this.zero();
      return (this.step()?.limits ?? []).filter(isPlanLimit).map(({ kind, points }) => ({
        isClosed: kind === 'clear',
        points: points.map(([u, v]) => [u - x, v - y]),
      }));
    },
    { equal: same },
  );

  /** Heights between which the chosen step is held; those that are open lie at an end of the block. */
  readonly heights = computed(
    (): HeightGrip[] => {
      const [step, block] = [this.step(), this.block()];
      if (!step || !block) return [];
      return (kindOf(step.kind)?.fields ?? [])
        .filter(({ height }) => height)
        .map(({ key, label }) => {
          const value = step.values[key];
          const isOpen = typeof value !== 'number';
          return { key, label, z: isOpen ? (key === 'bottom' ? block.minZ : block.maxZ) : value, isOpen };
        });
    },
    { equal: same },
  );
  readonly stepId = computed(() => this.step()?.id);
  /** The pattern of the chosen step before it is calculated, as ends of lines in the frame of the work zero. */
  readonly sketch = computed(() => (this.partOnly() ? undefined : this.expectedLook.told()?.sketch?.lines));

  /** Heights that hold one that is dragged: level edges of the part, and the ends of the block. */
  levels(): number[] {
    const [drawing, block] = [this.drawing(), this.block()];
    if (!block) return [];
    const [, , up] = axesOf(this.lay());
    const ends = [block.minZ, block.maxZ];
    return drawing ? [...ends, ...levelPlaces(drawing.folds, up, this.zero()[2])] : ends;
  }

  /** How much of the part is seen through the steel: a block that nothing was cut of yet tells nothing by itself. */
  readonly through = computed(() =>
    this.at() === undefined && this.lens() === 'steel'
      ? Math.max(PART_INSIDE, this.lensData.through())
      : this.lensData.through(),
  );

  readonly caption = computed(() => {
    const caption = LENSES.find((l) => l.id === this.lens())!.caption;
    if (
      this.lens() === 'part' ||
      this.lensData.shown()?.isRegion ||
      this.lens() === 'reach' ||
      this.lens() === 'ridges' ||
      this.lens() === 'load'
    )
      return caption;
    const at = this.at();
    if (!at) return this.part() ? 'full block, the part inside' : '';
    const index = this.job()?.steps.findIndex((s) => s.id === at.summary.stepId) ?? -1;
    const time =
      timeBefore(this.job()!, this.summaries(), at.summary.stepId) + (runOf(at.summary).times[at.motion] ?? 0);
    return `steel at ${clock(time)}, step ${index + 1}, motion ${at.motion}`;
  });

  /** What is wrong at the motion at which the playhead stands. */
  readonly wrongHere = computed((): string | undefined => {
    const at = this.at();
    return at?.summary.figures.findings.flatMap(({ places }) => places).find(({ motion }) => motion === at.motion)
      ?.text;
  });

  /** Where something is wrong: in all steps for the lens, else at the playhead. In the frame of the work zero. */
  readonly crosses = computed(
    (): Vec3[] => {
      const isLens = this.lens() === 'contacts';
      const at = this.at();
      return this.summaries().flatMap((summary) => {
        const { x, y, z } = runOf(summary).path;
        return summary.figures.findings.flatMap(({ places }) =>
          places
            .filter(({ motion }) => isLens || (summary === at?.summary && motion === at.motion))
            .map(({ motion: k }): Vec3 => [x[k]!, y[k]!, z[k]!]),
        );
      });
    },
    { equal: same },
  );

  /** What is lit or limits the chosen step, as a box in the frame of the work zero. */
  readonly chosenBox = computed((): Box | undefined => {
    const block = this.block();
    const plan = this.limits().flatMap((l) => l.points);
    if (!block) return undefined;
    const marks = this.marks().map((m) => m.map((v, k) => v - this.zero()[k]!));
    const points = [
      ...plan.flatMap(([x, y]) => [
        [x, y, block.minZ],
        [x, y, block.maxZ],
      ]),
      ...marks,
    ];
    if (points.length === 0) return undefined;
    const along = (axis: number): [number, number] => {
      const values = points.map((p) => p[axis]!);
      return [Math.min(...values) - FIT_BESIDE_MM, Math.max(...values) + FIT_BESIDE_MM];
    };
    const [[minX, maxX], [minY, maxY], [minZ, maxZ]] = [along(0), along(1), along(2)];
    return { minX, maxX, minY, maxY, minZ, maxZ };
  });
}
