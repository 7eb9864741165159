import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Session } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';

/** Where somebody is signed in now, each session to be ended. */
@Component({
  selector: 'hinge-sessions-table',
  imports: [Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger [columns]="columns" [rows]="sessions()" [plain]="true" empty="No session is open.">
      <ng-template hingeCell="since" [hingeCellOf]="sessions()" let-session>
        <hinge-moment [at]="session.since" />
      </ng-template>
      <ng-template hingeCell="seenAt" [hingeCellOf]="sessions()" let-session>
        <hinge-moment [at]="session.seenAt" />
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="sessions()" let-session>
        @if (session.isOwn) {
          <span class="faint">this one</span>
        } @else {
          <button type="button" class="plain" [disabled]="!mayEnd()" (click)="ends.emit(session.id)">End</button>
        }
      </ng-template>
    </hinge-ledger>
  `,
})
export class SessionsTable {
  readonly sessions = input.required<readonly Session[]>();
  readonly mayEnd = input(true);
  readonly ends = output<string>();
  readonly columns: readonly Column<Session>[] = [
    { key: 'since', title: 'Signed in', text: ({ since }) => since },
    { key: 'seenAt', title: 'Last seen', text: ({ seenAt }) => seenAt },
    { key: 'address', title: 'From', text: ({ address }) => plainAddress(address), mono: true, short: true },
    { key: 'browser', title: 'Browser, as it calls itself', text: ({ browser }) => browser || 'It gives no name.' },
  ];
}

/** An IPv4 address that came in over IPv6 is shown as what it is (RFC 4291 §2.5.5.2). */
const plainAddress = (address: string): string => address.replace(/^::ffff:(?=\d+\.)/, '');
