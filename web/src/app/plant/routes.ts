import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { PlantEffects } from './effects';
import { PlantPage } from './plant-page';
import { plantFeature } from './state';

export const plantRoutes: Routes = [
  { path: '', providers: [provideState(plantFeature), provideEffects(PlantEffects)], component: PlantPage },
];
