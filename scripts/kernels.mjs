/**
 * Compiles the kernels to WebAssembly and writes them into the core as text, so that nothing has to be fetched where they
 * run. With `--check` it only says whether what stands there is what the source gives.
 */
import { Buffer } from 'node:buffer';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import asc from 'assemblyscript/asc';
import { root } from './prepare.mjs';

const FLAGS = [
  '-O3',
  '--noAssert',
  '--runtime=stub',
  '--enable=simd',
  '--importMemory',
  '--initialMemory=1',
  '--maximumMemory=65536',
  // constants of the compiler stand behind what a call writes and before the mesh
  '--memoryBase=4608',
];
const KERNELS = [
  { source: 'kernels/index.ts', target: 'packages/core/src/geometry/kernelCode.ts', name: 'KERNEL_CODE' },
  { source: 'kernels/raised.ts', target: 'packages/core/src/geometry/raisedCode.ts', name: 'RAISED_CODE' },
  { source: 'kernels/sky.ts', target: 'packages/core/src/geometry/skyCode.ts', name: 'SKY_CODE' },
  { source: 'kernels/stock.ts', target: 'packages/core/src/steel/stockCode.ts', name: 'STOCK_CODE' },
];

for (const { source, target, name } of KERNELS) {
  const { error, stderr, binary } = await compiled(source);
  if (error) {
    console.error(stderr);
    process.exit(1);
  }
  const hex = Buffer.from(binary).toString('hex');
  const lines = hex.match(/.{1,120}/g).map((line) => `  '${line}',`);
  const text = [
    `/** Compiled from ${source} by \`npm run kernels\`; not to be edited. */`,
    `// prettier-ignore`,
    `export const ${name} = [`,
    ...lines,
    `].join('');`,
    '',
  ].join('\n');
  const file = join(root, target);
  if (!process.argv.includes('--check')) writeFileSync(file, text);
  else if (readFileSync(file, 'utf8') !== text) {
    console.error(`${target} is not what ${source} gives: run "npm run kernels".`);
    process.exit(1);
  }
}

async function compiled(source) {
  let binary;
  const { error, stderr } = await asc.main([source, ...FLAGS, '--outFile=kernel.wasm'], {
    readFile: (name) => {
      try {
        return readFileSync(join(root, name), 'utf8');
      } catch {
        return null;
      }
    },
    writeFile: (name, contents) => {
      if (name === 'kernel.wasm') binary = contents;
    },
    listFiles: () => [],
  });
  return { error, stderr: String(stderr ?? ''), binary };
}
