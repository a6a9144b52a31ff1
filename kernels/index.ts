/** The kernels of one module, compiled by `scripts/kernels.mjs` into `geometry/kernelCode.ts`. */
export { place } from './mesh';
export { forget } from './near';
export { drop } from './drop';
export { closest } from './closest';
