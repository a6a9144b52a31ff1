/** What a worker tells the page once its lock is held. */
export const ALIVE = 'alive';

/**
 * Holds a lock with the worker's name for as long as the worker lives: the browser frees it when the worker ends, for
 * whatever reason, and whoever waits for it learns of that.
 */
export function holdLife(scope: DedicatedWorkerGlobalScope): void {
  void navigator.locks.request(scope.name, () => {
    scope.postMessage(ALIVE);
    return new Promise<never>(() => undefined);
  });
}

/** Resolves when a worker has ended. @param name under which it was started */
export async function endOf(worker: Worker, name: string): Promise<void> {
  const failed = new Promise<void>((resolve) => {
    worker.addEventListener('error', () => resolve());
  });
  const begun = new Promise<void>((resolve) => {
    worker.addEventListener('message', function look({ data }: MessageEvent) {
      if (data !== ALIVE) return;
      worker.removeEventListener('message', look);
      resolve();
    });
  });
  const freed = begun.then(() => navigator.locks.request(name, () => undefined));
  await Promise.race([failed, freed]);
}
