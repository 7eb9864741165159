import type { Routes } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState } from '@ngrx/store';
import { RoundsEffects } from '../rounds/effects';
import { roundsFeature } from '../rounds/state';
import { CasebookEffects } from './effects';
import { RuleEffects } from './rule-effects';
import { casebookFeature } from './state';

export const casebookRoutes: Routes = [
  {
    path: '',
    providers: [
      provideState(casebookFeature),
      provideState(roundsFeature),
      provideEffects(CasebookEffects, RuleEffects, RoundsEffects),
    ],
    children: [
      { path: '', loadComponent: () => import('./casebook-page').then((m) => m.CasebookPage) },
      {
        path: 'evidence',
        title: 'Captures and logs · Loyal Hinge',
        loadComponent: () => import('./evidence-page').then((m) => m.EvidencePage),
      },
      {
        path: 'timeline',
        title: 'Timeline · Loyal Hinge',
        loadComponent: () => import('../rounds/timeline-page').then((m) => m.TimelinePage),
      },
      {
        path: 'rounds',
        title: 'Rounds · Loyal Hinge',
        loadComponent: () => import('../rounds/rounds-page').then((m) => m.RoundsPage),
      },
      {
        path: 'evidence/:evidenceId/conversations/:position',
        title: 'Conversation · Loyal Hinge',
        loadComponent: () => import('./conversation-page').then((m) => m.ConversationPage),
      },
      {
        path: 'cases/:caseId',
        title: 'Case · Loyal Hinge',
        loadComponent: () => import('./case-page').then((m) => m.CasePage),
      },
    ],
  },
];
