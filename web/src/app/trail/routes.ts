import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { TrailEffects } from './effects';
import { trailFeature } from './state';
import { TrailPage } from './trail-page';

export const trailRoutes: Routes = [
  { path: '', providers: [provideState(trailFeature), provideEffects(TrailEffects)], component: TrailPage },
];
