import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { DcomEffects } from './effects';
import { dcomFeature } from './state';

export const dcomRoutes: Routes = [
  {
    path: '',
    providers: [provideState(dcomFeature), provideEffects(DcomEffects)],
    children: [
      { path: '', loadComponent: () => import('./dcom-page').then((m) => m.DcomPage) },
      {
        path: 'descriptor',
        title: 'Descriptor · Loyal Hinge',
        loadComponent: () => import('./descriptor-page').then((m) => m.DescriptorPage),
      },
      { path: ':machineId', loadComponent: () => import('./machine-page').then((m) => m.DcomMachinePage) },
    ],
  },
];
