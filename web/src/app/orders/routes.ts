import type { Routes } from '@angular/router';

export const orderRoutes: Routes = [
  { path: '', loadComponent: () => import('./orders-page').then((m) => m.OrdersPage) },
  { path: ':id', loadComponent: () => import('./order-page').then((m) => m.OrderPage) },
];
