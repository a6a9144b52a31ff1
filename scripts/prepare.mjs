/** What start and test need before they can run: packages, the built application, the browser. No package is used here. */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Runs a command and ends the whole when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) {
    console.error(`"${[command, ...args].join(' ')}" failed.`);
    process.exit(result.status ?? 1);
  }
}

/** A tool of the project's own packages. */
export function runTool(name, args, options) {
  run(process.execPath, [join(root, 'node_modules', ...name.split('/')), ...args], options);
}

function hashOf(paths, isMeant = () => true) {
  const hash = createHash('sha256');
  const add = (path) => {
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else if (isMeant(path)) hash.update(path.slice(root.length)).update(readFileSync(path));
  };
  for (const path of paths) add(join(root, path));
  return hash.digest('hex');
}

async function unlessDone(mark, paths, work) {
  const file = join(root, mark);
  const now = hashOf(paths);
  if (existsSync(file) && readFileSync(file, 'utf8') === now) return;
  await work();
  writeFileSync(file, now);
}

/** Installs the locked packages unless they are already the ones that the lock names. */
export async function ensurePackages() {
  await unlessDone('node_modules/.esquisse-lock', ['package-lock.json'], () =>
    run('npm', ['ci', '--no-audit', '--no-fund'], { stdio: ['ignore', 'inherit', 'inherit'] }),
  );
}

/**
 * Builds the application. A hash over what calculates (the core with its kernels, and the packages that are locked) is
 * built in: what another build kept in the browser is then not taken for this one's.
 */
export async function build() {
  const calculating = hashOf(['packages/core/src', 'package-lock.json'], (path) => !/\.test\.ts$/.test(path));
  runTool('@angular/cli/bin/ng.js', ['build', '--define', `ESQUISSE_BUILD='${calculating.slice(0, 16)}'`]);
  const { writeNotices } = await import('./notices.mjs');
  writeNotices(join(root, 'dist/web/browser'));
}

/** Builds the application unless nothing that it is made of has changed. */
export async function ensureBuild() {
  await unlessDone(
    'dist/.esquisse-build',
    [
      'package-lock.json',
      'angular.json',
      'tsconfig.base.json',
      'scripts/prepare.mjs',
      'scripts/notices.mjs',
      'LICENSE',
      'apps/web',
      'packages/core',
      'demo/jobs',
      'demo/parts',
    ],
    build,
  );
}

/** Installs Debian's Chromium unless it is there. */
export function ensureBrowser() {
  if (existsSync('/usr/bin/chromium')) return;
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  for (const args of [
    ['apt-get', 'update'],
    ['apt-get', 'install', '-y', '--no-install-recommends', 'chromium'],
  ]) {
    const [command, ...rest] = [...sudo, ...args];
    run(command, rest, { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } });
  }
}
