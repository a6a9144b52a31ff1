/** Side step (mm) on a plane that leaves scallops of height h between passes of a ball of radius R: s = 2 sqrt(2Rh - h²). */
export function sideStepFor(radius: number, scallop: number): number {
  const h = Math.min(scallop, radius);
  return 2 * Math.sqrt(2 * radius * h - h * h);
}

/** Scallop height (mm) that a side step leaves on a plane: h = R - sqrt(R² - (s/2)²), for s up to 2R. */
export function scallopOf(radius: number, step: number): number {
  const half = Math.min(step / 2, radius);
  return radius - Math.sqrt(radius * radius - half * half);
}

/**
 * Passes may lie this much farther apart than is wanted before one is put between: ridges grow with the square of it, to 1.1 of
 * what is asked for.
 */
export const ENOUGH = 1.05;
