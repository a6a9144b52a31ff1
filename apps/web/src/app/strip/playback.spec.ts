import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { vi } from 'vitest';
import { aPage, summaryOf, told, twoSteps } from '../../../test/page';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { Playback } from './playback';

describe('playing', () => {
  let store: Store;
  let playback: Playback;
  const moment = () => store.selectSignal(planFeature.selectMoment)();
  const isPlaying = () => store.selectSignal(planFeature.selectPlaying)();

  beforeEach(() => {
    vi.useFakeTimers();
    store = aPage(twoSteps());
    playback = TestBed.inject(Playback);
    const places = [1, 2].map((motion) => ({ motion, text: 'It touches.', count: 1 }));
    const finding = { kind: 'holder', text: 'It touches.', motion: 1, amount: 1, count: 2, places };
    told(store, [summaryOf('s1'), summaryOf('s2', { findings: [finding] as never })], ['s1', 's2']);
    store.dispatch(PlanActions.playheadMoved({ moment: { stepId: 's1', motion: 0 } }));
  });
  afterEach(() => vi.useRealTimers());

  const play = (): void => {
    playback.toggle();
    TestBed.tick();
    vi.advanceTimersByTime(60_000);
    TestBed.tick();
  };

  it('stops at each place where something touches, and goes on behind it', () => {
    play();
    expect([moment(), isPlaying()]).toEqual([{ stepId: 's2', motion: 1 }, false]);
    play();
    expect([moment(), isPlaying()]).toEqual([{ stepId: 's2', motion: 2 }, false]);
    play();
    expect([moment(), isPlaying()]).toEqual([{ stepId: 's2', motion: 3 }, false]);
  });

  it('goes through to the end when it is told not to stop', () => {
    playback.stopsAtContacts.set(false);
    play();
    expect([moment(), isPlaying()]).toEqual([{ stepId: 's2', motion: 3 }, false]);
  });
});
