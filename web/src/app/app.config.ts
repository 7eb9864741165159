import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { provideZonelessChangeDetection } from '@angular/core';
import type { ApplicationConfig } from '@angular/core';
import { provideRouter, withComponentInputBinding } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideRouterStore } from '@ngrx/router-store';
import { provideState, provideStore } from '@ngrx/store';
import { routerReducer } from '@ngrx/router-store';
import { providePrimeNG } from 'primeng/config';
import { routes } from './app.routes';
import { FirstStepsEffects } from './first-steps/effects';
import { firstStepsFeature } from './first-steps/state';
import { carryToken } from './http/carry-token';
import { LinkEffects } from './links/effects';
import { linksFeature } from './links/state';
import { OrderEffects } from './orders/effects';
import { ordersFeature } from './orders/state';
import { SearchEffects } from './search/effects';
import { searchFeature } from './search/state';
import { SessionEffects } from './session/effects';
import { sessionFeature } from './session/state';
import { worksPreset } from './theme/preset';

/** The cross in the corner has no words of its own. */
const closesIt = { root: { 'aria-label': 'Close' } };

export const appConfig: ApplicationConfig = {
  providers: [
    provideZonelessChangeDetection(),
    provideRouter(routes, withComponentInputBinding()),
    provideHttpClient(withInterceptors([carryToken])),
    provideStore({ router: routerReducer }),
    provideRouterStore(),
    provideState(sessionFeature),
    provideState(linksFeature),
    provideState(ordersFeature),
    provideState(firstStepsFeature),
    provideState(searchFeature),
    provideEffects(SessionEffects, LinkEffects, OrderEffects, FirstStepsEffects, SearchEffects),
    providePrimeNG({
      theme: { preset: worksPreset, options: { darkModeSelector: '.night' } },
      pt: { dialog: { pcCloseButton: closesIt }, drawer: { pcCloseButton: closesIt } },
    }),
  ],
};
