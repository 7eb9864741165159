import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { PlantEffects } from './effects';
import { PlantPage } from './plant-page';
import { plantFeature } from './state';

export const plantRoutes: Routes = [
  {
    path: '',
    providers: [provideState(plantFeature), provideEffects(PlantEffects)],
    children: [
      { path: '', component: PlantPage },
      {
        path: 'discovery',
        title: 'Find servers · Loyal Hinge',
        loadComponent: () => import('./discovery-page').then((m) => m.DiscoveryPage),
      },
    ],
  },
];
