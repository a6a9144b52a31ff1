import { type Crew, spansOf } from '../crew/crew';
import { defineTask } from '../crew/task';
import type { Motions } from '../path/toolpath';
import { copyMap, type HeightMap } from '../steel/heightMap';
import type { BandHistory } from '../steel/history';
import { TILE } from '../steel/sweep';
import type { Body, Mishap } from './body';
import { type Engagement, joinLoads } from './engagement';
import { type BandReport, machineBand } from './machining';

/** Bands of rows that the steel is divided into, whatever the number of workers: results stay the same to the bit. */
export const BANDS = 12;

/** Share of the cutter's disc that steep motions must freshly cut, one after another, to count as a plunge. */
const PLUNGE_SHARE = 0.3;

/** Runs a path over a band of steel. */
export const machineTask = defineTask(
  'machine',
  (
    {
      map,
      rows,
      body,
      path,
      ...more
    }: {
      map: HeightMap;
      rows: [number, number];
      body: Body;
      path: Motions;
      marks: Uint32Array;
      isLoadWanted: boolean;
    },
    cancel,
  ) => machineBand(map, rows, body, path, [0, path.x.length], more, cancel),
);

/** What a path does to the steel, and what it meets. */
export interface Machined {
  readonly after: HeightMap;
  /** The steel on the way, band by band. */
  readonly history: readonly BandHistory[];
  readonly mishaps: readonly Mishap[];
  /** Volume taken off by each motion, mm³. */
  readonly removed: Float32Array;
  /** Smallest stick-out that would have kept the holder clear, mm. */
  readonly neededStickOut: number;
  /** How much of the cutter is in steel along the way; nothing unless it was asked for. */
  readonly engagement: Engagement;
}

/**
 * Runs a path over a copy of the steel.
 *
 * @param isLoadWanted whether it is looked at how much of the cutter is in steel
 * @param markEvery the steel's state is kept before every so many motions; never when left out
 */
export async function runOver(
  before: HeightMap,
  path: Motions,
  body: Body,
  crew: Crew,
  {
    markEvery = Infinity,
    isLoadWanted = false,
    progress,
  }: { markEvery?: number; isLoadWanted?: boolean; progress?: (share: number) => void } = {},
): Promise<Machined> {
  const after = copyMap(before);
  const count = Math.max(0, Math.floor((path.x.length - 1) / markEvery));
  const marks = Uint32Array.from({ length: count }, (_, k) => (k + 1) * markEvery);
  const spans = spansOf(after.ny, BANDS, TILE);
  const bands = await crew.all(
    machineTask,
    spans.map((rows) => ({ map: after, rows, body, path, marks, isLoadWanted })),
    (done) => progress?.(done / spans.length),
  );
  const engagement = joinLoads(
    bands.map((band) => band.load),
    body.piece,
    after.cell,
  );
  return { after, history: bands.map((band) => band.history), engagement, ...joinBands(bands) };
}

/** Joins what the bands of rows tell. */
export function joinBands(bands: readonly BandReport[]): {
  mishaps: Mishap[];
  removed: Float32Array;
  neededStickOut: number;
} {
  const removed = new Float32Array(bands[0]?.removed.length ?? 0);
  for (const band of bands) for (let i = 0; i < removed.length; i++) removed[i]! += band.removed[i]!;
  return {
    mishaps: withWholePlunges(bands.flatMap((b) => b.mishaps)),
    removed,
    neededStickOut: Math.max(0, ...bands.map((b) => b.neededStickOut)),
  };
}

/** Mishaps with what the bands tell of the steel under a cutter that goes straight down summed, motion by motion. */
function withWholePlunges(mishaps: readonly Mishap[]): Mishap[] {
  const shares = new Map<number, number>();
  for (const { kind, motion, amount } of mishaps)
    if (kind === 'plunge') shares.set(motion, (shares.get(motion) ?? 0) + amount);
  const plunges = [...shares].filter(([, amount]) => amount > PLUNGE_SHARE);
  return [
    ...mishaps.filter(({ kind }) => kind !== 'plunge'),
    ...plunges.map(([motion, amount]): Mishap => ({ kind: 'plunge', motion, amount })),
  ];
}
