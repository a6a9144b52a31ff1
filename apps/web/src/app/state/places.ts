import { computed, inject, Injectable } from '@angular/core';
import { stepsOn } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { jobFeature } from './job.reducer';
import { planFeature } from './plan.reducer';

/** For each place what is still missing, in words; empty when it is complete. */
@Injectable({ providedIn: 'root' })
export class Places {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly ready = this.store.selectSignal(planFeature.selectReady);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly released = this.store.selectSignal(planFeature.selectReleased);

  readonly all = computed(() => {
    const job = this.job();
    const steps = job ? stepsOn(job).length : 0;
    const stale = steps - this.fresh().length;
    const released = this.released();
    return [
      { path: 'jobs', name: 'Jobs', missing: job ? '' : 'no job is open' },
      {
        path: 'piece',
        name: 'Piece',
        missing: job?.part && this.ready() && this.engine.piece() ? '' : 'the part is missing',
      },
      { path: 'crib', name: 'Crib', missing: job && job.crib.assemblies.length > 0 ? '' : 'no cutter yet' },
      {
        path: 'workplan',
        name: 'Workplan',
        missing:
          steps === 0
            ? job?.steps.length
              ? 'all steps are off'
              : 'no step yet'
            : stale > 0
              ? `${stale} of ${steps} steps to calculate`
              : '',
      },
      {
        path: 'release',
        name: 'Release',
        missing: !released ? 'not posted yet' : released.ok ? '' : 'the read-back says no',
      },
    ];
  });
}
