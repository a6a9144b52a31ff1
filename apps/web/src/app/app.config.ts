import {
  type ApplicationConfig,
  ErrorHandler,
  provideBrowserGlobalErrorListeners,
  provideZonelessChangeDetection,
} from '@angular/core';
import {
  type AnimationsConfig,
  MAT_RIPPLE_GLOBAL_OPTIONS,
  MATERIAL_ANIMATIONS,
  type RippleGlobalOptions,
} from '@angular/material/core';
import { MAT_TOOLTIP_DEFAULT_OPTIONS, type MatTooltipDefaultOptions } from '@angular/material/tooltip';
import { provideRouter, type Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideStore } from '@ngrx/store';
import { provideChartParts } from './shared/chart';
import { provideIcons } from './shared/icons';
import { Failure } from './shared/failure';
import { KeepingEffects } from './state/keeping.effects';
import { PlanEffects } from './state/plan.effects';
import { jobFeature } from './state/job.reducer';
import { planFeature } from './state/plan.reducer';

const routes: Routes = [
  {
    path: 'jobs',
    loadComponent: () => import('./places/jobs/jobsPlace').then((m) => m.JobsPlace),
    title: 'Jobs · Esquisse',
  },
  {
    path: 'piece',
    loadComponent: () => import('./places/piece/piece').then((m) => m.PiecePlace),
    title: 'Piece · Esquisse',
  },
  {
    path: 'crib',
    loadComponent: () => import('./places/crib/crib').then((m) => m.CribPlace),
    title: 'Crib · Esquisse',
  },
  {
    path: 'workplan',
    loadComponent: () => import('./places/workplan').then((m) => m.WorkplanPlace),
    title: 'Workplan · Esquisse',
  },
  {
    path: 'release',
    loadComponent: () => import('./places/release/release').then((m) => m.ReleasePlace),
    title: 'Release · Esquisse',
  },
  { path: '**', redirectTo: 'workplan' },
];

/** A word about what the pointer rests on comes without hurry and does not stand in the way. */
const TOOLTIPS: MatTooltipDefaultOptions = {
  showDelay: 500,
  hideDelay: 0,
  touchendHideDelay: 1500,
  disableTooltipInteractivity: true,
};

/** Menus and lists stand still from the first moment: one that grows under the pointer takes the press for another entry. */
const STILL: AnimationsConfig = { animationsDisabled: true };

export const appConfig: ApplicationConfig = {
  providers: [
    provideZonelessChangeDetection(),
    provideBrowserGlobalErrorListeners(),
    { provide: ErrorHandler, useClass: Failure },
    provideRouter(routes),
    provideStore(
      { [jobFeature.name]: jobFeature.reducer, [planFeature.name]: planFeature.reducer },
      { runtimeChecks: { strictStateImmutability: true, strictActionImmutability: true } },
    ),
    provideEffects(KeepingEffects, PlanEffects),
    provideIcons(),
    provideChartParts(),
    { provide: MATERIAL_ANIMATIONS, useValue: STILL },
    { provide: MAT_RIPPLE_GLOBAL_OPTIONS, useValue: { disabled: true } satisfies RippleGlobalOptions },
    { provide: MAT_TOOLTIP_DEFAULT_OPTIONS, useValue: TOOLTIPS },
  ],
};
