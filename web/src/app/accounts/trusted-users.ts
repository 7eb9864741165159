import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { AccessChange } from '@loyal-hinge/core';
import type { AccessView, UserCertificateView } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';

type TrustedView = NonNullable<AccessView['userCertificates']>[number];
export type UserTrust = Extract<AccessChange, { readonly thumbprint: string }>;
type Certificate = Pick<UserTrust, 'thumbprint' | 'subject' | 'notAfter'>;

const columns: readonly Column<TrustedView>[] = [
  { key: 'subject', title: 'Subject', text: ({ subject }) => subject },
  { key: 'name', title: 'Name here', text: ({ name }) => name ?? 'not stored here' },
  { key: 'notAfter', title: 'Valid until', text: ({ notAfter }) => notAfter, short: true },
  { key: 'links', title: 'Links', text: ({ links }) => String(links), order: ({ links }) => links, short: true },
];

/** The user certificates that a server trusts; others are tried out, and these tried to be left out. */
@Component({
  selector: 'hinge-trusted-users',
  imports: [Ledger, LedgerCell, Moment, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (trusted(); as rows) {
      <hinge-ledger
        [columns]="columns"
        [rows]="rows"
        [idOf]="idOf"
        [plain]="true"
        empty="The server trusts no user certificate: nobody signs in with one."
      >
        <ng-template hingeCell="subject" [hingeCellOf]="rows" let-one>
          <span [class.gone]="isTurned(one.thumbprint)">{{ one.subject }}</span>
        </ng-template>
        <ng-template hingeCell="notAfter" [hingeCellOf]="rows" let-one>
          <hinge-moment [at]="one.notAfter" show="day" />
        </ng-template>
        <ng-template hingeCell="acts" [hingeCellOf]="rows" let-one>
          <button type="button" class="plain" [disabled]="!mayAct()" (click)="turn('distrust-user', one)">
            {{ isTurned(one.thumbprint) ? 'Undo' : 'Remove' }}
          </button>
        </ng-template>
      </hinge-ledger>
      @for (one of others(); track one.thumbprint) {
        <button type="button" class="act" [disabled]="!mayAct()" (click)="turn('trust-user', one)">
          Trust “{{ one.name }}”
        </button>
      } @empty {
        <p class="faint">
          All that are stored here are in the list.
          <a routerLink="/entry/user-certificates">User certificates</a>
        </p>
      }
    } @else {
      <p class="faint">
        The server has no such list (Part 12, DefaultUserTokenGroup), or it was not read yet: read again.
      </p>
    }
  `,
  styles: `
    p {
      margin: 0.4rem 0 0;
      font-size: 0.9rem;
    }
    .gone {
      text-decoration: line-through;
      color: var(--faint);
    }
    button.act {
      display: block;
      margin-top: 0.6rem;
    }
  `,
})
export class TrustedUsers {
  readonly serverId = input.required<string>();
  /** null: they are not known. */
  readonly trusted = input.required<AccessView['userCertificates']>();
  /** Those that are kept here. */
  readonly stored = input.required<readonly UserCertificateView[]>();
  readonly drafts = input.required<readonly AccessChange[]>();
  readonly mayAct = input.required<boolean>();
  /** To be tried out; where it is already, to be taken back. */
  readonly turned = output<UserTrust>();
  readonly columns = columns;
  readonly idOf = ({ thumbprint }: TrustedView): string => thumbprint;
  /** Kept here, and neither in the server’s list nor tried out to be. */
  readonly others = computed(() =>
    this.stored().flatMap(({ name, certificate }) => {
      if (!certificate) return [];
      const { thumbprint, subject, notAfter } = certificate;
      const isThere = this.trusted()?.some((one) => one.thumbprint === thumbprint);
      return isThere || this.isTurned(thumbprint) ? [] : [{ name, thumbprint, subject, notAfter }];
    }),
  );

  isTurned = (thumbprint: string): boolean =>
    this.drafts().some((draft) => 'thumbprint' in draft && draft.thumbprint === thumbprint);

  turn(kind: UserTrust['kind'], { thumbprint, subject, notAfter }: Certificate): void {
    this.turned.emit({ kind, serverId: this.serverId(), thumbprint, subject, notAfter });
  }
}
