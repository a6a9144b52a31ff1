import type { Cancel } from '../base/cancel';
import { ProfileDrop } from '../tool/drop';
import type { Profile } from '../tool/profile';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Motions } from '../path/toolpath';
import { FIXTURE_CLEARANCE_MM } from '../field/bounds';
import type { Body, Mishap } from '../simulate/body';

/** Less than this is rounding, mm. */
const ROUNDING_MM = 1e-6;
/** How often a motion is looked at, mm: less than the clearance, so that nothing is met between two looks. */
const LOOK_MM = 0.4;

/**
 * Looks along motions `span[0]` to `span[1]` (exclusive) for cutter, shank or holder nearer to a fixture than the
 * clearance; the amount is how far the tool would have to be raised, mm.
 */
export function fixtureContacts(
  fixtures: ContactMesh,
  body: Body,
  path: Motions,
  span: readonly [number, number],
  cancel?: Cancel,
): Mishap[] {
  const profile = grown(
    [body.piece, ...body.shank, ...body.holder.map((p) => ({ ...p, z: p.z + body.stickOut }))],
    FIXTURE_CLEARANCE_MM,
  );
  const drop = new ProfileDrop(fixtures, profile);
  const reach = Math.max(...profile.map((p) => p.radius));
  const { box } = fixtures;
  const out: Mishap[] = [];
  const { x, y, z } = path;
  for (let i = Math.max(1, span[0]); i < span[1]; i++) {
    if ((i & 63) === 0) cancel?.check();
    if (Math.min(z[i - 1]!, z[i]!) >= box.maxZ + FIXTURE_CLEARANCE_MM) continue;
    if (Math.max(x[i - 1]!, x[i]!) + reach < box.minX || Math.min(x[i - 1]!, x[i]!) - reach > box.maxX) continue;
    if (Math.max(y[i - 1]!, y[i]!) + reach < box.minY || Math.min(y[i - 1]!, y[i]!) - reach > box.maxY) continue;
    const dx = x[i]! - x[i - 1]!;
    const dy = y[i]! - y[i - 1]!;
    const dz = z[i]! - z[i - 1]!;
    const steps = Math.max(1, Math.ceil(Math.hypot(dx, dy, dz) / LOOK_MM));
    let amount = 0;
    for (let k = i === 1 ? 0 : 1; k <= steps; k++) {
      const t = k / steps;
      const tip = z[i - 1]! + t * dz;
      amount = Math.max(amount, drop.at(x[i - 1]! + t * dx, y[i - 1]! + t * dy, tip) - tip);
    }
    if (amount > ROUNDING_MM) out.push({ kind: 'fixture', motion: i, amount });
  }
  return out;
}

/** A profile wider and lower by `by` mm. */
function grown(profile: Profile, by: number): Profile {
  return profile.map((p) => ({ ...p, z: p.z - by, flat: p.flat + by, radius: p.radius + by }));
}
