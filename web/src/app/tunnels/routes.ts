import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { TunnelEffects } from './effects';
import { tunnelsFeature } from './state';

export const tunnelRoutes: Routes = [
  {
    path: '',
    providers: [provideState(tunnelsFeature), provideEffects(TunnelEffects)],
    children: [
      { path: '', loadComponent: () => import('./tunnels-page').then((m) => m.TunnelsPage) },
      { path: ':tunnelId', loadComponent: () => import('./tunnel-page').then((m) => m.TunnelPage) },
    ],
  },
];
