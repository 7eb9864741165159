import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { TrustEffects } from './effects';
import { trustFeature } from './state';

const state = [provideState(trustFeature), provideEffects(TrustEffects)];

export const trustRoutes: Routes = [
  {
    path: '',
    providers: state,
    children: [
      { path: '', loadComponent: () => import('./trust-page').then((m) => m.TrustPage) },
      {
        path: 'set-aside',
        title: 'Set aside · Loyal Hinge',
        loadComponent: () => import('./set-aside-page').then((m) => m.SetAsidePage),
      },
      {
        path: 'horizon',
        title: 'Horizon · Loyal Hinge',
        loadComponent: () => import('./horizon-page').then((m) => m.HorizonPage),
      },
      { path: 'plan', title: 'Plan · Loyal Hinge', loadComponent: () => import('./plan-page').then((m) => m.PlanPage) },
      {
        path: 'authority',
        title: 'Authority · Loyal Hinge',
        loadComponent: () => import('./authority/authority-page').then((m) => m.AuthorityPage),
      },
      {
        path: 'files',
        title: 'Files · Loyal Hinge',
        loadComponent: () => import('./files-page').then((m) => m.FilesPage),
      },
      {
        path: 'tickets',
        title: 'Tickets · Loyal Hinge',
        loadComponent: () => import('./tickets-page').then((m) => m.TicketsPage),
      },
      {
        path: 'certificates/:thumbprint',
        title: 'Certificate · Loyal Hinge',
        loadComponent: () => import('./certificate-page').then((m) => m.CertificatePageView),
      },
      {
        path: 'lists/:id',
        title: 'Lists · Loyal Hinge',
        loadComponent: () => import('./holder-page').then((m) => m.HolderPage),
      },
    ],
  },
];
