import { describe, expect, it } from 'vitest';
import { cribOf } from '../../test/shapes';
import { toolOf } from './library';
import { rougherThan } from './rougher';

const crib = cribOf({
  ball: ['ball', 8, 4, 20, 7, 50],
  small: ['bull', 6, 1, 16, 5, 60],
  short: ['flat', 10, 0, 20, 9, 40],
  wide: ['bull', 16, 2, 24, 15, 60],
  near: ['bull', 10, 1, 22, 9, 55],
});
const tool = (id: string) => toolOf(crib, id)!;

describe('a better cutter to open up with', () => {
  it('than a ball is the slimmest end mill with a flat that is as wide and stands out as far', () => {
    expect(rougherThan(tool('ball'), crib)?.assembly.id).toBe('near');
    const without = (...ids: string[]) => ({
      ...crib,
      assemblies: crib.assemblies.map((a) => (ids.includes(a.id) ? { ...a, retired: true } : a)),
    });
    expect(rougherThan(tool('ball'), without('near'))?.assembly.id).toBe('wide');
    expect(rougherThan(tool('ball'), without('near', 'wide'))).toBeUndefined();
  });

  it('is not asked for where no ball does it', () => {
    for (const id of ['small', 'short', 'wide', 'near']) expect(rougherThan(tool(id), crib)).toBeUndefined();
  });
});
