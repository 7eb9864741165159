import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { RightsWriter } from '@loyal-hinge/contract';
import { EntryHead } from '../entry/entry-head';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { reportUrlOf } from './report-url';
import { rightsActions, rightsFeature } from './state';

const columns: readonly Column<RightsWriter>[] = [
  { key: 'identity', title: 'Who', text: ({ identity }) => identity },
  { key: 'server', title: 'Server', text: ({ server }) => server },
  { key: 'pattern', title: 'May write', text: ({ pattern }) => pattern, mono: true },
  { key: 'nodes', title: 'Nodes', text: ({ nodes }) => String(nodes), order: ({ nodes }) => nodes, short: true },
  { key: 'neededBy', title: 'Needed by', text: ({ neededBy }) => neededBy.join('; ') || 'no link' },
  { key: 'seenAt', title: 'As of', text: ({ seenAt }) => seenAt ?? '', short: true },
];

/** Who can write in the whole plant: what no link needs stands first. */
@Component({
  selector: 'hinge-writers-page',
  imports: [EntryHead, Ledger, LedgerCell, Moment, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" [otherProblem]="problem()">
        <a class="act" routerLink="/entry/rights">Server by server</a>
        <a class="act" [href]="reportUrl()" download>Save as PDF</a>
      </hinge-entry-head>
      @if (told(); as known) {
        @if (known.unseen.length > 0) {
          <p class="unseen-servers faint">
            {{ unseenWords() }}
            @for (server of known.unseen; track server.serverId) {
              <a routerLink="/entry/rights" [queryParams]="{ server: server.serverId }">{{ server.server }}</a>
            }
          </p>
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="known.writers"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          [looksElsewhere]="true"
          [total]="known.total"
          what="words, or a pattern: Lehr/**"
          fileName="who-can-write"
          empty="Nobody is known to be able to write anywhere: take snapshots of the servers’ rights first."
        >
          <ng-template hingeCell="identity" [hingeCellOf]="known.writers" let-row>
            @if (row.isAnonymous) {
              <strong class="fails">anonymous</strong>
            } @else {
              <span class="mono">{{ row.identity }}</span>
            }
          </ng-template>
          <ng-template hingeCell="server" [hingeCellOf]="known.writers" let-row>
            <a routerLink="/entry/rights" [queryParams]="{ server: row.serverId, right: 'write' }">{{ row.server }}</a>
          </ng-template>
          <ng-template hingeCell="neededBy" [hingeCellOf]="known.writers" let-row>
            @if (row.neededBy.length > 0) {
              {{ row.neededBy.join(', ') }}
            } @else {
              <span class="weak">no link</span>
            }
          </ng-template>
          <ng-template hingeCell="seenAt" [hingeCellOf]="known.writers" let-row>
            @if (row.seenAt) {
              <hinge-moment [at]="row.seenAt" show="near" />
            }
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .unseen-servers {
      display: flex;
      flex-wrap: wrap;
      gap: 0 0.8rem;
      margin: 0 0 0.6rem;
      font-size: 0.92rem;
    }
  `,
})
export class WritersPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly told = this.store.selectSignal(rightsFeature.selectShownWriters);
  readonly problem = this.store.selectSignal(rightsFeature.selectProblem);
  readonly columns = columns;
  readonly reportUrl = computed(() => reportUrlOf({ find: this.find() }));
  readonly idOf = ({ serverId, identity, pattern, neededBy }: RightsWriter): string =>
    `${serverId} ${identity} ${pattern} ${neededBy.length}`;
  readonly unseenWords = computed(() =>
    byNumber(
      this.told()?.unseen.length ?? 0,
      'Of # server nothing is known, since no snapshot was taken:',
      'Of # servers nothing is known, since no snapshot was taken:',
    ),
  );
  readonly headline = computed(() => {
    const known = this.told();
    if (!known) return 'Who can write';
    if (known.accounts === 0) return 'Nobody is known to be able to write here.';
    const clauses = [
      byNumber(known.accounts, '# account can write here', '# accounts can write here'),
      ...(known.unneeded === 0 ? [] : ['some of it no link needs']),
      ...(known.unnamed === 0 ? [] : ['some of it without a name']),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    effect(() => {
      const find = this.find();
      untracked(() => this.store.dispatch(rightsActions.showWriters({ find })));
    });
  }
}
