import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { OutpostEffects } from './effects';
import { outpostsFeature } from './state';

const provided = [provideState(outpostsFeature), provideEffects(OutpostEffects)];

export const tunnelRoutes: Routes = [
  {
    path: '',
    providers: provided,
    children: [
      { path: '', loadComponent: () => import('./tunnels-page').then((m) => m.TunnelsPage) },
      { path: ':tunnelId', loadComponent: () => import('./tunnel-page').then((m) => m.TunnelPage) },
    ],
  },
];

export const probeRoutes: Routes = [
  {
    path: '',
    providers: provided,
    children: [{ path: '', loadComponent: () => import('./probes-page').then((m) => m.ProbesPage) }],
  },
];
