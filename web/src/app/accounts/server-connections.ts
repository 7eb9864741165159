import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { AccessView } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';

type ConnectedView = NonNullable<NonNullable<AccessView['connected']>['sessions']>[number];

const columns: readonly Column<ConnectedView>[] = [
  {
    key: 'application',
    title: 'Application',
    text: ({ applicationName, applicationUri }) => applicationName || applicationUri,
  },
  { key: 'user', title: 'User', text: ({ user, mechanism }) => user ?? (mechanism || 'not told'), short: true },
  { key: 'security', title: 'Security', text: securityOf },
  { key: 'items', title: 'Watched items', text: ({ items }) => String(items), order: ({ items }) => items },
  {
    key: 'unauthorized',
    title: 'Requests refused',
    text: ({ unauthorized }) => String(unauthorized),
    order: ({ unauthorized }) => unauthorized,
  },
  { key: 'since', title: 'Since', text: ({ connectedAt }) => connectedAt ?? '', short: true },
];

function securityOf({ mode, policyUri }: ConnectedView): string {
  if (mode === null) return 'not told';
  return mode === 'None' ? 'none' : `${mode === 'Sign' ? 'signed' : 'encrypted'}, ${policyUri.split('#').at(-1) ?? ''}`;
}

/** Who is connected to a server, how secured, and what is weak about it. */
@Component({
  selector: 'hinge-server-connections',
  imports: [Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (connected(); as told) {
      <p class="faint">{{ told.says }} Read <hinge-moment [at]="told.readAt" show="near" />.</p>
      @if (told.sessions; as all) {
        <hinge-ledger
          [columns]="columns"
          [rows]="all"
          [idOf]="idOf"
          [plain]="true"
          empty="The server tells of no session."
        >
          <ng-template hingeCell="application" [hingeCellOf]="all" let-one>
            {{ one.applicationName || one.applicationUri || one.name }}
            @if (one.isOwn) {
              <span class="line faint">which reads this</span>
            }
            @for (weakness of one.weaknesses; track weakness.says) {
              <span class="line" [class]="weakness.grade">{{ weakness.says }}</span>
            }
          </ng-template>
          <ng-template hingeCell="since" [hingeCellOf]="all" let-one>
            @if (one.connectedAt) {
              <hinge-moment [at]="one.connectedAt" show="near" />
            }
          </ng-template>
        </hinge-ledger>
      }
    } @else {
      <p class="faint">Who is connected is read together with roles and users.</p>
    }
  `,
  styles: `
    p {
      margin: 0.4rem 0;
      font-size: 0.9rem;
    }
    .line {
      display: block;
      font-size: 0.9rem;
    }
  `,
})
export class ServerConnections {
  /** null: nobody asked yet. */
  readonly connected = input.required<AccessView['connected']>();
  readonly columns = columns;
  readonly idOf = ({ id }: ConnectedView): string => id;
}
