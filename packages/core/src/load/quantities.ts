/** Quantities of milling in the terms of ISO 3002; lengths in mm, angles in degrees where named so, forces in N. */

/** Young's modulus of sintered carbide, N/mm². */
export const CARBIDE_E = 600_000;
/** Young's modulus of steel, N/mm². */
export const STEEL_E = 210_000;
/** Mean diameter of a fluted length as a share of DC: common practice, no source. */
export const FLUTED_SHARE = 0.8;

/** Engagement angle φ = arccos(1 - 2 ae / DC), degrees (ISO 3002-3; geometry). */
export function engagementAngle(ae: number, diameter: number): number {
  return (Math.acos(Math.max(-1, Math.min(1, 1 - (2 * ae) / diameter))) * 180) / Math.PI;
}

/** Largest chip thickness hex = fz sin φ up to a quarter turn, then fz, mm. */
export function largestChip(fz: number, engagementDeg: number): number {
  return engagementDeg < 90 ? fz * Math.sin((engagementDeg * Math.PI) / 180) : fz;
}

/** By how much the thickest chip of a turn is thicker than at even pitches: as its pitch is to the mean one (geometry). */
export function unevenPitch({ ZEFP, largestPitch }: { ZEFP: number; largestPitch: number | null }): number {
  return largestPitch === null ? 1 : (largestPitch * ZEFP) / 360;
}

/** Mean chip thickness over the engagement: area of the comma-shaped chip over its length, hm = fz ae / (DC / 2 φ), mm. */
export function meanChip(fz: number, ae: number, diameter: number, engagementDeg: number): number {
  const arc = (diameter / 2) * ((engagementDeg * Math.PI) / 180);
  return arc > 0 ? (fz * ae) / arc : 0;
}

/** Diameter that cuts at a depth ap: of a ball 2 sqrt(ap (DC - ap)), of a bull-nose its flat and the same of its corner. */
export function effectiveDiameter(DC: number, RE: number, ap: number): number {
  if (RE <= 0 || ap >= RE) return DC;
  return DC - 2 * RE + 2 * Math.sqrt(ap * (2 * RE - ap));
}

/** Cutting force Fc = kc1.1 b h^(1 - mc) on one edge (Kienzle 1952), N. */
export function cuttingForce(kc11: number, mc: number, width: number, chip: number): number {
  return chip > 0 ? kc11 * width * Math.pow(chip, 1 - mc) : 0;
}

/** Helix of end mills whose angle is not told, degrees: common practice, no source. */
export const HOUSE_HELIX_DEG = 30;

/**
 * Teeth that share a cut, on the mean of the time in which any of them cuts: all of them over the whole turn, but of a tooth the
 * cut lasts longer than its arc by what its helix lags behind over the depth (geometry).
 *
 * @param arc engagement, rad
 * @param helixDeg angle of the edges to the axis
 */
export function teethInCut(
  teeth: number,
  arc: number,
  depth: number,
  radius: number,
  helixDeg: number = HOUSE_HELIX_DEG,
): number {
  const ofTurn = (teeth * arc) / (2 * Math.PI);
  const lag = (depth * Math.tan((helixDeg * Math.PI) / 180)) / radius;
  return ofTurn * Math.max(1, (2 * Math.PI) / (teeth * (arc + lag)));
}

/** Second moment of area of a round bar, π d⁴ / 64, mm⁴. */
export function secondMoment(diameter: number): number {
  return (Math.PI * diameter ** 4) / 64;
}

/** A piece of a cantilever: length and diameter, mm; Young's modulus in N/mm², that of carbide when left out. */
export interface Bar {
  length: number;
  diameter: number;
  modulus?: number;
}

/**
 * Bending at the free end of a cantilever of round bars, told from that end: δ = F / 3 Σ (z₂³ - z₁³) / (E I) with z from the
 * free end; F L³ / (3 E I) for one bar (beam theory), mm.
 */
export function tipDeflection(force: number, bars: readonly Bar[]): number {
  let from = 0;
  let sum = 0;
  for (const { length, diameter, modulus = CARBIDE_E } of bars) {
    const to = from + length;
    sum += (to ** 3 - from ** 3) / (modulus * secondMoment(diameter));
    from = to;
  }
  return (force * sum) / 3;
}
