import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { accountWeaknesses, byNumber } from '@loyal-hinge/core';
import type { AccountView } from '@loyal-hinge/contract';
import { EntryHead } from '../entry/entry-head';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Pager } from '../shell/pager';
import { Telling } from '../shell/telling';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { AccountSheet } from './account-sheet';
import { nameWords, rolesWords, tones, weaknessChoices } from './account-words';
import { accountsActions, accountsFeature, isRunning } from './state';

const pageSize = 50;

const columns: readonly Column<AccountView>[] = [
  { key: 'server', title: 'Server', text: ({ server }) => server },
  { key: 'name', title: 'Account', text: ({ userName }) => nameWords(userName), short: true },
  { key: 'roles', title: 'Roles there', text: rolesWords },
  { key: 'links', title: 'Used by', text: ({ links }) => links.map(({ name }) => name).join('; ') },
  { key: 'in', title: 'Last let in', text: ({ signedInAt }) => signedInAt ?? 'never' },
  { key: 'weak', title: 'What is weak', text: ({ weaknesses }) => weaknesses.map(({ says }) => says).join(' ') },
];

/** Who signs in where, with what, for which links, and what is wrong with it. */
@Component({
  selector: 'hinge-identities-page',
  imports: [AccountSheet, ChoiceField, EntryHead, Ledger, LedgerCell, Moment, Pager, RouterLink, Telling, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" [otherProblem]="problem()">
        @if (readWords(); as words) {
          <span class="faint">{{ words }}</span>
          <button type="button" class="act main" [disabled]="!mayAct() || isReading()" (click)="readAll()">
            Read roles and users
          </button>
        }
      </hinge-entry-head>
      @if (known(); as told) {
        @if (told.unread.length > 0) {
          <p class="unread">
            {{ unreadWords() }}
            @for (server of told.unread; track server.serverId) {
              <a [routerLink]="['/entry/identities', server.serverId]" [hingeTelling]="server.says">{{
                server.server
              }}</a>
            }
          </p>
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="told.accounts"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event, from: '' })"
          [looksElsewhere]="true"
          [total]="told.fitting"
          [open]="opened()"
          what="any server, account, role"
          fileName="identities"
        >
          <hinge-choice
            word="accounts"
            label="Which accounts"
            [choices]="choices"
            [chosen]="only() || 'all'"
            (chose)="go({ only: $event === 'all' ? '' : $event, from: '' })"
          />
          <span empty>
            @if (only() !== '') {
              No account is so.
              <button type="button" class="act" (click)="go({ only: '', from: '' })">Show all</button>
            } @else {
              This page shows who signs in at which server. It fills as soon as a link leads to a server.
            }
          </span>
          <ng-template hingeCell="server" [hingeCellOf]="told.accounts" let-row>
            <a [routerLink]="['/entry/identities', row.serverId]">{{ row.server }}</a>
          </ng-template>
          <ng-template hingeCell="name" [hingeCellOf]="told.accounts" let-row>
            @if (row.userName === null) {
              <em>anonymous</em>
            } @else {
              <span class="mono">{{ row.userName }}</span>
            }
          </ng-template>
          <ng-template hingeCell="roles" [hingeCellOf]="told.accounts" let-row>
            <span [class.faint]="row.roles === null">{{ rolesOf(row) }}</span>
          </ng-template>
          <ng-template hingeCell="links" [hingeCellOf]="told.accounts" let-row>
            @for (link of row.links.slice(0, mostNamed); track link.id) {
              <a class="link" [routerLink]="['/links', link.id]">{{ link.name }}</a>
            } @empty {
              <span class="faint">{{ row.administers ? 'Loyal Hinge, as administrator' : 'no link' }}</span>
            }
            @if (row.links.length > mostNamed) {
              <span class="faint" [hingeTelling]="namesOf(row)">and {{ row.links.length - mostNamed }} more</span>
            }
          </ng-template>
          <ng-template hingeCell="in" [hingeCellOf]="told.accounts" let-row>
            @if (row.signedInAt) {
              <hinge-moment [at]="row.signedInAt" show="near" />
            } @else {
              <span class="faint">never</span>
            }
          </ng-template>
          <ng-template hingeCell="weak" [hingeCellOf]="told.accounts" let-row>
            @for (weakness of row.weaknesses; track weakness.kind) {
              <span class="weakness" [class]="tones[weakness.grade]">{{ weakness.says }}</span>
            }
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="told.accounts" let-row>
            <button
              type="button"
              class="plain"
              [attr.aria-expanded]="opened() === idOf(row)"
              (click)="go({ open: opened() === idOf(row) ? '' : idOf(row) })"
            >
              {{ opened() === idOf(row) ? 'Close' : 'Open' }}
            </button>
          </ng-template>
          <ng-template hingeCell="below" [hingeCellOf]="told.accounts" let-row>
            <hinge-account-sheet [account]="row" (left)="go({ open: '' })" />
          </ng-template>
        </hinge-ledger>
        <hinge-pager
          what="Accounts"
          [from]="told.from"
          [shown]="told.accounts.length"
          [fitting]="told.fitting"
          [size]="pageSize"
          (go)="go({ from: $event })"
        />
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .weakness,
    a.link {
      display: block;
    }
    .weakness {
      font-size: 0.9rem;
    }
    .unread {
      margin: 0 0 0.4rem;
      display: flex;
      flex-wrap: wrap;
      gap: 0 0.8rem;
      font-size: 0.92rem;
    }
  `,
})
export class IdentitiesPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  readonly from = input('', { transform: fromAddress });
  readonly open = input('', { transform: fromAddress });
  readonly known = this.store.selectSignal(accountsFeature.selectAccounts);
  readonly problem = this.store.selectSignal(accountsFeature.selectProblem);
  readonly isReading = this.store.selectSignal(isRunning('read all'));
  readonly mayAct = may('engineer');
  readonly columns = columns;
  readonly choices = weaknessChoices;
  readonly tones = tones;
  readonly rolesOf = rolesWords;
  readonly pageSize = pageSize;
  readonly mostNamed = 3;
  readonly opened = computed(() => this.open() || null);
  readonly idOf = ({ serverId, userName }: AccountView): string => `${serverId}/${userName ?? ''}`;
  readonly readWords = computed(() => {
    const { read, readable } = this.known()?.counts ?? { read: 0, readable: 0 };
    return readable === 0 ? '' : `read at ${read} of ${byNumber(readable, '# server', '# servers')}`;
  });
  readonly unreadWords = computed(() =>
    byNumber(this.known()?.unread.length ?? 0, '# server could not be read:', '# servers could not be read:'),
  );
  readonly headline = computed(() => {
    const counts = this.known()?.counts;
    if (!counts) return 'Identities';
    if (counts.accounts === 0) return 'Nobody signs in anywhere yet.';
    const { accounts, servers, weak } = counts;
    const clauses = [
      `${byNumber(accounts, '# account', '# accounts')} at ${byNumber(servers, '# server', '# servers')}`,
      weak === 0 ? 'none needs attention' : byNumber(weak, '# needs attention', '# need attention'),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    effect(() => {
      const [find, from] = [this.find(), Number(this.from())];
      const only = accountWeaknesses.find((one) => one === this.only());
      const wish = { ...(find && { find }), ...(only && { only }), ...(from > 0 && { from }), most: pageSize };
      untracked(() => this.store.dispatch(accountsActions.showAccounts({ wish })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(accountsActions.leave()));
  }

  namesOf = ({ links }: AccountView): string =>
    links
      .slice(this.mostNamed)
      .map(({ name }) => name)
      .join(', ');

  readAll(): void {
    this.store.dispatch(accountsActions.readAll());
  }
}
