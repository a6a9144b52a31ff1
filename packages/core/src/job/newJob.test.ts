import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket, testCrib, testJob } from '../../test/shapes';
import { Piece } from '../evaluate/piece';
import { newJob } from './newJob';

describe('a new job', () => {
  const like = testJob([{ kind: 'level-roughing', assemblyId: 't4', values: { bottom: -3, top: 0, ap: 1.25 } }], 0.5);
  const limited = like.steps.map((s) => ({
    ...s,
    limits: [
      {
        kind: 'clear' as const,
        source: 'a clamp',
        points: [
          [0, 0],
          [1, 0],
          [0, 1],
        ] as [number, number][],
        distance: 2,
      },
    ],
  }));
  const begun = newJob({
    id: 'n',
    name: 'Mine',
    part: { file: 'mine.stl', hash: 'h' },
    material: like.material,
    machine: like.setup.machine,
    post: like.setup.post,
    crib: testCrib(),
    steps: limited,
  });

  it('can be machined at once: the part in its box, a little steel above it, zero on top', () => {
    const part = meshOf(squarePocket(11, 7, 3, -7));
    const piece = Piece.of(begun, { key: 'k', part, blank: undefined, fixtures: undefined } as never);
    expect(piece.problem).toBeFalsy();
    expect(piece.top).toBeCloseTo(0, 9);
    expect(piece.part.box.maxZ).toBeCloseTo(-1, 6);
  });

  it('takes values of steps, and nothing that held them to another part', () => {
    const [step] = begun.steps;
    expect(step!.values).toMatchObject({ ap: 1.25, top: null, bottom: null });
    expect(step!.limits).toEqual([]);
  });

  it('begins with what was brought with its part: a blank is the steel it begins with', () => {
    const others = [
      { file: 'jaw.stl', hash: 'j', role: 'fixture' as const },
      { file: 'cast.stl', hash: 'c', role: 'blank' as const },
    ];
    const of = (some: typeof others) =>
      newJob({
        id: 'n',
        name: 'Mine',
        part: { file: 'mine.stl', hash: 'h' },
        others: some,
        material: like.material,
        machine: like.setup.machine,
        post: like.setup.post,
        crib: testCrib(),
        steps: [],
      });
    expect(of(others)).toMatchObject({ blank: { kind: 'body' }, others });
    expect(of(others.slice(0, 1)).blank.kind).toBe('offset');
    expect(begun.others).toEqual([]);
  });
});
