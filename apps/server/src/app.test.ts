import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { request, type IncomingHttpHeaders, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createApp } from './app';

const root = mkdtempSync(join(tmpdir(), 'served-'));
let server: Server;

beforeAll(async () => {
  mkdirSync(join(root, 'step'));
  const files: Record<string, string> = {
    'index.html': '<html><body><esq-root></esq-root></body></html>',
    'main-ABCD1234.js': `/* ${'x'.repeat(4000)} */`,
    'plain.txt': 'x',
    'step/step-worker.js': 'x',
    'step/occt-import-js.js': 'x',
  };
  for (const [name, text] of Object.entries(files)) writeFileSync(join(root, name), text);
  server = createApp(root, ['shop.example']).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(() => {
  server.close();
  rmSync(root, { recursive: true });
});

/** What comes back for a path as it is written, unlike with `fetch`, which mends it. */
function got(
  path: string,
  headers: Record<string, string> = {},
): Promise<{ status: number; headers: IncomingHttpHeaders; text: string }> {
  const { port } = server.address() as AddressInfo;
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port, path, headers: { host: 'localhost', ...headers } }, (response) => {
      let text = '';
      response.setEncoding('utf8');
      response.on('data', (part: string) => (text += part));
      response.on('end', () => resolve({ status: response.statusCode!, headers: response.headers, text }));
    })
      .on('error', reject)
      .end();
  });
}
const policy = async (path: string): Promise<string> => String((await got(path)).headers['content-security-policy']);

describe('the server', () => {
  it('nothing but the STEP reader’s own script may make code of text', async () => {
    expect(await policy('/step/step-worker.js')).toContain("'unsafe-eval'");
    for (const path of [
      '/',
      '/piece',
      '/step/anything',
      '/step/occt-import-js.js',
      '/main-ABCD1234.js',
      '/step/',
      '/STEP/step-worker.js',
    ])
      expect(await policy(path)).not.toContain("'unsafe-eval'");
    expect((await got('/step/anything')).status).toBe(404);
  });

  it('the page’s styles carry a nonce that is another one each time, and no text becomes a script', async () => {
    const nonces = new Set<string>();
    for (let k = 0; k < 3; k++) {
      const { text, headers } = await got('/workplan');
      const nonce = /ngCspNonce="([^"]+)"/.exec(text)![1]!;
      const told = String(headers['content-security-policy']);
      expect(told).toContain(`style-src 'self' 'nonce-${nonce}'`);
      expect(told).not.toContain('unsafe-inline');
      expect(told).toContain("require-trusted-types-for 'script'");
      nonces.add(nonce);
    }
    expect(nonces.size).toBe(3);
  });

  it('an address that cannot be read gets 400 in words, with nothing of the program in them', async () => {
    for (const path of ['/%E0%A4%A', '/%', '/demo/%ff']) {
      const { status, text } = await got(path);
      expect(status).toBe(400);
      expect(text).toBe('This address cannot be read.');
    }
    for (const path of ['/../package.json', '/..%2f..%2fpackage.json', '/none.js'])
      expect((await got(path)).status).toBeGreaterThanOrEqual(400);
  });

  it('it answers by its own names only', async () => {
    for (const host of ['localhost', 'localhost:4600', '127.0.0.1', '[::1]:4600', 'shop.example', 'SHOP.example:80'])
      expect((await got('/', { host })).status).toBe(200);
    for (const host of ['evil.example', 'localhost.evil.example', 'evil.example:4600']) {
      const { status, text } = await got('/', { host });
      expect(status).toBe(421);
      expect(text).toContain('does not answer as');
    }
  });

  it('hashed files are kept for a year, all others asked for again; long ones are packed', async () => {
    expect((await got('/main-ABCD1234.js')).headers['cache-control']).toContain('immutable');
    for (const path of ['/plain.txt', '/step/step-worker.js'])
      expect((await got(path)).headers['cache-control']).toBe('no-cache');
    expect((await got('/')).headers['cache-control']).toBe('no-store');
    expect((await got('/main-ABCD1234.js', { 'accept-encoding': 'gzip' })).headers['content-encoding']).toBe('gzip');
  });
});
