import { describe, expect, it } from 'vitest';
import { cribOf, meshOf, squarePocket, testJob } from '../../test/shapes';
import type { Crib } from '../tool/library';
import type { Job } from '../job/job';
import { Piece } from './piece';
import { Snapshot } from './snapshot';

/** What the keys of a step change with: path with all that it is planned from, times with what they are told by, neither with more. */

const crib = cribOf({
  rough: ['bull', 12, 1.5, 25, 11, 60],
  rest: ['bull', 6, 0.5, 16, 5, 40],
  fine: ['ball', 6, 3, 18, 5.6, 45],
});
const job = testJob(
  [
    { kind: 'level-roughing', assemblyId: 'rough' },
    { kind: 'rest-roughing', assemblyId: 'rest', values: { after: 'rough' } },
    { kind: 'parallel-passes', assemblyId: 'fine' },
  ],
  1,
  { crib },
);
const part = meshOf(squarePocket(20, 12, 8, -14));
const keysOf = (changed: Job, key = 'part') => new Snapshot(changed, Piece.of(changed, { part, key })).steps;
const before = keysOf(job);

const assembly = (id: string, change: Partial<Crib['assemblies'][number]>): Job => ({
  ...job,
  crib: { ...job.crib, assemblies: job.crib.assemblies.map((a) => (a.id === id ? { ...a, ...change } : a)) },
});
const cutter = (id: string, change: Partial<Crib['cutters'][number]>): Job => ({
  ...job,
  crib: { ...job.crib, cutters: job.crib.cutters.map((c) => (c.id === `cutter-${id}` ? { ...c, ...change } : c)) },
});
const value = (k: number, key: string, to: unknown): Job => ({
  ...job,
  steps: job.steps.map((s, i) => (i === k ? { ...s, values: { ...s.values, [key]: to } } : s)) as Job['steps'],
});
const setup = (change: Partial<Job['setup']>): Job => ({ ...job, setup: { ...job.setup, ...change } });
const machine = (change: Partial<Job['setup']['machine']>): Job =>
  setup({ machine: { ...job.setup.machine, ...change } });
const square = [
  [-9, -9],
  [9, -9],
  [9, 9],
] as [number, number][];

/** Steps whose key is another one, as figures from 1. */
const others = (changed: Job, of: 'key' | 'timesKey', key?: string): number[] =>
  keysOf(changed, key).flatMap((step, k) => (step[of] === before[k]![of] ? [] : [k + 1]));

describe('keys of a step', () => {
  it.each<[string, Job, number[]]>([
    ['its own value, and those after it', value(1, 'sideAllowance', 0.7), [2, 3]],
    ['the size of its cutter', cutter('rest', { RE: 0.8 }), [2, 3]],
    ['how long its flutes are', cutter('fine', { APMX: 17 }), [3]],
    ['its neck', cutter('fine', { DMM: 5.2 }), [3]],
    ['whether it cuts over its centre', cutter('rough', { centreCutting: true }), [1, 2, 3]],
    ['how far it stands out', assembly('fine', { stickOut: 46 }), [3]],
    ['the block', { ...job, blank: { ...job.blank, maxZ: 2 } as Job['blank'] }, [1, 2, 3]],
    ['the work zero', setup({ workZero: { ...job.setup.workZero, x: 'low' } as never }), [1, 2, 3]],
    ['cells that the job asks for', { ...job, cell: 0.3 }, [1, 2, 3]],
    [
      'where it is held',
      {
        ...job,
        steps: job.steps.map((s, k) =>
          k === 1 ? { ...s, limits: [{ kind: 'within', source: 'a', points: square, side: 'on', offset: 0 }] } : s,
        ) as Job['steps'],
      },
      [2, 3],
    ],
    ['a hole drilled before', { ...job, drilled: [{ x: 0, y: 0, diameter: 5, bottom: -4 }] as never }, [1, 2, 3]],
    ['the order of the steps', { ...job, steps: [job.steps[0]!, job.steps[2]!, job.steps[1]!] }, [2, 3]],
  ])('the path’s changes with %s', (_, changed, steps) => {
    expect(others(changed, 'key')).toEqual(steps);
    expect(others(changed, 'timesKey')).toEqual(steps);
  });

  it('the path’s changes with the part, and with the shape of a cutter that a value names', () => {
    expect(others(job, 'key', 'another part')).toEqual([1, 2, 3]);
    const named = cribOf({
      rough: ['bull', 12, 1.5, 25, 11, 60],
      rest: ['bull', 6, 0.5, 16, 5, 40],
      fine: ['ball', 6, 3, 18, 5.6, 45],
    });
    const first = { ...job, crib: named, steps: job.steps.slice(1) };
    const wider = {
      ...first,
      crib: { ...named, cutters: named.cutters.map((c) => (c.id === 'cutter-rough' ? { ...c, DC: 14 } : c)) },
    };
    expect(keysOf(wider)[0]!.key).not.toBe(keysOf(first)[0]!.key);
  });

  it.each<[string, Job, number[]]>([
    ['n', assembly('rest', { n: 5000 }), [2]],
    ['fz', assembly('rough', { fz: 0.07 }), [1]],
    ['number of edges', cutter('fine', { ZEFP: 2 }), [3]],
    ['the machine’s rapid', machine({ rapid: 9000 }), [1, 2, 3]],
    ['its acceleration', machine({ acceleration: 900 }), [1, 2, 3]],
    ['the height of crossing', setup({ safeHeight: 17 }), [1, 2, 3]],
    ['its power, which the load is held against', machine({ power: 3 }), [1, 2, 3]],
    ['the material, by which the load is reckoned', { ...job, material: { ...job.material, kc11: 999 } }, [1, 2, 3]],
    ['how far an assembly may bend', assembly('rest', { mostBending: 0.02 }), [2]],
  ])('the times’ and the load’s change with %s, and no path does', (_, changed, steps) => {
    expect(others(changed, 'key')).toEqual([]);
    expect(others(changed, 'timesKey')).toEqual(steps);
  });

  it.each<[string, Job]>([
    ['the tool’s number and offsets', assembly('rest', { number: 9, lengthOffset: 12, radiusOffset: 3 })],
    ['a measured length', assembly('rest', { measuredLength: 61.2 })],
    ['names', { ...job, name: 'Other', steps: job.steps.map((s) => ({ ...s, name: `${s.name}!` })) }],
    ['the work offset', setup({ workOffset: 'G57' })],
    ['the machine’s name', machine({ name: 'Another' })],
    [
      'a cutter that no step uses',
      { ...job, crib: { ...job.crib, cutters: [...job.crib.cutters, { ...job.crib.cutters[0]!, id: 'x' }] } },
    ],
    ['the material’s name', { ...job, material: { ...job.material, name: 'Other' } }],
  ])('neither changes with %s', (_, changed) => {
    expect(others(changed, 'key')).toEqual([]);
    expect(others(changed, 'timesKey')).toEqual([]);
  });

  it('what a step may leave, and its tolerance, are known to those after it', () => {
    expect(keysOf(value(0, 'tolerance', 0.05))[2]!.toleranceBefore).toBe(0.05);
    const [, rest, fine] = keysOf(value(0, 'stairs', 1.5));
    const { sideAllowance, floorAllowance } = job.steps[0]!.values as Record<string, number>;
    expect(rest!.promisedBefore).toBeCloseTo(Math.max(sideAllowance!, floorAllowance!) + 1.5, 9);
    expect(fine!.promisedBefore).toBeGreaterThanOrEqual(rest!.promisedBefore);
    expect(before[0]!.promisedBefore).toBe(0);
  });

  it('a step alone has the key that it has among others, whatever comes after it', () => {
    const alone = keysOf({ ...job, steps: job.steps.slice(0, 1) });
    expect(alone[0]!.key).toBe(before[0]!.key);
    expect(new Set(before.map((s) => s.key)).size).toBe(3);
  });
});
