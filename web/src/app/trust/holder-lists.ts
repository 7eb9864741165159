import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { HolderDetail } from '@loyal-hinge/contract';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { Moment } from '../signs/moment';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';

const titles = {
  trusted: 'Trusted: they give trust',
  issuers: 'Issuers: they complete chains, and give no trust',
  rejected: 'Set aside',
} as const;
const order = ['trusted', 'issuers', 'rejected'] as const;

type Entry = HolderDetail['lists'][number];
type Crl = HolderDetail['crls'][number];
const columns: readonly Column<Entry>[] = [
  { key: 'name', title: 'Certificate', text: ({ name }) => name },
  { key: 'since', title: 'Seen since', text: ({ since }) => since },
];
const crlColumns: readonly Column<Crl>[] = [
  { key: 'issuer', title: 'Issuer', text: ({ issuer }) => issuer },
  { key: 'thisUpdate', title: 'Issued', text: ({ thisUpdate }) => thisUpdate },
  { key: 'nextUpdate', title: 'Next update', text: ({ nextUpdate }) => nextUpdate ?? '' },
  { key: 'revoked', title: 'Revoked', text: ({ revoked }) => String(revoked) },
];

/** What is in the lists of one application; what is to leave one becomes a work order. */
@Component({
  selector: 'hinge-holder-lists',
  imports: [Ledger, LedgerCell, Moment, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (group of lists(); track group.list) {
      <h2>{{ group.title }}</h2>
      <hinge-ledger [columns]="columns" [rows]="group.entries" [idOf]="idOf" [plain]="true" [empty]="emptyWords()">
        <ng-template hingeCell="name" [hingeCellOf]="group.entries" let-entry>
          <a [routerLink]="['/trust/certificates', entry.thumbprint]">{{ entry.name }}</a>
        </ng-template>
        <ng-template hingeCell="since" [hingeCellOf]="group.entries" let-entry>
          <hinge-moment [at]="entry.since" show="day" />
          @if (entry.until) {
            <strong class="weak">until <hinge-moment [at]="entry.until" /></strong>
          }
        </ng-template>
        @if (group.list !== 'rejected') {
          <ng-template hingeCell="acts" [hingeCellOf]="group.entries" let-entry>
            <button
              type="button"
              class="plain"
              [disabled]="!mayAct()"
              (click)="takeOut(group.list, entry.thumbprint, entry.name)"
            >
              Remove …
            </button>
          </ng-template>
        }
      </hinge-ledger>
    }
    <h2>Revocation lists</h2>
    <hinge-ledger [columns]="crlColumns" [rows]="told().crls" [idOf]="crlIdOf" [plain]="true" empty="None.">
      <ng-template hingeCell="thisUpdate" [hingeCellOf]="told().crls" let-crl>
        <hinge-moment [at]="crl.thisUpdate" show="day" />
      </ng-template>
      <ng-template hingeCell="nextUpdate" [hingeCellOf]="told().crls" let-crl>
        @if (crl.nextUpdate) {
          <hinge-moment [at]="crl.nextUpdate" show="day" />
        }
      </ng-template>
    </hinge-ledger>
  `,
  styles: `
    h2 {
      margin: 0.9rem 0 0.2rem;
    }
    h2:first-child {
      margin-top: 0;
    }
  `,
})
export class HolderLists {
  private readonly store = inject(Store);
  readonly told = input.required<HolderDetail>();
  readonly mayAct = may('engineer');
  readonly columns = columns;
  readonly crlColumns = crlColumns;
  readonly idOf = ({ thumbprint }: Entry): string => thumbprint;
  readonly crlIdOf = ({ list, id }: Crl): string => list + id;
  readonly emptyWords = computed(() => {
    const { readAt, way } = this.told().party;
    return readAt !== null || way === 'held' ? 'Empty.' : 'Not read yet.';
  });
  readonly lists = computed(() =>
    order.map((list) => ({
      list,
      title: titles[list],
      entries: this.told().lists.filter((entry) => entry.list === list),
    })),
  );

  takeOut(list: 'trusted' | 'issuers', thumbprint: string, name: string): void {
    const { applicationId: holderId, name: holder } = this.told().party;
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Remove ${name} from the ${list} list of ${holder}`,
          lines: [
            {
              change: { kind: 'unlist-certificate', holderId, list, thumbprint },
              why: `Asked for on the page of the lists of ${holder}.`,
              linkIds: [],
            },
          ],
        },
      }),
    );
  }
}
