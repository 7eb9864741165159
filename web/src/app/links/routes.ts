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
