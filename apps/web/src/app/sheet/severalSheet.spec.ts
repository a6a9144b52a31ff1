import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { aPage, twoSteps } from '../../../test/page';
import { JobActions, jobFeature } from '../state/job.reducer';
import { SeveralSteps } from '../state/severalSteps';
import { SeveralSheet } from './severalSheet';

describe('the sheet of several steps', () => {
  let store: Store;
  let fixture: ComponentFixture<SeveralSheet>;
  let host: HTMLElement;
  let several: SeveralSteps;
  const steps = () => store.selectSignal(jobFeature.selectJob)()!.steps;

  beforeEach(async () => {
    store = aPage(twoSteps());
    several = TestBed.inject(SeveralSteps);
    store.dispatch(JobActions.stepSelected({ stepId: steps()[0]!.id }));
    TestBed.tick();
    several.toggle(steps()[1]!.id);
    fixture = TestBed.createComponent(SeveralSheet);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  });

  const field = (key: string) => host.querySelector<HTMLInputElement>(`[data-key="${key}"]`)!;
  const set = async (key: string, text: string): Promise<void> => {
    field(key).value = text;
    field(key).dispatchEvent(new Event('change'));
    await fixture.whenStable();
  };
  const press = async (name: string): Promise<void> => {
    [...host.querySelectorAll('button')].find((b) => b.textContent.trim() === name)!.click();
    await fixture.whenStable();
  };

  it('a value that is typed goes into all of them, a relation with each cutter’s own sizes, and is taken back in one go', async () => {
    const before = steps().map((s) => s.values['tolerance']);
    await set('tolerance', '0.07');
    expect(steps().map((s) => s.values['tolerance'])).toEqual([0.07, 0.07]);
    await set('tolerance', '0.01 DC');
    expect(steps().map((s) => s.values['tolerance'])).toEqual([0.12, 0.06]);
    store.dispatch(JobActions.undo());
    store.dispatch(JobActions.undo());
    await fixture.whenStable();
    expect(steps().map((s) => s.values['tolerance'])).toEqual(before);
  });

  it('the allowance on walls is one value of all of them, whatever it is called in each', async () => {
    await set('sideAllowance', '0.25');
    expect(steps().map(({ values }) => values['sideAllowance'] ?? values['allowance'])).toEqual([0.25, 0.25]);
  });

  it('what is refused for one of them is taken for none', async () => {
    const before = steps().map((s) => s.values['tolerance']);
    await set('tolerance', '-1');
    expect(steps().map((s) => s.values['tolerance'])).toEqual(before);
    expect(field('tolerance').getAttribute('aria-invalid')).toBe('true');
  });

  it('they are switched off and on together', async () => {
    await press('Switch off');
    expect(steps().map((s) => s.enabled)).toEqual([false, false]);
    await press('Switch on');
    expect(steps().map((s) => s.enabled)).toEqual([true, true]);
  });

  it('choosing the same step again lets it go, and one alone is not several', () => {
    expect(several.ids()).toHaveLength(2);
    several.toggle(steps()[1]!.id);
    expect(several.ids()).toEqual([]);
    several.upTo(steps()[1]!.id);
    expect(several.ids()).toHaveLength(2);
    several.clear();
    expect(several.ids()).toEqual([]);
  });
});
