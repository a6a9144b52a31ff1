/** Licences and notices of the packages that the application ships, as one text beside it. */
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './prepare.mjs';

const json = (path) => JSON.parse(readFileSync(path, 'utf8'));

/** Folder of a package as another one sees it: its own copy, or the common one. */
function folderOf(name, from) {
  for (let at = from; at.startsWith(root); at = dirname(at)) {
    const folder = join(at, 'node_modules', name);
    if (existsSync(join(folder, 'package.json'))) return folder;
  }
  return undefined;
}

/** All packages that those of the application need to run, by folder. */
function shipped() {
  const found = new Map();
  const add = (from, names) => {
    for (const name of names) {
      const folder = folderOf(name, from);
      if (!folder || found.has(folder) || name.startsWith('@esquisse/')) continue;
      const about = json(join(folder, 'package.json'));
      found.set(folder, about);
      add(folder, Object.keys(about.dependencies ?? {}));
    }
  };
  for (const own of ['packages/core', 'apps/web'])
    add(join(root, own), Object.keys(json(join(root, own, 'package.json')).dependencies ?? {}));
  return [...found].sort(([, a], [, b]) => a.name.localeCompare(b.name));
}

function licenceTexts(folder) {
  const files = readdirSync(folder)
    .filter((file) => /^(licen[cs]e|copying|notice)/i.test(file))
    .map((file) => join(folder, file));
  const more = join(folder, 'dist');
  if (existsSync(more))
    for (const file of readdirSync(more).filter((name) => /^licen[cs]e.*\.txt$/i.test(name)))
      files.push(join(more, file));
  return files.map((file) => readFileSync(file, 'utf8').trim());
}

const READER = `The reader of STEP files
========================
STEP files (ISO 10303) are read by occt-import-js, which holds Open CASCADE Technology. Both are under the GNU Lesser General
Public License, version 2.1 (the latter with an exception). They are used as they were published, unchanged, and are not part
of the program's own files: they are the two files step/occt-import-js.js and step/occt-import-js.wasm beside it. To use a
version of your own, build it from its sources (npm package occt-import-js, which names where they are), put your two files in
place of those two in the folder that the application is served from, and load the page again. step/step-worker.js shows the
one function that is called: ReadStepFile.
`;

/** Writes LICENSE.txt and notices.txt into a folder of the built application. */
export function writeNotices(folder) {
  const parts = shipped().map(([from, { name, version, license }]) =>
    [`${name} ${version}`, `Licence: ${license ?? 'see below'}`, '', ...licenceTexts(from)].join('\n'),
  );
  const line = `\n\n${'-'.repeat(80)}\n\n`;
  writeFileSync(join(folder, 'notices.txt'), [READER, ...parts].join(line));
  copyFileSync(join(root, 'LICENSE'), join(folder, 'license.txt'));
}
