/** Of cases that take long the first few at every run, all of them with the proofs (`ESQUISSE_PROOF` in the environment). */
export const mostly = <T>(usual: number, all: readonly T[]): T[] =>
  all.slice(0, process.env['ESQUISSE_PROOF'] ? all.length : usual);
