/** What a motion is for; it decides feed, colour and what is counted. */
export enum Motion {
  /** At rapid rate, above all steel or through cleared space. */
  rapid = 0,
  cut = 1,
  /** Into steel: helix, ramp, lead-in. */
  entry = 2,
  exit = 3,
  /** Between cuts without leaving the work. */
  link = 4,
}
