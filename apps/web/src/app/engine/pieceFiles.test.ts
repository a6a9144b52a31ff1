import type { Job, ReadMesh } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket, testJob } from '../../../../../packages/core/test/shapes';
import { PieceFiles } from './pieceFiles';

const read = (size: number): ReadMesh => ({
  mesh: meshOf(squarePocket(size, size / 2, 2, -10)),
  report: { degenerate: 0, duplicate: 0, openEdges: 0, turned: 0 },
});
const job = testJob([]);
const withPart = (hash: string): Job => ({ ...job, part: { ...job.part!, hash } });
const VISE = { file: 'vise.stl', hash: 'v', unit: 'mm' as const };
const held = (of: Job): Job => ({ ...of, others: [{ ...VISE, role: 'fixture' }] });
const partOf = (of: Job) => of.part!;

describe('files of a piece', () => {
  it('a reading changes nothing until a job names what it read, and an earlier state finds its own again', () => {
    const files = new PieceFiles();
    const [one, two] = [withPart('one'), withPart('two')];
    files.add(partOf(one), read(20));
    const before = files.meshes(one);
    files.add(partOf(two), read(30));
    expect(files.meshes(one)).toBe(before);
    const after = files.meshes(two);
    expect(after.key).not.toBe(before.key);
    expect(files.meshes(one).key).toBe(before.key);
    expect(files.meshes(one).part).toBe(before.part);
  });

  it('the same bytes read in another unit are another mesh', () => {
    const files = new PieceFiles();
    files.add(partOf(job), read(20));
    expect(files.lacking(job)).toEqual([]);
    const inInches = { ...job, part: { ...partOf(job), unit: 'in' as const } };
    expect(files.lacking(inInches)).toEqual([inInches.part]);
    // what cannot be read is not asked for again and again
    files.refuse(inInches.part, 'broken');
    expect(files.lacking(inInches)).toEqual([]);
  });

  it('a fixture that is not there, or could not be read, is told and never left out in silence', () => {
    const files = new PieceFiles();
    files.add(partOf(job), read(20));
    expect(() => files.meshes(held(job))).toThrow('The file of the fixture "vise.stl" is not there');
    files.refuse(VISE, 'The STL file is empty.');
    expect(() => files.meshes(held(job))).toThrow('The STL file is empty.');
    files.add(VISE, read(5));
    expect(files.meshes(held(job)).fixtures).toHaveLength(1);
  });

  it('of another job only its own files are kept', () => {
    const files = new PieceFiles();
    files.add(partOf(withPart('one')), read(20));
    files.add(partOf(withPart('two')), read(30));
    files.keepOnly(withPart('two'));
    expect(() => files.meshes(withPart('one'))).toThrow('is not there');
    expect(files.meshes(withPart('two')).part.positions.length).toBeGreaterThan(0);
  });

  it('the key changes with any body, and only then', () => {
    const files = new PieceFiles();
    files.add(partOf(job), read(20));
    files.add(VISE, read(5));
    const { key } = files.meshes(job);
    expect(files.meshes({ ...job, name: 'other' }).key).toBe(key);
    expect(files.meshes(held(job)).key).not.toBe(key);
  });
});
