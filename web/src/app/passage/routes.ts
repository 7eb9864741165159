import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { PassageEffects } from './effects';
import { passageFeature } from './state';

export const passageRoutes: Routes = [
  {
    path: '',
    providers: [provideState(passageFeature), provideEffects(PassageEffects)],
    children: [
      { path: '', loadComponent: () => import('./passage-page').then((m) => m.PassagePage) },
      {
        path: 'firewalls',
        title: 'Firewalls · Loyal Hinge',
        loadComponent: () => import('./firewalls-page').then((m) => m.FirewallsPage),
      },
      {
        path: 'firewalls/:firewallId',
        title: 'Firewall · Loyal Hinge',
        loadComponent: () => import('./firewall-page').then((m) => m.FirewallPage),
      },
    ],
  },
];
