import { type BrowserContext, test as base } from '@playwright/test';
import { openDemo, openJob } from './bench';

type Kept = Awaited<ReturnType<BrowserContext['storageState']>>;

/** What is kept between visits that holds no job: a STEP file of the demo takes a quarter of a minute to read. */
const WITHOUT_JOBS = new Set(['meshes']);

/** Tests of somebody who has read the parts of the demo's jobs before, and has kept nothing else. */
export const test = base.extend<object, { partsRead: Kept }>({
  partsRead: [
    async ({ browser }, use, { project }) => {
      const { baseURL, viewport } = project.use;
      const context = await browser.newContext({ ...(baseURL ? { baseURL } : {}), viewport: viewport ?? null });
      // at a first visit the demo works itself out: not asked for here
      await context.addInitScript(() => localStorage.setItem('esquisse.visited', 'yes'));
      const page = await context.newPage();
      await openDemo(page);
      await openJob(page, 'Trowel grip, die half');
      const { origins } = await context.storageState({ indexedDB: true });
      await context.close();
      await use({
        cookies: [],
        origins: origins.map((origin) => ({
          ...origin,
          localStorage: origin.localStorage.filter(({ name }) => name === 'esquisse.visited'),
          ...meshesOf(origin),
        })),
      });
    },
    { scope: 'worker', timeout: 300_000 },
  ],
  storageState: ({ partsRead }, use) => use(partsRead),
});

/** The databases of a page with the stores that hold no job; the others are there and empty. */
function meshesOf(origin: object): object {
  const { indexedDB = [] } = origin as { indexedDB?: { stores: { name: string; records: unknown[] }[] }[] };
  return {
    indexedDB: indexedDB.map((database) => ({
      ...database,
      stores: database.stores.map((store) => (WITHOUT_JOBS.has(store.name) ? store : { ...store, records: [] })),
    })),
  };
}
