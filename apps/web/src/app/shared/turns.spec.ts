import { TestBed } from '@angular/core/testing';
import { Turns } from './turns';

describe('drawing in turns', () => {
  let turns: Turns;
  let done: string[];
  const work = (name: string) => (): number => done.push(name);
  /** As many tasks later. */
  const later = async (tasks: number): Promise<void> => {
    for (let k = 0; k < tasks; k++) await new Promise((go) => setTimeout(go));
  };

  beforeEach(() => {
    turns = TestBed.inject(Turns);
    done = [];
  });

  it('nothing is done at once; pieces follow in the order in which they were first asked for, the newest of each', async () => {
    turns.next('steel', work('steel 1'));
    turns.next('path', work('path 1'));
    turns.next('steel', work('steel 2'));
    expect(done).toEqual([]);
    await later(4);
    expect(done).toEqual(['steel 2', 'path 1']);
  });

  it('each has a task of its own: what it asks for comes after what waits already', async () => {
    turns.next('a', () => {
      work('a')();
      void Promise.resolve().then(work('after a'));
      turns.next('a', work('a again'));
    });
    turns.next('b', work('b'));
    await later(5);
    expect(done).toEqual(['a', 'after a', 'b', 'a again']);
  });

  it('what was forgotten is not done, and does not hold up the rest', async () => {
    turns.next('a', work('a'));
    turns.next('b', work('b'));
    turns.forget('a');
    await later(4);
    expect(done).toEqual(['b']);
    turns.next('c', work('c'));
    turns.forget('c');
    await later(2);
    turns.next('d', work('d'));
    await later(2);
    expect(done).toEqual(['b', 'd']);
  });
});
