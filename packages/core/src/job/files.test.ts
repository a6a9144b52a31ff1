import fc from 'fast-check';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket, testJob } from '../../test/shapes';
import { EsquisseError } from '../base/errors';
import { volumeOf } from '../geometry/mesh';
import { restToRest } from '../path/toolpath';
import { readPart } from '../part/read';
import { readStl, writeStl } from '../part/stl';
import { readThreeMf } from '../part/threeMf';
import { writeThreeMf } from '../part/threeMfWriter';
import { steelSoup } from '../steel/surface';
import { blockMap } from '../steel/heightMap';
import { feedRate, spindleSpeed } from '../tool/library';
import { crc32 } from '../part/zip';
import { openBundle, packBundle } from './bundle';
import { parseJob } from './job';
import { jobFile } from './jobFile';

const soup = squarePocket(30, 20, 10, -25);
const noStep = (): never => {
  throw new Error('not wanted here');
};
const codeOf = (work: () => unknown): string | undefined => {
  try {
    work();
  } catch (error) {
    if (error instanceof EsquisseError) return error.code;
    throw error;
  }
  return undefined;
};

/** Does something with the directory entry of each file of a zip: its place, and its name. */
function eachEntry(zip: Uint8Array, work: (view: DataView, at: number, name: string) => void): void {
  const view = new DataView(zip.buffer);
  for (let at = 0; at + 46 < zip.length; at++)
    if (view.getUint32(at, true) === 0x02014b50)
      work(view, at, new TextDecoder().decode(zip.subarray(at + 46, at + 46 + view.getUint16(at + 28, true))));
}

describe('STL', () => {
  const binary = writeStl(soup);
  const ascii = new TextEncoder().encode(
    `solid made up\n${Array.from({ length: soup.length / 9 }, (_, t) => {
      const v = (k: number): string => `vertex ${soup.slice(9 * t + 3 * k, 9 * t + 3 * k + 3).join(' ')}\n`;
      return `facet normal 0 0 0\nouter loop\n${v(0)}${v(1)}${v(2)}endloop\nendfacet\n`;
    }).join('')}endsolid made up\n`,
  );

  it('binary and text files of one part give the same volume, and inches are 25.4 times as long', () => {
    const volume = 60 * 60 * 25 - 40 * 40 * 10;
    expect(volumeOf(readStl(binary).mesh)).toBeCloseTo(volume, 3);
    expect(volumeOf(readStl(ascii).mesh)).toBeCloseTo(volume, 6);
    expect(volumeOf(readStl(binary, 25.4).mesh) / volume).toBeCloseTo(25.4 ** 3, 3);
  });

  it('a binary file that begins with the word solid is still read as binary', () => {
    const sly = binary.slice();
    sly.set(new TextEncoder().encode('solid facet'), 0);
    expect(volumeOf(readStl(sly).mesh)).toBeCloseTo(volumeOf(readStl(binary).mesh), 9);
  });

  it('cut off anywhere it is refused with a typed error, never read as a smaller part', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: binary.length - 1 }), (length) => {
        expect(['file-truncated', 'file-kind', 'file-unreadable']).toContain(
          codeOf(() => readStl(binary.slice(0, length))),
        );
      }),
      { numRuns: 60, seed: 1 },
    );
    expect(codeOf(() => readStl(ascii.slice(0, ascii.length - 40)))).toBe('file-truncated');
  });

  it('random bytes and files of another kind never pass for a part', async () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => {
        expect(codeOf(() => readStl(bytes))).toBeDefined();
      }),
      { numRuns: 100, seed: 2 },
    );
    await expect(readPart('drawing.pdf', binary, 'mm', noStep)).rejects.toMatchObject({ code: 'file-kind' });
    await expect(readPart('part.step', binary, 'mm', noStep)).rejects.toMatchObject({ code: 'file-kind' });
    await expect(
      readPart('part.stp', new TextEncoder().encode('ISO-10303-21;\nHEADER;'), 'mm', noStep),
    ).rejects.toMatchObject({ code: 'file-truncated' });
    const head = 'ISO-10303-21ISO-10303-21\nHEADER;\nENDSEC;\nEND-ISO-10303-21;\n';
    await expect(readPart('part.stp', new TextEncoder().encode(head), 'mm', noStep)).rejects.toMatchObject({
      code: 'file-kind',
    });
  });
});

describe('job files', () => {
  const job = testJob([{ kind: 'parallel-passes', assemblyId: 't3' }]);
  const packed = packBundle({ job, files: new Map([['part.stl', writeStl(soup)]]) });

  it('saved and opened again is the same job with the same part', () => {
    const again = openBundle(packed, 'x.zip');
    expect(again.job).toEqual(job);
    expect(meshOf([...soup]).indices.length).toBe(readStl(again.files.get('part.stl')!).mesh.indices.length);
  });

  it('check sums are those of zip files: CRC-32 of "123456789" is cbf43926 (ISO 3309 check value, from memory)', () => {
    expect(crc32(new TextEncoder().encode('123456789')).toString(16)).toBe('cbf43926');
  });

  it('cut off or overwritten anywhere it is refused with a typed error or gives the very same job', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: packed.length - 1 }), fc.nat(255), (at, value) => {
        expect(codeOf(() => openBundle(packed.slice(0, at), 'x'))).toBeDefined();
        const damaged = packed.slice();
        damaged[at] = value;
        let code: string | undefined;
        try {
          const opened = openBundle(damaged, 'x');
          if (JSON.stringify(opened.job) !== JSON.stringify(job)) code = 'changed silently';
        } catch (error) {
          code = error instanceof EsquisseError ? 'refused' : 'crashed';
        }
        expect([undefined, 'refused']).toContain(code);
      }),
      { numRuns: 400, seed: 4 },
    );
  });

  it('only what the job names is unpacked; a locked file, one that is there twice and a name of the language are refused', () => {
    const entries = Object.fromEntries([
      ['job.json', new TextEncoder().encode(JSON.stringify(jobFile(job)))],
      ['part.stl', writeStl(soup)],
    ]);
    // what lies beside the job is not unpacked: here it could not be
    const beside = zipSync({ ...entries, more: new Uint8Array(1000) });
    eachEntry(beside, (view, at, name) => {
      if (name === 'more') view.setUint32(at + 24, 2 ** 31, true);
    });
    expect(openBundle(beside, 'x').files.size).toBe(1);
    const stuffed = zipSync(entries);
    eachEntry(stuffed, (view, at, name) => {
      if (name === 'part.stl') view.setUint32(at + 24, 100 * 2 ** 20, true);
    });
    expect(() => openBundle(stuffed, 'x')).toThrow('made to fill the memory');
    const locked = zipSync(entries);
    eachEntry(locked, (view, at) => view.setUint16(at + 8, 1, true));
    expect(() => openBundle(locked, 'x')).toThrow('locked by a password');
    const other = { ...job, part: { ...job.part!, file: 'constructor' } };
    const named = zipSync({ 'job.json': new TextEncoder().encode(JSON.stringify(jobFile(other))) });
    expect(() => openBundle(named, 'x')).toThrow('lacks the file constructor');
    const twice = zipSync({ ...entries, 'part.stm': new Uint8Array(3) });
    const at = twice.lastIndexOf('m'.charCodeAt(0), twice.length - 22);
    twice[at] = 'l'.charCodeAt(0);
    expect(() => openBundle(twice, 'x')).toThrow('holds "part.stl" twice');
  });

  it('names the field that is wrong', () => {
    const bad = (change: object): string | undefined => {
      try {
        parseJob({ ...job, ...change });
      } catch (error) {
        return (error as EsquisseError).place;
      }
      return undefined;
    };
    expect(bad({ steps: [{ ...job.steps[0]!, values: { ...job.steps[0]!.values, scallop: -1 } }] })).toBe(
      'steps.0.values.scallop',
    );
    expect(bad({ steps: [{ ...job.steps[0]!, kind: 'carving' }] })).toBe('steps.0.kind');
    expect(bad({ steps: [{ ...job.steps[0]!, assemblyId: 'none' }] })).toBe('steps.0.assemblyId');
    expect(bad({ crib: { ...job.crib, cutters: job.crib.cutters.map((c) => ({ ...c, RE: 99 })) } })).toMatch(
      /crib.cutters.0.RE/,
    );
  });
});

describe('figures of the trade', () => {
  it('vc 100 m/min at 10 mm is 3183 1/min; fz 0.05 with 4 edges is then 636.6 mm/min (ISO 3002 quantities)', () => {
    const n = spindleSpeed(100, 10);
    expect(n).toBeCloseTo(3183.1, 1);
    expect(feedRate(0.05, 4, n)).toBeCloseTo(636.6, 1);
  });

  it('a move from rest to rest takes d/v + v/a, or 2 sqrt(d/a) when it never reaches its feed (kinematics)', () => {
    expect(restToRest(100, 6000, 1000)).toBeCloseTo(1 + 0.1, 12);
    expect(restToRest(2.5, 6000, 1000)).toBeCloseTo(2 * Math.sqrt(0.0025), 12);
    // where both hold they agree
    expect(restToRest(10, 6000, 1000)).toBeCloseTo(2 * Math.sqrt(0.01), 12);
  });

  it('steel written as a mesh is closed and has the volume of its cells', () => {
    const map = blockMap({ minX: 0, minY: 0, minZ: -5, maxX: 4, maxY: 3, maxZ: 0 }, 0.5);
    map.heights.forEach((_, o) => (map.heights[o] = -((o * 7) % 5)));
    const mesh = meshOf(steelSoup(map));
    let wanted = 0;
    for (const h of map.heights) wanted += (h + 5) * 0.25;
    expect(volumeOf(mesh)).toBeCloseTo(wanted, 6);
    // and the same in a 3MF package, read back
    const read = readThreeMf(writeThreeMf(steelSoup(map)));
    expect(volumeOf(read.mesh)).toBeCloseTo(wanted, 4);
  });
});
