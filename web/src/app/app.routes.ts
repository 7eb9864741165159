import type { Routes } from '@angular/router';
import { onlySignedIn } from './session/only-signed-in';

export const routes: Routes = [
  { path: '', pathMatch: 'full', redirectTo: 'links' },
  {
    path: 'sign-in',
    title: 'Sign in · Loyal Hinge',
    loadComponent: () => import('./session/sign-in-page').then((m) => m.SignInPage),
  },
  {
    path: '',
    canActivate: [onlySignedIn],
    children: [
      {
        path: 'links',
        title: 'Links · Loyal Hinge',
        loadComponent: () => import('./links/links-page').then((m) => m.LinksPage),
      },
      {
        path: 'links/:linkId',
        title: 'Link · Loyal Hinge',
        loadChildren: () => import('./links/routes').then((m) => m.linkRoutes),
      },
      {
        path: 'plant/devices',
        title: 'Devices · Loyal Hinge',
        loadChildren: () => import('./field/routes').then((m) => m.deviceRoutes),
      },
      {
        path: 'plant',
        title: 'Plant · Loyal Hinge',
        loadChildren: () => import('./plant/routes').then((m) => m.plantRoutes),
      },
      {
        path: 'trust',
        title: 'Trust · Loyal Hinge',
        loadChildren: () => import('./trust/routes').then((m) => m.trustRoutes),
      },
      {
        path: 'entry',
        title: 'Entry · Loyal Hinge',
        loadChildren: () => import('./entry/routes').then((m) => m.entryRoutes),
      },
      {
        path: 'passage/probes',
        title: 'Probes · Loyal Hinge',
        loadChildren: () => import('./outposts/routes').then((m) => m.probeRoutes),
      },
      {
        path: 'passage/gateways',
        title: 'Gateways · Loyal Hinge',
        loadChildren: () => import('./gateways/routes').then((m) => m.gatewayRoutes),
      },
      {
        path: 'passage/tunnels',
        title: 'Tunnels · Loyal Hinge',
        loadChildren: () => import('./outposts/routes').then((m) => m.tunnelRoutes),
      },
      {
        path: 'passage',
        title: 'Passage · Loyal Hinge',
        loadChildren: () => import('./passage/routes').then((m) => m.passageRoutes),
      },
      {
        path: 'dcom',
        title: 'DCOM · Loyal Hinge',
        loadChildren: () => import('./dcom/routes').then((m) => m.dcomRoutes),
      },
      {
        path: 'casebook',
        title: 'Casebook · Loyal Hinge',
        loadChildren: () => import('./casebook/routes').then((m) => m.casebookRoutes),
      },
      {
        path: 'orders',
        title: 'Work orders · Loyal Hinge',
        loadChildren: () => import('./orders/routes').then((m) => m.orderRoutes),
      },
      {
        path: 'bench',
        title: 'Bench · Loyal Hinge',
        loadChildren: () => import('./bench/routes').then((m) => m.benchRoutes),
      },
      {
        path: 'trail',
        title: 'Audit trail · Loyal Hinge',
        loadChildren: () => import('./trail/routes').then((m) => m.trailRoutes),
      },
      {
        path: 'people',
        title: 'People · Loyal Hinge',
        loadChildren: () => import('./people/routes').then((m) => m.peopleRoutes),
      },
      {
        path: 'account',
        title: 'Your account · Loyal Hinge',
        loadChildren: () => import('./people/routes').then((m) => m.accountRoutes),
      },
      {
        path: 'settings',
        title: 'Settings · Loyal Hinge',
        loadChildren: () => import('./settings/routes').then((m) => m.settingsRoutes),
      },
    ],
  },
  { path: '**', loadComponent: () => import('./shell/lost-page').then((m) => m.LostPage) },
];
