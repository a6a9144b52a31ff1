import type { LeftOut } from '../link/context';
import { Motion, type Motions, motionLength } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';

/**
 * What milling hardened steel is held against, beside air instead of flood. All of it is common practice, no source: the edge bears
 * no sudden load, so it meets no more than a part of a turn, goes down along a slope, never turns back and never stops in the cut.
 */
export const HARD_STEEL = {
  /** Largest engagement angle in a cut, degrees. */
  angleDeg: 120,
  /** From here on it is a full slot, degrees. */
  slotDeg: 170,
  /** Least radius of the path, in diameters. */
  radius: 0.05,
} as const;

/** A motion that takes less than this is none in steel, mm³. */
const TAKEN_MM3 = 1e-4;
/** A way straight down takes a sliver on the mean over the cutter's disc where it only comes back to its depth, mm. */
const SLIVER_MM = 0.005;
/** The axis turns back where it turns by more, and a corner is one from here on, rad. */
const BACK_RAD = (150 * Math.PI) / 180;
const CORNER_RAD = (30 * Math.PI) / 180;
/** Shorter stretches over the largest angle are a corner's own peak, mm. */
const SHORTEST_MM = 0.5;

interface Broken {
  /** How often, or along how much. */
  count: number;
  length: number;
  /** The worst of it, and the motion of that. */
  worst: number;
  motion: number;
}

/** Where a step breaks the rules for hard steel: each rule once, at its worst place, from the simulated steel. */
export function hardSteelNotes(
  motions: Motions,
  engagement: Engagement,
  removed: Float32Array,
  { DC }: { readonly DC: number },
): LeftOut[] {
  const { x, y, z } = motions;
  const notes: LeftOut[] = [];
  const tell = (broken: Broken, words: (broken: Broken) => string): void => {
    const k = broken.motion;
    if (broken.count > 0) notes.push({ why: words(broken), x: x[k]!, y: y[k]!, z: z[k]! });
  };
  const { over, slots } = engaged(motions, engagement);
  tell(slots, (b) => `Hard steel: a full slot along ${b.length.toFixed(1)} mm`);
  tell(
    over,
    (b) =>
      `Hard steel: it meets steel over up to ${b.worst.toFixed(0)}° along ${b.length.toFixed(1)} mm, more than ${HARD_STEEL.angleDeg}°`,
  );
  const { plunges, backs, corners } = turns(motions, removed, DC);
  tell(plunges, (b) => `Hard steel: it goes straight down into steel ${times(b.count)}`);
  tell(backs, (b) => `Hard steel: it stops and turns back in the cut ${times(b.count)}`);
  tell(
    corners,
    (b) =>
      `Hard steel: its path turns tighter than ${(HARD_STEEL.radius * DC).toFixed(2)} mm in the cut ${times(b.count)}`,
  );
  return notes;
}

const none = (): Broken => ({ count: 0, length: 0, worst: 0, motion: 0 });
const times = (count: number): string => (count === 1 ? 'once' : `${count} times`);

/** Cuts that meet too much, and full slots: each only where that lasts. */
function engaged({ kind }: Motions, { motion, length, angle }: Engagement): { over: Broken; slots: Broken } {
  const [over, slots] = [none(), none()];
  const limits = [
    { broken: over, from: HARD_STEEL.angleDeg, to: HARD_STEEL.slotDeg },
    { broken: slots, from: HARD_STEEL.slotDeg, to: Infinity },
  ];
  for (const { broken, from, to } of limits) {
    let [run, worst, at] = [0, 0, 0];
    const end = (): void => {
      if (run >= SHORTEST_MM) {
        broken.count++;
        broken.length += run;
        if (worst > broken.worst) Object.assign(broken, { worst, motion: at });
      }
      [run, worst] = [0, 0];
    };
    for (let k = 0; k < motion.length; k++) {
      const degrees = (angle[k]! * 180) / Math.PI;
      if (kind[motion[k]!] !== Motion.cut || !(degrees > from && degrees <= to)) {
        end();
        continue;
      }
      run += length[k]!;
      if (degrees > worst) [worst, at] = [degrees, motion[k]!];
    }
    end();
  }
  return { over, slots };
}

/** Ways straight down, ways back, and corners, all in steel. */
function turns(
  motions: Motions,
  removed: Float32Array,
  DC: number,
): { plunges: Broken; backs: Broken; corners: Broken } {
  const { x, y, z, kind } = motions;
  const least = HARD_STEEL.radius * DC;
  const sliver = SLIVER_MM * (Math.PI / 4) * DC ** 2;
  const [plunges, backs, corners] = [none(), none(), none()];
  const note = (broken: Broken, motion: number, worst: number): void => {
    broken.count++;
    if (worst > broken.worst) Object.assign(broken, { worst, motion });
  };
  const isIn = (k: number): boolean => kind[k] !== Motion.rapid && removed[k]! > TAKEN_MM3;
  for (let k = 1; k < x.length; k++) {
    if (!isIn(k)) continue;
    const down = z[k - 1]! - z[k]!;
    if (down > 0 && x[k] === x[k - 1] && y[k] === y[k - 1] && removed[k]! > sliver) note(plunges, k, down);
    if (k + 1 >= x.length || !isIn(k + 1)) continue;
    const turn = turnAt(motions, k);
    if (turn > BACK_RAD) note(backs, k, turn);
    else if (turn > CORNER_RAD) {
      const radius = (motionLength(motions, k) + motionLength(motions, k + 1)) / 2 / turn;
      // between long motions the corner itself has no radius at all
      if (turn > 2 * CORNER_RAD || radius < least) note(corners, k, turn);
    }
  }
  return { plunges, backs, corners };
}

/** By how much a path turns at the end of a motion, rad. */
function turnAt({ x, y, z }: Motions, k: number): number {
  const [ax, ay, az] = [x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!];
  const [bx, by, bz] = [x[k + 1]! - x[k]!, y[k + 1]! - y[k]!, z[k + 1]! - z[k]!];
  const dot = ax * bx + ay * by + az * bz;
  return Math.acos(Math.max(-1, Math.min(1, dot / (Math.hypot(ax, ay, az) * Math.hypot(bx, by, bz) || 1))));
}
