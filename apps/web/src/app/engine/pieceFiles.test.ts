import type { Job, ReadMesh } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket, testJob } from '../../../../../packages/core/test/shapes';
import { PieceFiles } from './pieceFiles';

const read = (size: number): ReadMesh => ({
  mesh: meshOf(squarePocket(size, size / 2, 2, -10)),
  report: { degenerate: 0, duplicate: 0, openEdges: 0, turned: 0 },
});
const job = testJob([]);
const other = (file: string): Job => ({ ...job, others: [{ file, unit: 'mm', role: 'fixture' }] });
const part = job.part!.file;

describe('files of a piece', () => {
  it('only what its ticket holder takes in counts: a reading that was stopped and ends later changes nothing', () => {
    const files = new PieceFiles();
    const first = read(20);
    files.take(job, [files.wait(part, first)]);
    const before = files.meshes(job);
    files.wait(part, read(30));
    files.take(job, []);
    expect(files.read(part)).toBe(first);
    expect(files.meshes(job)).toBe(before);
  });

  it('a file is still there to be taken in when the job was changed, without it, in between', () => {
    const files = new PieceFiles();
    files.take(job, [files.wait(part, read(20))]);
    const vise = read(5);
    const ticket = files.wait('vise.stl', vise);
    files.take(other('vise.stl'), [ticket]);
    files.take(job, []);
    expect(files.read('vise.stl')).toBeUndefined();
    files.take(other('vise.stl'), [ticket]);
    expect(files.read('vise.stl')).toBe(vise);
    expect(files.meshes(other('vise.stl')).fixtures).toHaveLength(1);
  });

  it('older readings are given up once a newer one is taken in', () => {
    const files = new PieceFiles();
    const old = files.wait(part, read(20));
    const now = read(30);
    files.take(job, [files.wait(part, now)]);
    files.take(job, [old]);
    expect(files.read(part)).toBe(now);
  });

  it('a fixture that is not there, or could not be read, is told and never left out in silence', () => {
    const files = new PieceFiles();
    files.take(job, [files.wait(part, read(20))]);
    expect(() => files.meshes(other('vise.stl'))).toThrow('The file of the fixture "vise.stl" is not there');
    files.refuse('vise.stl', 'The STL file is empty.');
    expect(() => files.meshes(other('vise.stl'))).toThrow('The STL file is empty.');
    files.take(other('vise.stl'), [files.wait('vise.stl', read(5))]);
    expect(files.meshes(other('vise.stl')).fixtures).toHaveLength(1);
    // another job's file of the same name is not this one's
    files.forget();
    expect(() => files.meshes(job)).toThrow('is not there');
  });

  it('the key changes with any body, and only then', () => {
    const files = new PieceFiles();
    files.take(job, [files.wait(part, read(20))]);
    const { key } = files.meshes(job);
    expect(files.meshes({ ...job, name: 'other' }).key).toBe(key);
    files.take(job, [files.wait(part, read(21))]);
    expect(files.meshes(job).key).not.toBe(key);
  });
});
