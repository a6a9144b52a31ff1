/** Damages files of all formats for a while: `npm run fuzz 600 [seed] [format]`. What is taken wrongly is kept under test-data/damaged. */
import { fuzz, keepRegression } from './fuzz';

const seconds = Number(process.argv[2] ?? 60);
const seed = Number(process.argv[3] ?? Date.now() % 1_000_000);
console.log(`seed ${seed}, ${seconds} s`);
const { tallies, found } = await fuzz(seed, { time: Date.now() + seconds * 1000 }, process.argv[4]);
for (const { format, cases, read, refused } of tallies)
  console.log(`${format.padEnd(12)} ${cases} cases: ${read} read, ${refused} refused`);
console.log(`${tallies.reduce((sum, t) => sum + t.cases, 0)} cases, ${found.length} formats taken wrongly`);
for (const each of found)
  console.log(`${each.format}: ${each.fault}, ${JSON.stringify(each.damages)}, kept as ${keepRegression(each)}`);
if (found.length > 0) process.exit(1);
