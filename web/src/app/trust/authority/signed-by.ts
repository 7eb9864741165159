import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { AuthorityView } from '@loyal-hinge/contract';
import { may } from '../../session/may';
import { LedgerCell } from '../../shell/ledger/cell';
import { Ledger } from '../../shell/ledger/ledger';
import type { Column } from '../../shell/ledger/ledger';
import { Moment } from '../../signs/moment';
import { reasonWords } from '../reasons';

type Issued = AuthorityView['issued'][number];

/** What an authority has signed, and what of it was revoked. */
@Component({
  selector: 'hinge-signed-by',
  imports: [RouterLink, Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns"
      [rows]="rows()"
      [idOf]="idOf"
      [(find)]="find"
      [plain]="rows().length <= few"
      what="any application or number"
      fileName="signed"
    >
      <ng-template hingeCell="application" [hingeCellOf]="rows()" let-row>
        @if (row.thumbprint) {
          <a [routerLink]="['/trust/certificates', row.thumbprint]">{{ nameOf(row) }}</a>
        } @else {
          {{ nameOf(row) }}
        }
      </ng-template>
      <ng-template hingeCell="issued" [hingeCellOf]="rows()" let-row>
        @if (row.issuedAt) {
          <hinge-moment [at]="row.issuedAt" show="day" />
        }
      </ng-template>
      <ng-template hingeCell="revoked" [hingeCellOf]="rows()" let-row>
        @if (row.revokedAt) {
          <strong class="fails"><hinge-moment [at]="row.revokedAt" show="day" /></strong> {{ wordOf(row.reason) }}
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="rows()" let-row>
        @if (!row.revokedAt && authority().keyKept) {
          <button type="button" class="plain" [disabled]="!mayRevoke()" (click)="revoke.emit(row.serialNumber)">
            Revoke …
          </button>
        }
      </ng-template>
    </hinge-ledger>
  `,
})
export class SignedBy {
  readonly authority = input.required<AuthorityView>();
  /** The serial number of what is to be revoked. */
  readonly revoke = output<string>();
  readonly rows = computed<readonly Issued[]>(() => this.authority().issued);
  readonly find = signal('');
  readonly few = 5;
  readonly mayRevoke = may('approver');
  readonly nameOf = nameOf;
  readonly wordOf = wordOf;
  readonly columns: readonly Column<Issued>[] = [
    { key: 'application', title: 'For', text: nameOf },
    { key: 'serialNumber', title: 'Serial number', text: ({ serialNumber }) => serialNumber, mono: true },
    { key: 'issued', title: 'Signed', text: ({ issuedAt }) => issuedAt ?? '' },
    {
      key: 'revoked',
      title: 'Revoked',
      text: ({ revokedAt, reason }) => (revokedAt === null ? '' : `${revokedAt} ${wordOf(reason)}`),
    },
  ];

  idOf = ({ serialNumber }: Issued): string => serialNumber;
}

const nameOf = ({ application, thumbprint }: Issued): string =>
  application ?? (thumbprint === null ? 'signed before it came here' : 'a certificate');

const wordOf = (reason: string | null): string => reasonWords[reason ?? ''] ?? reason ?? '';
