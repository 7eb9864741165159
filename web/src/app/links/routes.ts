import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { FieldEffects } from '../field/effects';
import { fieldFeature } from '../field/state';

/** One link. */
export const linkRoutes: Routes = [
  {
    path: '',
    providers: [provideState(fieldFeature), provideEffects(FieldEffects)],
    loadComponent: () => import('./link-page').then((m) => m.LinkPage),
  },
];
