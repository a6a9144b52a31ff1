import { randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { FILE_POLICY, pagePolicy, STEP_READER, STEP_READER_POLICY } from './policy';

/** Names that this machine is called by; others must be named, or a page of another site could reach this one by its own. */
const LOCAL_HOSTS = ['localhost', '127.0.0.1', '[::1]'];
/** Files whose name holds a hash of their content never change. */
const HASHED = /-[A-Z0-9]{8}\.(js|css|wasm|woff2?)$/;
const FOR_A_YEAR = 'public, max-age=31536000, immutable';

/**
 * Serves the built application with the headers that shared memory and a strict policy need.
 *
 * @param root folder of the built application
 * @param hosts further names that it may be asked by
 */
export function createApp(root: string, hosts: readonly string[] = []): Express {
  const app = express();
  const known = new Set([...LOCAL_HOSTS, ...hosts]);
  app.disable('x-powered-by');
  app.use((request, response, next) => {
    response.set({
      'Cross-Origin-Opener-Policy': 'same-origin',
      'Cross-Origin-Embedder-Policy': 'require-corp',
      'Cross-Origin-Resource-Policy': 'same-origin',
      'X-Content-Type-Options': 'nosniff',
      'Referrer-Policy': 'no-referrer',
      'Content-Security-Policy': request.path === STEP_READER ? STEP_READER_POLICY : FILE_POLICY,
    });
    const host = (request.headers.host ?? '').replace(/:\d+$/, '');
    if (known.has(host.toLowerCase())) next();
    else
      response
        .status(421)
        .type('text/plain')
        .send(
          `This server does not answer as "${host.slice(0, 80)}". Name it with HOSTS=${host.slice(0, 80)} npm start.`,
        );
  });
  app.use(compression());
  app.use(
    express.static(root, {
      index: false,
      redirect: false,
      setHeaders: (response, path) => response.set('Cache-Control', HASHED.test(path) ? FOR_A_YEAR : 'no-cache'),
    }),
  );
  app.get('/{*path}', async (request, response) => {
    // a file that is not there is not the page
    if (/\.[a-z0-9]+$/i.test(request.path) || /^\/(step|demo|media)\//.test(request.path)) {
      response.status(404).type('text/plain').send('Not found');
      return;
    }
    const page = await readFile(join(root, 'index.html'), 'utf8');
    const nonce = randomBytes(18).toString('base64');
    response
      .set({ 'Content-Security-Policy': pagePolicy(nonce), 'Cache-Control': 'no-store' })
      .type('html')
      .send(page.replace('<esq-root', `<esq-root ngCspNonce="${nonce}"`));
  });
  const refuse: ErrorRequestHandler = (error: { status?: number }, _request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const status = error.status && error.status < 500 ? error.status : 500;
    response
      .status(status)
      .type('text/plain')
      .send(status === 500 ? 'Something went wrong.' : 'This address cannot be read.');
  };
  app.use(refuse);
  return app;
}
