import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { DeviceEffects } from './device-effects';
import { deviceFeature } from './device-state';
import { ReadersEffects } from './readers-effects';
import { readersFeature } from './readers-state';

export const deviceRoutes: Routes = [
  {
    path: '',
    providers: [
      provideState(deviceFeature),
      provideState(readersFeature),
      provideEffects(DeviceEffects, ReadersEffects),
    ],
    children: [
      { path: '', loadComponent: () => import('./devices-page').then((m) => m.DevicesPage) },
      { path: ':deviceId', loadComponent: () => import('./device-page').then((m) => m.DevicePage) },
    ],
  },
];
