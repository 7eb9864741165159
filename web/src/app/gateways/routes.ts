import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { OutpostEffects } from '../outposts/effects';
import { outpostsFeature } from '../outposts/state';
import { GatewayEffects } from './effects';
import { gatewaysFeature } from './state';

export const gatewayRoutes: Routes = [
  {
    path: '',
    // Its process comes to its certificate as every outpost does.
    providers: [
      provideState(gatewaysFeature),
      provideState(outpostsFeature),
      provideEffects(GatewayEffects, OutpostEffects),
    ],
    children: [
      { path: '', loadComponent: () => import('./gateways-page').then((m) => m.GatewaysPage) },
      { path: ':gatewayId', loadComponent: () => import('./gateway-page').then((m) => m.GatewayPage) },
    ],
  },
];
