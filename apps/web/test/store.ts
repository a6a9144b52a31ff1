import { type EnvironmentProviders, type Provider, provideZonelessChangeDetection } from '@angular/core';
import { provideStore } from '@ngrx/store';
import { jobFeature } from '../src/app/state/job.reducer';
import { planFeature } from '../src/app/state/plan.reducer';

/** The application's store, with the checks that nothing changes what it holds. */
export const STORE: (Provider | EnvironmentProviders)[] = [
  provideZonelessChangeDetection(),
  provideStore(
    { [jobFeature.name]: jobFeature.reducer, [planFeature.name]: planFeature.reducer },
    { runtimeChecks: { strictStateImmutability: true, strictActionImmutability: true } },
  ),
];
