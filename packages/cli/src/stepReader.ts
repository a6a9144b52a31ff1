import { createRequire } from 'node:module';
import type { StepBodies, StepOptions, StepReader } from '@esquisse/core';

interface StepModule {
  ReadStepFile(bytes: Uint8Array, options: StepOptions): StepBodies;
}

let loading: Promise<StepModule> | undefined;

/** The STEP reader under Node; its module is loaded once, when first wanted. */
export const readStepFile: StepReader = async (bytes, options) => {
  const require = createRequire(import.meta.url);
  loading ??= (require('occt-import-js') as () => Promise<StepModule>)();
  return (await loading).ReadStepFile(bytes, options);
};
