import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { BenchArea } from './bench-area';
import { BenchPage } from './bench-page';
import { BenchEffects } from './effects';
import { benchFeature } from './state';
import { WatchEffects } from './watch-effects';
import { watchFeature } from './watch-state';

export const benchRoutes: Routes = [
  {
    path: '',
    component: BenchArea,
    providers: [provideState(benchFeature), provideState(watchFeature), provideEffects(BenchEffects, WatchEffects)],
    children: [
      { path: '', component: BenchPage },
      { path: ':linkId', component: BenchPage },
    ],
  },
];
