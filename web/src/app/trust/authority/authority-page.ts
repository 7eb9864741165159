import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import type { AuthorityView } from '@loyal-hinge/contract';
import { saveFile } from '../../files/csv';
import { DroppedFiles } from '../../files/dropped-files';
import { may } from '../../session/may';
import { CopyText } from '../../signs/copy-text';
import { Moment } from '../../signs/moment';
import { daysWords, nearness } from '../days';
import { trustActions, trustFeature } from '../state';
import { TrustHead } from '../trust-head';
import { MakeAuthority } from './make-authority';
import { MakeRequest } from './make-request';
import { NextCrl } from './next-crl';
import { OpenRequests } from './open-requests';
import { RevokeCertificate } from './revoke-certificate';
import { SignRequest } from './sign-request';
import { SignedBy } from './signed-by';
import { TakeOverAuthority } from './take-over-authority';

type Form = 'none' | 'create' | 'import' | 'issue' | 'request' | 'revoke' | 'crl';

/** The plant’s authorities: made or taken over, signing, revoking, and telling of it in CRLs. */
@Component({
  selector: 'hinge-authority-page',
  imports: [
    RouterLink,
    TrustHead,
    MakeAuthority,
    TakeOverAuthority,
    SignRequest,
    MakeRequest,
    OpenRequests,
    SignedBy,
    RevokeCertificate,
    NextCrl,
    CopyText,
    Moment,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        <button type="button" class="act" [disabled]="!mayMake()" (click)="open('create', null)">
          Make an authority …
        </button>
        <button type="button" class="act" [disabled]="!mayMake()" (click)="open('import', null)">
          Take one over …
        </button>
      </hinge-trust-head>
      @if (issued(); as made) {
        <p class="says">
          The certificate is kept.
          <button type="button" class="plain" (click)="savePem(made.thumbprint, made.certificatePem)">
            Save it as PEM
          </button>
          <button type="button" class="plain" (click)="savePem('issuer', made.chainPem)">Save its issuer, too</button>
          <a [routerLink]="['/trust/certificates', made.thumbprint]">Look at it</a>
        </p>
      }
      @switch (form()) {
        @case ('create') {
          <hinge-make-authority (left)="close()" />
        }
        @case ('import') {
          <hinge-take-over-authority (left)="close()" />
        }
      }
      @for (authority of authorities(); track authority.thumbprint) {
        <section class="sheet">
          <header>
            <h2>
              <a [routerLink]="['/trust/certificates', authority.thumbprint]">{{ authority.name }}</a>
              @if (authority.isCurrent) {
                <span class="holds">plans reckon with it</span>
              } @else {
                <span class="faint">a former one</span>
              }
            </h2>
            <div class="actions">
              @if (authority.keyKept) {
                <button type="button" class="act" [disabled]="!mayAct()" (click)="open('issue', authority)">
                  Sign a request …
                </button>
                <button type="button" class="act" [disabled]="!mayAct()" (click)="open('crl', authority)">
                  Issue the next CRL …
                </button>
              } @else if (authority.isCurrent) {
                <button type="button" class="act" [disabled]="!mayAct()" (click)="open('request', authority)">
                  Make a request …
                </button>
              }
            </div>
          </header>
          <dl class="facts">
            <dt>Thumbprint</dt>
            <dd><hinge-copy [text]="authority.thumbprint" /></dd>
            <dt>Valid until</dt>
            <dd>
              <hinge-moment [at]="authority.certificate.notAfter" show="day" />
              <span class="left" [class]="toneOf(authority.certificate.notAfter)">{{
                leftOf(authority.certificate.notAfter)
              }}</span>
            </dd>
            <dt>Key</dt>
            <dd>
              {{ authority.certificate.keyType }}, {{ authority.certificate.keyBits }} bits;
              {{ authority.keyKept ? 'lies here, encrypted with its passphrase' : 'is kept elsewhere' }}
            </dd>
            <dt>CRL</dt>
            <dd>
              @if (authority.crl; as crl) {
                number {{ crl.number }} of <hinge-moment [at]="crl.thisUpdate" show="day" />{{
                  crl.nextUpdate ? ', next update' : ''
                }}
                @if (crl.nextUpdate) {
                  <hinge-moment [at]="crl.nextUpdate" show="day" />
                }
                @if (crl.warning) {
                  <p class="weak">{{ crl.warning }}</p>
                }
              } @else {
                none is known here
              }
            </dd>
          </dl>
          @if (at()?.thumbprint === authority.thumbprint) {
            @switch (form()) {
              @case ('issue') {
                <hinge-sign-request [authority]="authority" (left)="close()" />
              }
              @case ('request') {
                <hinge-make-request [authority]="authority" (left)="close()" />
              }
              @case ('crl') {
                <hinge-next-crl [authority]="authority" (left)="close()" />
              }
              @case ('revoke') {
                <hinge-revoke-certificate [authority]="authority" [serialNumber]="serialNumber()" (left)="close()" />
              }
            }
          }
          <hinge-open-requests [authority]="authority" />
          @if (authority.issued.length > 0) {
            <hinge-signed-by [authority]="authority" (revoke)="revoke(authority, $event)" />
          }
        </section>
      } @empty {
        @if (authorities() === null) {
          <div class="waiting" aria-busy="true"></div>
        } @else {
          <p class="empty">
            Here stands the plant’s authority: one that all applications trust, and that signs for all. Make one, or
            take over one that the plant has already.
          </p>
        }
      }
    </div>
  `,
  styles: `
    section header {
      display: flex;
      justify-content: space-between;
      gap: 1rem;
      margin-bottom: 0.5rem;
    }
    h2 span {
      font-size: 0.86rem;
      font-weight: 400;
      margin-left: 0.6rem;
    }
    .left {
      margin-left: 0.5rem;
    }
  `,
})
export class AuthorityPage {
  private readonly store = inject(Store);
  private readonly dropped = inject(DroppedFiles);
  readonly authorities = this.store.selectSignal(trustFeature.selectAuthorities);
  readonly issued = this.store.selectSignal(trustFeature.selectIssued);
  private readonly says = this.store.selectSignal(trustFeature.selectSays);
  readonly mayAct = may('engineer');
  readonly mayMake = may('administrator');
  readonly form = signal<Form>('none');
  /** Whose form is open. */
  readonly at = signal<AuthorityView | null>(null);
  readonly serialNumber = signal('');
  readonly headline = computed(() => {
    const all = this.authorities();
    if (all === null) return 'Authority';
    const current = all.find(({ isCurrent }) => isCurrent);
    if (!current) return 'The plant has no authority of its own yet.';
    const revoked = current.issued.filter(({ revokedAt }) => revokedAt !== null).length;
    return `${current.name} signs for the plant: ${counted(current.issued.length - revoked, 'certificate')} from here, ${revoked} revoked.`;
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'authorities' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'overview' } }));
    effect(() => {
      const signing = this.authorities()?.find(({ isCurrent, keyKept }) => isCurrent && keyKept);
      if (this.dropped.request() && signing) untracked(() => this.open('issue', signing));
    });
    // A form stays open, with what was typed, until its wish was carried out.
    effect(() => {
      if (this.says() !== null) untracked(() => this.close());
    });
  }

  leftOf = (at: string): string => daysWords(Date.parse(at), Date.now());
  toneOf = (at: string): string => nearness(Date.parse(at), Date.now());
  savePem = (name: string, pem: string): void => saveFile(`${name}.pem`, 'application/x-pem-file', pem);

  open(form: Form, authority: AuthorityView | null): void {
    this.form.set(form);
    this.at.set(authority);
  }

  revoke(authority: AuthorityView, serialNumber: string): void {
    this.serialNumber.set(serialNumber);
    this.open('revoke', authority);
  }

  close(): void {
    this.form.set('none');
  }
}
