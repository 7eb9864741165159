import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { FieldEffects } from '../field/effects';
import { ReadersEffects } from '../field/readers-effects';
import { readersFeature } from '../field/readers-state';
import { fieldFeature } from '../field/state';

/** One link. */
export const linkRoutes: Routes = [
  {
    path: '',
    providers: [provideState(fieldFeature), provideState(readersFeature), provideEffects(FieldEffects, ReadersEffects)],
    children: [
      { path: '', loadComponent: () => import('./link-page').then((m) => m.LinkPage) },
      {
        path: 'register',
        title: 'Find the register · Loyal Hinge',
        loadComponent: () => import('../field/search-page').then((m) => m.SearchPage),
      },
    ],
  },
];
