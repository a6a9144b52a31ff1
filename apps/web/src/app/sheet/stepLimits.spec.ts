import { TestBed } from '@angular/core/testing';
import { outlineOfShape } from '@esquisse/core';
import { aPage, twoSteps } from '../../../test/page';
import { JobActions, jobFeature } from '../state/job.reducer';
import { StepLimits } from './stepLimits';

describe('where a step is held in plan', () => {
  it('sizes of a shape that are entered right after one another are all kept, and held against each other', async () => {
    const job = twoSteps();
    const store = aPage(job);
    const shape = { kind: 'rectangle', x: 0, y: 0, turn: 0, length: 60, width: 50, corner: 0, sides: 6 } as const;
    const points = outlineOfShape(shape).map(([x, y]): [number, number] => [x, y]);
    const limit = { kind: 'within' as const, side: 'inside' as const, offset: 0, points, source: 'a rectangle', shape };
    const changed = { ...job, steps: job.steps.map((s) => ({ ...s, limits: [limit] })) };
    store.dispatch(JobActions.opened({ job: changed }));
    store.dispatch(JobActions.stepSelected({ stepId: job.steps[0]!.id }));
    const fixture = TestBed.createComponent(StepLimits);
    await fixture.whenStable();
    const host = fixture.nativeElement as HTMLElement;
    const enter = (name: string, text: string): void => {
      const label = [...host.querySelectorAll('label')].find((l) => l.textContent.trim() === name)!;
      const field = host.querySelector<HTMLInputElement>(`#${label.htmlFor}`)!;
      field.value = text;
      field.dispatchEvent(new Event('change'));
    };
    const drawn = () => {
      const [now] = store.selectSignal(jobFeature.selectJob)()!.steps[0]!.limits;
      return now?.kind === 'within' ? now.shape : undefined;
    };
    // nothing is drawn again in between
    enter('Width', '20');
    enter('Corner radius', '12');
    expect(drawn()).toMatchObject({ width: 20, corner: 0 });
    await fixture.whenStable();
    expect(host.textContent).toContain('half of the shorter side is 10 mm');
    enter('Length', '30');
    enter('Corner radius', '10');
    expect(drawn()).toMatchObject({ length: 30, width: 20, corner: 10 });
  });
});
