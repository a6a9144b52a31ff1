import { EsquisseError, type StepBodies, type StepReader } from '@esquisse/core';

interface Answer {
  id: number;
  bodies?: StepBodies;
  error?: string;
}

let worker: Worker | undefined;
let next = 0;

/** The STEP reader of the browser, in a worker of its own that is started when first wanted. */
export const readStepFile: StepReader = (bytes, options) =>
  new Promise((resolve, reject) => {
    worker ??= new Worker('/step/step-worker.js');
    const own = worker;
    const id = next++;
    const settle = (): void => {
      own.removeEventListener('message', onMessage);
      own.removeEventListener('error', onError);
    };
    const onMessage = (event: MessageEvent<Answer>): void => {
      if (event.data.id !== id) return;
      settle();
      if (event.data.bodies) resolve(event.data.bodies);
      else
        reject(
          new EsquisseError(
            'file-unreadable',
            `The STEP file cannot be read: ${event.data.error ?? 'no reason given'}.`,
          ),
        );
    };
    const onError = (): void => {
      settle();
      worker = undefined;
      own.terminate();
      reject(new EsquisseError('file-unreadable', 'The STEP reader failed on this file.'));
    };
    own.addEventListener('message', onMessage);
    own.addEventListener('error', onError);
    own.postMessage({ id, bytes, options });
  });
