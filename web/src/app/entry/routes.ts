import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { AccountsEffects } from '../accounts/effects';
import { accountsFeature } from '../accounts/state';
import { EntryEffects } from './effects';
import { RightsEffects } from '../rights/effects';
import { rightsFeature } from '../rights/state';
import { entryFeature } from './state';

export const entryRoutes: Routes = [
  {
    path: '',
    providers: [provideState(entryFeature), provideEffects(EntryEffects)],
    children: [
      { path: '', loadComponent: () => import('./entry-page').then((m) => m.EntryPageView) },
      {
        path: '',
        providers: [provideState(accountsFeature), provideEffects(AccountsEffects)],
        children: [
          {
            path: 'identities',
            title: 'Identities · Loyal Hinge',
            loadComponent: () => import('../accounts/identities-page').then((m) => m.IdentitiesPage),
          },
          {
            path: 'identities/:serverId',
            title: 'Roles and users · Loyal Hinge',
            loadComponent: () => import('../accounts/access-page').then((m) => m.AccessPage),
          },
          {
            path: 'user-certificates',
            title: 'User certificates · Loyal Hinge',
            loadComponent: () => import('../accounts/certificates-page').then((m) => m.UserCertificatesPage),
          },
        ],
      },
      {
        path: 'rights',
        title: 'Rights · Loyal Hinge',
        providers: [provideState(rightsFeature), provideEffects(RightsEffects)],
        children: [
          { path: '', loadComponent: () => import('../rights/rights-page').then((m) => m.RightsPage) },
          { path: 'writers', loadComponent: () => import('../rights/writers-page').then((m) => m.WritersPage) },
        ],
      },
      {
        path: 'floor',
        title: 'What the plant accepts · Loyal Hinge',
        loadComponent: () => import('./floor-page').then((m) => m.FloorPage),
      },
    ],
  },
];
