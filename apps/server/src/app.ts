import { join } from 'node:path';
import express, { type Express } from 'express';

/** What the page may do: its own scripts only, WebAssembly, workers, and styles set by the framework. */
const PAGE_POLICY = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "worker-src 'self' blob:",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self'",
  "connect-src 'self'",
  "object-src 'none'",
  "base-uri 'self'",
  "form-action 'none'",
  "frame-ancestors 'none'",
].join('; ');

/** The STEP reader builds functions from text: its own worker alone may, and it may load nothing but itself. */
const STEP_WORKER_POLICY = "default-src 'none'; script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval'; connect-src 'self'";

/** Serves the built application with the headers that shared memory and a strict policy need. */
export function createApp(root: string): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use((request, response, next) => {
    response.set({
      'Cross-Origin-Opener-Policy': 'same-origin',
      'Cross-Origin-Embedder-Policy': 'require-corp',
      'Cross-Origin-Resource-Policy': 'same-origin',
      'X-Content-Type-Options': 'nosniff',
      'Referrer-Policy': 'no-referrer',
      'Content-Security-Policy': request.path.startsWith('/step/') ? STEP_WORKER_POLICY : PAGE_POLICY,
    });
    next();
  });
  app.use(express.static(root, { index: false }));
  app.get('/{*path}', (request, response) => {
    // a file that is not there is not the page
    if (/\.[a-z0-9]+$/i.test(request.path)) response.status(404).type('text/plain').send('Not found');
    else response.sendFile(join(root, 'index.html'));
  });
  return app;
}
