import { EsquisseError, type StepBodies, type StepReader } from '@esquisse/core';

interface Answer {
  id: number;
  bodies?: StepBodies;
  error?: string;
}

let worker: Worker | undefined;
let next = 0;
/** What ends each reading that goes on when it is called off. */
const underWay = new Set<() => void>();

/** Ends all readings that go on, with the worker that they go on in. */
export function stopStepReader(): void {
  if (underWay.size === 0) return;
  worker?.terminate();
  worker = undefined;
  for (const end of [...underWay]) end();
}

/** The STEP reader of the browser, in a worker of its own that is started when first wanted. */
export const readStepFile: StepReader = (bytes, options) =>
  new Promise((resolve, reject) => {
    worker ??= new Worker('/step/step-worker.js');
    const own = worker;
    const id = next++;
    const stop = (): void => {
      settle();
      reject(new EsquisseError('cancelled', 'Called off.'));
    };
    underWay.add(stop);
    const settle = (): void => {
      underWay.delete(stop);
      own.removeEventListener('message', onMessage);
      own.removeEventListener('error', onError);
    };
    const onMessage = (event: MessageEvent<Answer>): void => {
      if (event.data.id !== id) return;
      settle();
      if (event.data.bodies) resolve(event.data.bodies);
      else {
        // a module that failed once is not to be trusted with the next file
        if (worker === own) worker = undefined;
        own.terminate();
        reject(new Error(event.data.error ?? 'no reason given'));
      }
    };
    const onError = (): void => {
      settle();
      worker = undefined;
      own.terminate();
      reject(new Error('The STEP reader has ended.'));
    };
    own.addEventListener('message', onMessage);
    own.addEventListener('error', onError);
    own.postMessage({ id, bytes, options });
  });
