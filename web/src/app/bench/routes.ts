import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { BenchPage } from './bench-page';
import { BenchEffects } from './effects';
import { benchFeature } from './state';

export const benchRoutes: Routes = [
  {
    path: '',
    providers: [provideState(benchFeature), provideEffects(BenchEffects)],
    children: [
      { path: '', component: BenchPage },
      { path: ':linkId', component: BenchPage },
    ],
  },
];
