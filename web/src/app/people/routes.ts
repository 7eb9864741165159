import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { AccountPage } from './account-page';
import { PeopleEffects } from './effects';
import { PeoplePage } from './people-page';
import { peopleFeature } from './state';

const providers = [provideState(peopleFeature), provideEffects(PeopleEffects)];

export const peopleRoutes: Routes = [{ path: '', providers, component: PeoplePage }];
export const accountRoutes: Routes = [{ path: '', providers, component: AccountPage }];
