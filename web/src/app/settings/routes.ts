import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { SettingsEffects } from './effects';
import { SettingsPage } from './settings-page';
import { settingsFeature } from './state';

export const settingsRoutes: Routes = [
  { path: '', providers: [provideState(settingsFeature), provideEffects(SettingsEffects)], component: SettingsPage },
];
