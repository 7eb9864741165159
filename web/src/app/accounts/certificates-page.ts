import { ChangeDetectionStrategy, Component, DestroyRef, computed, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, usualRules } from '@loyal-hinge/core';
import type { UserCertificateView } from '@loyal-hinge/contract';
import { EntryHead } from '../entry/entry-head';
import { onceMore } from '../http/once-more';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { CertificateForm } from './certificate-form';
import { accountsActions, accountsFeature, isRunning } from './state';

const dayMs = 86_400_000;

const columns: readonly Column<UserCertificateView>[] = [
  { key: 'name', title: 'Name', text: ({ name }) => name },
  { key: 'subject', title: 'Subject', text: ({ certificate }) => certificate?.subject ?? 'not stored here' },
  { key: 'until', title: 'Valid until', text: ({ certificate }) => certificate?.notAfter ?? '', short: true },
  { key: 'links', title: 'Used by', text: ({ links }) => links.map(({ name }) => name).join('; ') },
];

/** The certificates with which links sign in as users: what is stored of each, and who uses it. */
@Component({
  selector: 'hinge-user-certificates-page',
  imports: [CertificateForm, CopyText, EntryHead, Ledger, LedgerCell, Moment, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" [otherProblem]="problem()">
        <button type="button" class="act main" [disabled]="!mayAct()" (click)="giving.set('')">
          Add a user certificate
        </button>
      </hinge-entry-head>
      @if (giving() === '') {
        <hinge-certificate-form (left)="giving.set(null)" />
      }
      @if (known(); as rows) {
        <hinge-ledger
          [columns]="columns"
          [rows]="rows"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          [open]="opened()"
          what="any name, subject, link"
          fileName="user-certificates"
          empty="No link signs in with a certificate, and none is stored. It takes the place of a password: only its holder can sign with its key, and nothing secret crosses the network."
        >
          <ng-template hingeCell="name" [hingeCellOf]="rows" let-row>
            <span class="mono">{{ row.name }}</span>
          </ng-template>
          <ng-template hingeCell="subject" [hingeCellOf]="rows" let-row>
            @if (row.certificate; as certificate) {
              {{ certificate.subject }}
            } @else {
              <span class="fails">not stored here</span>
            }
          </ng-template>
          <ng-template hingeCell="until" [hingeCellOf]="rows" let-row>
            @if (row.certificate; as certificate) {
              <span [class]="toneOf(certificate.notAfter)"
                ><hinge-moment [at]="certificate.notAfter" show="day"
              /></span>
            }
          </ng-template>
          <ng-template hingeCell="links" [hingeCellOf]="rows" let-row>
            @for (link of row.links; track link.id) {
              <a class="link" [routerLink]="['/links', link.id]">{{ link.name }}</a>
            } @empty {
              <span class="faint">no link</span>
            }
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="rows" let-row>
            <button
              type="button"
              class="plain"
              [attr.aria-expanded]="opened() === row.name"
              (click)="go({ open: opened() === row.name ? '' : row.name })"
            >
              {{ opened() === row.name ? 'Close' : 'Open' }}
            </button>
          </ng-template>
          <ng-template hingeCell="below" [hingeCellOf]="rows" let-row>
            @if (row.certificate; as certificate) {
              <dl class="facts">
                <dt>Thumbprint</dt>
                <dd><hinge-copy [text]="certificate.thumbprint" /></dd>
                <dt>In rules of roles</dt>
                <dd><hinge-copy [text]="certificate.criteria" /></dd>
                <dt>Issuer</dt>
                <dd>{{ certificate.issuer === certificate.subject ? 'itself' : certificate.issuer }}</dd>
                <dt>Valid</dt>
                <dd>
                  from <hinge-moment [at]="certificate.notBefore" show="day" /> to
                  <hinge-moment [at]="certificate.notAfter" show="day" />
                </dd>
                <dt>Trusted by</dt>
                <dd>
                  @for (server of row.trustedBy; track server.id; let last = $last) {
                    <a [routerLink]="['/entry/identities', server.id]">{{ server.name }}</a>{{ last ? '' : ', ' }}
                  } @empty {
                    <span class="faint"
                      >no server whose roles and users were read. Have servers trust it on their pages under
                      Identities.</span
                    >
                  }
                </dd>
                @if (row.setAt; as at) {
                  <dt>Stored</dt>
                  <dd><hinge-moment [at]="at" />, by {{ row.setBy }}</dd>
                }
              </dl>
            }
            @if (giving() === row.name) {
              <hinge-certificate-form [name]="row.name" (left)="giving.set(null)" />
            } @else {
              <div class="actions">
                <button type="button" class="act" [disabled]="!mayAct()" (click)="giving.set(row.name)">
                  {{ row.certificate ? 'Replace it …' : 'Store it …' }}
                </button>
                @if (row.certificate) {
                  <a class="act" [routerLink]="['/trust/certificates', row.certificate.thumbprint]"
                    >Look at it, save it as PEM</a
                  >
                  <button
                    type="button"
                    class="act"
                    [disabled]="!mayAct() || row.links.length > 0 || isForgetting()"
                    (click)="forget(row.name)"
                  >
                    Forget it …
                  </button>
                  @if (row.links.length > 0) {
                    <span class="faint">It can be forgotten once no link signs in with it.</span>
                  }
                }
              </div>
            }
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    a.link {
      display: block;
    }
    dl {
      margin: 0.3rem 0 0.7rem;
    }
  `,
})
export class UserCertificatesPage {
  private readonly store = inject(Store);
  private readonly asks = inject(Ask);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly open = input('', { transform: fromAddress });
  readonly known = this.store.selectSignal(accountsFeature.selectCertificates);
  readonly problem = this.store.selectSignal(accountsFeature.selectProblem);
  readonly isForgetting = this.store.selectSignal(isRunning('forget certificate'));
  readonly mayAct = may('engineer');
  readonly columns = columns;
  readonly opened = computed(() => this.open() || null);
  readonly idOf = ({ name }: UserCertificateView): string => name;
  /** The name under which one is being given, empty for a new one; null: none is. */
  readonly giving = signal<string | null>(null);
  readonly headline = computed(() => {
    const rows = this.known();
    if (!rows) return 'User certificates';
    if (rows.length === 0) return 'No user certificate is stored.';
    const missing = rows.filter(({ certificate }) => !certificate).length;
    const ending = rows.filter(({ certificate }) => certificate && this.toneOf(certificate.notAfter) !== '').length;
    const clauses = [
      byNumber(rows.length, '# user certificate', '# user certificates'),
      ...(missing === 0 ? [] : [byNumber(missing, '# is not stored', '# are not stored')]),
      ...(ending === 0 ? [] : [byNumber(ending, '# has expired or soon will', '# have expired or soon will')]),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    this.store.dispatch(accountsActions.showCertificates());
    onceMore(this.store.selectSignal(accountsFeature.selectDone), () => this.giving.set(null));
    inject(DestroyRef).onDestroy(() => this.store.dispatch(accountsActions.leave()));
  }

  toneOf(notAfter: string): '' | 'weak' | 'fails' {
    const days = (Date.parse(notAfter) - Date.now()) / dayMs;
    return days < 0 ? 'fails' : days < usualRules.expiresSoonDays ? 'weak' : '';
  }

  forget(name: string): void {
    this.asks.first({
      title: `Forget the user certificate “${name}”?`,
      says: 'Its key is deleted here for good. Without a copy of the key nobody can sign in with it again.',
      does: 'Forget it',
      run: () => this.store.dispatch(accountsActions.forgetCertificate({ name })),
    });
  }
}
