import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import { mayActAs } from '@loyal-hinge/contract';
import type { AuthorityView, BodyOf, CreateAuthority } from '@loyal-hinge/contract';
import { saveFile } from '../files/csv';
import { DroppedFiles } from '../files/dropped-files';
import { ProblemNotice } from '../http/problem-notice';
import { sessionFeature } from '../session/state';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { daysWords, nearness } from './days';
import { reasonWords } from './reasons';
import { trustActions, trustFeature } from './state';
import { TrustPlaces } from './trust-places';

type Form = 'none' | 'create' | 'import' | 'issue' | 'revoke' | 'crl';
type Reason = BodyOf<'revokeCertificate'>['reason'];

const reasonKeys: readonly Reason[] = [
  'unspecified',
  'keyCompromise',
  'affiliationChanged',
  'superseded',
  'cessationOfOperation',
  'privilegeWithdrawn',
];

/** The plant’s authorities: made or taken over, signing, revoking, and telling of it in CRLs. */
@Component({
  selector: 'hinge-authority-page',
  imports: [FormsModule, RouterLink, ProblemNotice, TrustPlaces, CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <div class="actions">
          <button type="button" class="act" [disabled]="!mayMake()" (click)="open('create', null)">
            Make an authority …
          </button>
          <button type="button" class="act" [disabled]="!mayMake()" (click)="open('import', null)">
            Take one over …
          </button>
        </div>
      </header>
      <hinge-trust-places />
      <hinge-problem [problem]="problem()" />
      @if (says(); as told) {
        <p class="says" role="status">{{ told }}</p>
      }
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
          <form class="sheet" (ngSubmit)="create()">
            <h2>Make an authority</h2>
            <div class="fields">
              <label class="field">Name<input name="commonName" [(ngModel)]="commonName" required /></label>
              <label class="field">Organisation<input name="organization" [(ngModel)]="organization" /></label>
              <label class="field"
                >Key
                <select name="keyKind" [(ngModel)]="keyKind">
                  @for (kind of keyKinds; track kind) {
                    <option>{{ kind }}</option>
                  }
                </select></label
              >
              <label class="field">Valid for (days)<input type="number" name="days" [(ngModel)]="validDays" /></label>
              <label class="field"
                >Authorities below it<input type="number" name="pathLength" min="0" max="5" [(ngModel)]="pathLength"
              /></label>
              <label class="field"
                >Passphrase<input
                  type="password"
                  autocomplete="new-password"
                  name="passphrase"
                  [(ngModel)]="passphrase"
                />
                <small class="faint"
                  >It encrypts the key, is asked for at each signing, and is never kept.</small
                ></label
              >
            </div>
            <div class="actions">
              <button type="submit" class="act main" [disabled]="busy()">{{ busy() ? 'Making …' : 'Make it' }}</button>
              <button type="button" class="act" (click)="form.set('none')">Leave it</button>
            </div>
          </form>
        }
        @case ('import') {
          <form class="sheet" (ngSubmit)="takeOver()">
            <h2>Take an authority over</h2>
            <div class="fields">
              <label class="field"
                >Certificate (PEM)<input type="file" accept=".pem,.crt,.cer" (change)="take($event, 'certificatePem')"
              /></label>
              <label class="field"
                >Its key, encrypted (PEM)<input
                  type="file"
                  accept=".pem,.key"
                  (change)="take($event, 'encryptedKeyPem')"
                />
                <small class="faint"
                  >Leave it out where the key is kept elsewhere: requests are then signed there.</small
                ></label
              >
              <label class="field"
                >Passphrase of the key<input
                  type="password"
                  autocomplete="off"
                  name="passphrase"
                  [(ngModel)]="passphrase"
              /></label>
            </div>
            <div class="actions">
              <button type="submit" class="act main" [disabled]="busy() || certificatePem() === ''">
                Take it over
              </button>
              <button type="button" class="act" (click)="form.set('none')">Leave it</button>
            </div>
          </form>
        }
      }
      @for (authority of authorities(); track authority.thumbprint) {
        <section>
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
              }
            </div>
          </header>
          <dl>
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
                number {{ crl.number }} of <hinge-moment [at]="crl.thisUpdate" show="day" />
                @if (crl.nextUpdate) {
                  <span class="left">next update</span> <hinge-moment [at]="crl.nextUpdate" show="day" />
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
                <form class="sheet" (ngSubmit)="sign(authority)">
                  <h3>Sign a request</h3>
                  <div class="fields">
                    <label class="field"
                      >For
                      <select name="applicationId" [(ngModel)]="applicationId">
                        @for (party of parties(); track party.applicationId) {
                          <option [value]="party.applicationId">{{ party.name }}</option>
                        }
                      </select></label
                    >
                    <label class="field"
                      >Request (PKCS#10, PEM)<input
                        type="file"
                        accept=".csr,.pem,.req"
                        (change)="take($event, 'requestPem')"
                      />
                      @if (requestPem() !== '') {
                        <small class="holds">A request is here.</small>
                      }
                    </label>
                    <label class="field"
                      >Valid for (days)<input type="number" name="days" [(ngModel)]="issueDays"
                    /></label>
                    <label class="field"
                      >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
                    /></label>
                  </div>
                  <div class="actions">
                    <button
                      type="submit"
                      class="act main"
                      [disabled]="busy() || requestPem() === '' || passphrase() === ''"
                    >
                      Sign it
                    </button>
                    <button type="button" class="act" (click)="form.set('none')">Leave it</button>
                  </div>
                </form>
              }
              @case ('crl') {
                <form class="sheet" (ngSubmit)="nextCrl(authority)">
                  <h3>Issue the next CRL</h3>
                  <p class="faint">
                    It names all that was revoked and is in force for 35 days. Lists don’t get it by themselves: the
                    Plan page brings it to those that lack one.
                  </p>
                  <label class="field"
                    >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
                  /></label>
                  <div class="actions">
                    <button type="submit" class="act main" [disabled]="busy() || passphrase() === ''">Issue it</button>
                    <button type="button" class="act" (click)="form.set('none')">Leave it</button>
                  </div>
                </form>
              }
              @case ('revoke') {
                <form class="sheet" (ngSubmit)="revoke(authority)">
                  <h3>Revoke {{ serialNumber() }}</h3>
                  <p class="faint">It can’t be taken back. A CRL that says so is issued at once.</p>
                  <div class="fields">
                    <label class="field"
                      >Because
                      <select name="reason" [(ngModel)]="reason">
                        @for (one of reasons; track one.key) {
                          <option [value]="one.key">{{ one.word }}</option>
                        }
                      </select></label
                    >
                    <label class="field"
                      >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
                    /></label>
                  </div>
                  <div class="actions">
                    <button type="submit" class="act main" [disabled]="busy() || passphrase() === ''">Revoke it</button>
                    <button type="button" class="act" (click)="form.set('none')">Leave it</button>
                  </div>
                </form>
              }
            }
          }
          @if (authority.issued.length > 0) {
            <table class="ledger">
              <thead>
                <tr>
                  <th scope="col">For</th>
                  <th scope="col">Serial number</th>
                  <th scope="col">Signed</th>
                  <th scope="col">Revoked</th>
                  <th scope="col"><span class="unseen">Actions</span></th>
                </tr>
              </thead>
              <tbody>
                @for (row of authority.issued; track row.serialNumber) {
                  <tr>
                    <td>
                      @if (row.thumbprint) {
                        <a [routerLink]="['/trust/certificates', row.thumbprint]">{{
                          row.application ?? 'a certificate'
                        }}</a>
                      } @else {
                        {{ row.application ?? 'signed before it came here' }}
                      }
                    </td>
                    <td class="mono">{{ row.serialNumber }}</td>
                    <td>
                      @if (row.issuedAt) {
                        <hinge-moment [at]="row.issuedAt" show="day" />
                      }
                    </td>
                    <td>
                      @if (row.revokedAt) {
                        <strong class="fails"><hinge-moment [at]="row.revokedAt" show="day" /></strong>
                        {{ wordOf(row.reason) }}
                      }
                    </td>
                    <td class="acts">
                      @if (!row.revokedAt && authority.keyKept) {
                        <button
                          type="button"
                          class="plain"
                          [disabled]="!mayRevoke()"
                          (click)="open('revoke', authority); serialNumber.set(row.serialNumber)"
                        >
                          Revoke …
                        </button>
                      }
                    </td>
                  </tr>
                }
              </tbody>
            </table>
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
    section {
      background: var(--panel);
      border: 1px solid var(--line);
      padding: 0.9rem 1.1rem;
      margin-bottom: 1rem;
    }
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
    dl {
      display: grid;
      grid-template-columns: 6.5rem 1fr;
      gap: 0.25rem 0.8rem;
      margin: 0 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
    }
    .left {
      margin-left: 0.5rem;
    }
    .sheet {
      background: var(--paper);
      border: 1px solid var(--line);
      padding: 0.8rem 1rem;
      margin-bottom: 0.9rem;
    }
    .sheet h2,
    .sheet h3 {
      margin-bottom: 0.6rem;
    }
    .fields {
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 0.2rem 1.2rem;
    }
    td {
      font-size: 0.92rem;
    }
    .acts {
      text-align: right;
    }
    .empty {
      padding: 2rem;
      background: var(--panel);
      border: 1px solid var(--line);
    }
    .waiting {
      height: 16rem;
      background: var(--wash);
    }
  `,
})
export class AuthorityPage {
  private readonly store = inject(Store);
  private readonly dropped = inject(DroppedFiles);
  readonly authorities = this.store.selectSignal(trustFeature.selectAuthorities);
  readonly overview = this.store.selectSignal(trustFeature.selectOverview);
  readonly issued = this.store.selectSignal(trustFeature.selectIssued);
  readonly problem = this.store.selectSignal(trustFeature.selectProblem);
  readonly says = this.store.selectSignal(trustFeature.selectSays);
  readonly busy = this.store.selectSignal(trustFeature.selectBusy);
  private readonly person = this.store.selectSignal(sessionFeature.selectSignedIn);
  private readonly role = computed(() => this.person()?.role ?? 'viewer');
  readonly mayAct = computed(() => mayActAs(this.role(), 'engineer'));
  readonly mayRevoke = computed(() => mayActAs(this.role(), 'approver'));
  readonly mayMake = computed(() => mayActAs(this.role(), 'administrator'));
  readonly parties = computed(() => this.overview()?.parties ?? []);
  readonly form = signal<Form>('none');
  readonly at = signal<AuthorityView | null>(null);
  readonly keyKinds = ['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256'] as const;
  readonly reasons = reasonKeys.map((key) => ({ key, word: reasonWords[key] ?? key }));
  readonly commonName = signal('');
  readonly organization = signal('');
  readonly keyKind = signal<CreateAuthority['keyKind']>('RSA 3072');
  readonly validDays = signal(3650);
  readonly pathLength = signal(0);
  readonly passphrase = signal('');
  readonly certificatePem = signal('');
  readonly encryptedKeyPem = signal('');
  readonly requestPem = signal('');
  readonly applicationId = signal('');
  readonly issueDays = signal(730);
  readonly serialNumber = signal('');
  readonly reason = signal<Reason>('unspecified');
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
      const request = this.dropped.request();
      const current = this.authorities()?.find(({ isCurrent, keyKept }) => isCurrent && keyKept);
      if (!request || !current) return;
      untracked(() => {
        this.open('issue', current);
        this.requestPem.set(request.pem);
        if (request.applicationId !== null) this.applicationId.set(request.applicationId);
        this.dropped.request.set(null);
      });
    });
  }

  leftOf = (at: string): string => daysWords(Date.parse(at), Date.now());
  toneOf = (at: string): string => nearness(Date.parse(at), Date.now());
  wordOf = (reason: string | null): string => reasonWords[reason ?? ''] ?? reason ?? '';
  savePem = (name: string, pem: string): void => saveFile(`${name}.pem`, 'application/x-pem-file', pem);

  open(form: Form, authority: AuthorityView | null): void {
    this.form.set(form);
    this.at.set(authority);
    for (const field of [this.passphrase, this.certificatePem, this.encryptedKeyPem, this.requestPem]) field.set('');
    this.applicationId.set(this.parties()[0]?.applicationId ?? '');
  }

  async take(event: Event, what: 'certificatePem' | 'encryptedKeyPem' | 'requestPem'): Promise<void> {
    const file = (event.target as HTMLInputElement).files?.[0];
    this[what].set(file ? await file.text() : '');
  }

  create(): void {
    this.store.dispatch(
      trustActions.command({
        command: {
          does: 'create authority',
          body: {
            commonName: this.commonName(),
            organization: this.organization(),
            keyKind: this.keyKind(),
            validDays: this.validDays(),
            pathLength: this.pathLength(),
            passphrase: this.passphrase(),
          },
        },
      }),
    );
    this.passphrase.set('');
  }

  takeOver(): void {
    const encryptedKeyPem = this.encryptedKeyPem() === '' ? null : this.encryptedKeyPem();
    const passphrase = this.passphrase() === '' ? null : this.passphrase();
    const body = { certificatePem: this.certificatePem(), encryptedKeyPem, passphrase };
    this.store.dispatch(trustActions.command({ command: { does: 'import authority', body } }));
    this.passphrase.set('');
  }

  sign({ thumbprint }: AuthorityView): void {
    const body = {
      applicationId: this.applicationId(),
      requestPem: this.requestPem(),
      validDays: this.issueDays(),
      passphrase: this.passphrase(),
    };
    this.store.dispatch(trustActions.command({ command: { does: 'issue', authority: thumbprint, body } }));
    this.passphrase.set('');
  }

  revoke({ thumbprint }: AuthorityView): void {
    const body = { serialNumber: this.serialNumber(), reason: this.reason(), passphrase: this.passphrase() };
    this.store.dispatch(trustActions.command({ command: { does: 'revoke', authority: thumbprint, body } }));
    this.passphrase.set('');
    this.form.set('none');
  }

  nextCrl({ thumbprint }: AuthorityView): void {
    const passphrase = this.passphrase();
    this.store.dispatch(trustActions.command({ command: { does: 'issue CRL', authority: thumbprint, passphrase } }));
    this.passphrase.set('');
    this.form.set('none');
  }
}
