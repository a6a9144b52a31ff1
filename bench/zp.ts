import { readFileSync, writeFileSync } from 'node:fs';
import { readPart } from '../packages/core/src/part/read';
import { callHere, CancelFlag, crewOf } from '../packages/core/src/plan/crew';
import { parseJob } from '../packages/core/src/plan/job';
import { PlanSession } from '../packages/core/src/plan/session';
import { Session } from 'node:inspector/promises';
const step = Number(process.argv[2] ?? 1);
const file: any = JSON.parse(readFileSync('demo/jobs/citrus-cavity.json', 'utf8'));
const ch = JSON.parse(process.argv[3] ?? '{}');
for (const k of Object.keys(ch)) { const { assemblyId, ...v } = ch[k]; const st = file.steps[+k - 1]; if (assemblyId) st.assemblyId = assemblyId; st.values = { ...st.values, ...v }; }
const job: any = parseJob(file);
const { mesh } = await readPart('c.stl', readFileSync('demo/parts/citrus-cavity.stl'), 'mm', () => Promise.reject(new Error('x')));
const crew = crewOf([callHere], new CancelFlag());
for (let round = 0; round < 2; round++) {
  const s = new PlanSession();
  s.prepare(job, mesh, 'c');
  await s.leftoverOfBlock(crew);
  if (step > 1) await s.evaluate(job, crew, () => undefined, step - 2);
  const insp = new Session();
  if (round === 1) { insp.connect(); await insp.post('Profiler.enable'); await insp.post('Profiler.setSamplingInterval', { interval: 500 }); await insp.post('Profiler.start'); }
  const c = process.cpuUsage();
  await s.evaluate(job, crew, () => undefined, step - 1);
  const u = process.cpuUsage(c);
  console.log(((u.user + u.system) / 1e6).toFixed(2));
  if (round === 1) { const { profile } = await insp.post('Profiler.stop') as any; writeFileSync('/tmp/w/p/prof.cpuprofile', JSON.stringify(profile)); }
}
