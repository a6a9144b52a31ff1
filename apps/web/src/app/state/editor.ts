import { inject, Injectable } from '@angular/core';
import {
  EsquisseError,
  followBound,
  type Job,
  parseJob,
  shared,
  withFollowingData,
  withRelations,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { Notice } from '../shared/notice';
import { JobActions, jobFeature } from './job.reducer';
import { PlanActions, planFeature, type Trouble } from './plan.reducer';

const READ_ONLY = 'This job is open in another tab, and can be changed there only. Take it over to change it here.';

/** The one way by which the interface changes the job: checked whole before it is taken. */
@Injectable({ providedIn: 'root' })
export class Editor {
  private readonly store = inject(Store);
  readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly engine = inject(Engine);
  private readonly notice = inject(Notice);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly readOnly = this.store.selectSignal(jobFeature.selectReadOnly);

  /** Makes a change; why it was not taken is told at the top of the page. @returns whether it was taken */
  make(place: Trouble['place'], change: (job: Job) => Job, selectStepId?: string | null): boolean {
    const problem = this.change(change, selectStepId);
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place } }));
    return !problem;
  }

  /** Tells at the top of the page what could not be done. */
  tell(place: Trouble['place'], message: string): void {
    this.store.dispatch(PlanActions.failed({ trouble: { message, place } }));
  }

  /** Takes a changed job; gives the sentence that says why not, or undefined when it was taken. */
  change(change: (job: Job) => Job, selectStepId?: string | null): string | undefined {
    const job = this.job();
    if (!job) return 'No job is open.';
    if (this.readOnly()) return READ_ONLY;
    try {
      // relations go with the cutters, speeds and feeds that follow a cut with whatever they were calculated from
      const changed = this.withBoundHeights(job, withRelations(parseJob(change(job), 'The job')));
      const next = shared(job, parseJob(withFollowingData(changed), 'The job'));
      if (next !== job)
        this.store.dispatch(
          JobActions.changed(selectStepId === undefined ? { job: next } : { job: next, selectStepId }),
        );
      return undefined;
    } catch (error) {
      if (!(error instanceof EsquisseError)) throw error;
      return error.message.replace(/^The job: [^:]*: /, '');
    }
  }

  /**
   * Heights that are bound to places of the part stay there when the zero or the block moves; those of a part that is turned are
   * bound no more, and that is told. What goes with another part or blank is worked out where their files are.
   *
   * @throws EsquisseError when it is not known yet how the part lies
   */
  private withBoundHeights(before: Job, after: Job): Job {
    if (before.id !== after.id || !after.steps.some(({ bound }) => bound)) return after;
    if (isSame(placing(before), placing(after)) || !isSame(modelsOf(before), modelsOf(after))) return after;
    const boxes = this.engine.piece()?.boxes;
    if (!boxes || !this.isTold()) throw new EsquisseError('job-invalid', 'The part is still being read: try it again.');
    const { job, followed } = followBound({ job: before, boxes }, { job: after, boxes });
    const lost = followed.filter(({ isLost }) => isLost);
    if (lost.length > 0)
      this.notice.tell(
        `The part lies another way: ${lost.map((f) => `${f.label} of "${f.step}"`).join(', ')} ${lost.length === 1 ? 'stays as it is and is' : 'stay as they are and are'} bound to the part no more.`,
      );
    return job;
  }
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
/** What heights are told from. */
const placing = ({ blank, setup, part }: Job): unknown => [blank, setup.workZero, part?.lay];
/** Which part and blank they are, whichever way they lie. */
const modelsOf = ({ part, others }: Job): unknown => [{ ...part, lay: undefined }, others];
