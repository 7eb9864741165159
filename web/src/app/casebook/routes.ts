import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { CasebookEffects } from './effects';
import { casebookFeature } from './state';

export const casebookRoutes: Routes = [
  {
    path: '',
    providers: [provideState(casebookFeature), provideEffects(CasebookEffects)],
    children: [
      { path: '', loadComponent: () => import('./casebook-page').then((m) => m.CasebookPage) },
      {
        path: 'evidence',
        title: 'Captures and logs · Loyal Hinge',
        loadComponent: () => import('./evidence-page').then((m) => m.EvidencePage),
      },
      {
        path: 'cases/:caseId',
        title: 'Case · Loyal Hinge',
        loadComponent: () => import('./case-page').then((m) => m.CasePage),
      },
    ],
  },
];
