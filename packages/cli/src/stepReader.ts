import { createRequire } from 'node:module';
import type { StepBodies, StepOptions, StepReader } from '@esquisse/core';

interface StepModule {
  ReadStepFile(bytes: Uint8Array, options: StepOptions): StepBodies;
}

type Load = (options: { print: (line: string) => void; printErr: (line: string) => void }) => Promise<StepModule>;

let loading: Promise<StepModule> | undefined;
/** What the reader complains of while it reads. */
let faults = 0;
const note = (line: string): void => {
  if (line.includes('ERR')) faults++;
};

/** The STEP reader under Node; its module is loaded once, when first wanted. */
export const readStepFile: StepReader = async (bytes, options) => {
  const require = createRequire(import.meta.url);
  loading ??= (require('occt-import-js') as Load)({ print: note, printErr: note });
  try {
    const module = await loading;
    faults = 0;
    return { ...module.ReadStepFile(bytes, options), faults };
  } catch (error) {
    // a module that failed once is not to be trusted with the next file
    loading = undefined;
    throw error;
  }
};
