/** The kernels of one module, compiled by `scripts/kernels.mjs` into `geometry/kernelCode.ts`. */
export { FREE, place } from './mesh';
export { bullTouch, drop } from './drop';
export { closest } from './closest';
