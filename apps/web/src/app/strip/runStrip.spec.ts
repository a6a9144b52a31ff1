import { type ComponentFixture, TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { aPage, summaryOf, told, twoSteps } from '../../../test/page';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { RunStrip } from './runStrip';

describe('the strip', () => {
  let store: Store;
  let fixture: ComponentFixture<RunStrip>;
  let host: HTMLElement;

  beforeEach(async () => {
    store = aPage(twoSteps());
    fixture = TestBed.createComponent(RunStrip);
    host = fixture.nativeElement as HTMLElement;
    await fixture.whenStable();
  });

  const block = (k: number): HTMLElement => host.querySelector(`[data-testid="step-${k}"]`)!;
  const moment = () => store.selectSignal(planFeature.selectMoment)();
  const places = [{ motion: 2, text: 'It goes into the part.', count: 1 }];
  const found = { kind: 'gouge' as const, text: 'It goes into the part.', motion: 2, amount: 0.1, count: 1, places };
  const both = () => [summaryOf('s1'), summaryOf('s2', { time: 3, findings: [found] as never })];

  it('has a block for each step, which says that nothing is calculated yet', () => {
    expect(host.querySelectorAll('.block')).toHaveLength(2);
    expect(block(1).textContent).toContain('bull-nose 12 R1.5');
    expect(block(2).textContent).toContain('not calculated');
    expect(host.querySelector<HTMLButtonElement>('[data-testid="play"]')!.disabled).toBe(true);
  });

  it('tells out-of-date steps from those that hold, and nothing of either until the planner has answered', async () => {
    told(store, both(), ['s1']);
    await fixture.whenStable();
    expect(block(1).textContent).not.toContain('out of date');
    expect(block(2).textContent).toContain('out of date');
    const job = store.selectSignal(jobFeature.selectJob)()!;
    store.dispatch(JobActions.changed({ job: { ...job, name: 'Other' } }));
    await fixture.whenStable();
    expect(block(1).textContent).toContain('…');
    expect(block(1).textContent).not.toContain('out of date');
    expect(host.querySelector<HTMLButtonElement>('[data-testid="calculate-all"]')!.ariaDisabled).toBeNull();
  });

  it('stands at the end of a step that is chosen, and by its share of the time where it is scrubbed', async () => {
    told(store, both(), ['s1', 's2']);
    await fixture.whenStable();
    block(1).click();
    expect(moment()).toEqual({ stepId: 's1', motion: 3 });
    const scrub = host.querySelector<HTMLInputElement>('[data-testid="scrub"]')!;
    const to = (percent: number): void => {
      scrub.value = String(percent * 100);
      scrub.dispatchEvent(new Event('input'));
    };
    // both steps take as long: half of the strip is each one's
    to(50 * 0.34);
    expect(moment()).toEqual({ stepId: 's1', motion: 2 });
    to(50 + 50 * 0.01);
    expect(moment().stepId).toBe('s2');
    to(100);
    expect(moment()).toEqual({ stepId: 's2', motion: 3 });
    expect(store.selectSignal(jobFeature.selectSelectedStepId)()).toBe('s2');
  });

  it('marks a finding at its motion and goes there', async () => {
    told(store, both(), ['s1', 's2']);
    await fixture.whenStable();
    const mark = host.querySelector<HTMLElement>('.mark')!;
    expect(mark.getAttribute('aria-label')).toBe(found.text);
    const own = parseFloat(block(2).style.width);
    expect(parseFloat(mark.style.left)).toBeCloseTo(parseFloat(block(2).style.left) + (own * 2) / 3, 6);
    const next = [...host.querySelectorAll('button')].find((b) => b.textContent.includes('Next finding'))!;
    next.click();
    expect(moment()).toEqual({ stepId: 's2', motion: 2 });
  });

  it('says which step is being calculated', async () => {
    const work = { id: 'calculation' as const, what: 'step 2', share: 0.5, stepId: 's2' };
    store.dispatch(PlanActions.workTold({ work }));
    await fixture.whenStable();
    expect(block(2).textContent).toContain('calculating');
    expect(block(1).textContent).not.toContain('calculating');
  });
});
