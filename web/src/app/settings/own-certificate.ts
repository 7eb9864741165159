import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { FormBuilder, ReactiveFormsModule } from '@angular/forms';
import { toSignal } from '@angular/core/rxjs-interop';
import { Store } from '@ngrx/store';
import { ownCertificate } from '@loyal-hinge/contract';
import type { OwnCertificate } from '@loyal-hinge/contract';
import { chosenText } from '../files/chosen-text';
import { saveFile } from '../files/save-file';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { isRunning, settingsActions, settingsFeature } from './state';
import { Choose } from '../forms/choose';

type By = OwnCertificate['by'] | 'request';

/** The certificate by which this server itself is reached, and how it gets another one: for administrators. */
@Component({
  selector: 'hinge-own-certificate',
  imports: [Choose, ReactiveFormsModule, CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (own(); as state) {
      @if (state.certificate; as shown) {
        <dl>
          <dt>Made for</dt>
          <dd class="mono">{{ shown.hosts.join(', ') || shown.subject }}</dd>
          <dt>Signed by</dt>
          <dd>{{ shown.isSelfSigned ? 'itself: browsers warn of it' : shown.issuer }}</dd>
          <dt>Valid until</dt>
          <dd><hinge-moment [at]="shown.notAfter" show="day" /></dd>
          <dt>SHA-256</dt>
          <dd><hinge-copy [text]="shown.sha256" /></dd>
        </dl>
        <form class="sheet" [formGroup]="form" (ngSubmit)="carryOut()">
          <hinge-choose label="Another one" formControlName="by" [choices]="ways" />
          @if (by() !== 'file') {
            <label class="field"
              >Host names and addresses<input class="mono" formControlName="hosts" />
              <small class="faint">By which browsers reach this server, with blanks between them.</small></label
            >
          }
          @if (by() === 'authority') {
            <hinge-choose label="Authority" formControlName="authority" [choices]="signerChoices()" />
            <label class="field"
              >Its passphrase<input type="password" autocomplete="off" formControlName="passphrase"
            /></label>
            <label class="field"
              >Valid for (days)<input type="number" min="1" max="825" formControlName="validDays"
            /></label>
          }
          @if (by() === 'file') {
            <label class="field"
              >Certificate (PEM), with its issuers<input
                type="file"
                accept=".pem,.crt,.cer"
                (change)="take($event, certificatePem)"
            /></label>
            <label class="field"
              >Private key (PEM)<input type="file" accept=".pem,.key" (change)="take($event, privateKeyPem)" />
              <small class="faint">Not needed where it was requested here.</small></label
            >
          }
          @if (by() === 'authority' && signers().length === 0) {
            <p class="wide weak">
              The plant has no authority whose key is kept here: make one on the Authority page of Trust.
            </p>
          }
          <div class="wide">
            <button type="submit" class="act" [disabled]="busy() || wish() === null">
              {{ by() === 'request' ? 'Fetch the request' : 'Use it from now on' }}
            </button>
          </div>
        </form>
      } @else {
        <p class="faint">
          This server is reached from its own computer alone, and needs none. Started with HINGE_HOST set to an address
          of this computer, it serves others, over TLS only.
        </p>
      }
    }
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 6rem minmax(0, 1fr);
      gap: 0.2rem 0.8rem;
      margin: 0 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .field {
      align-content: start;
    }
    .wide {
      grid-column: 1 / -1;
    }
    .sheet {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 0.1rem 1.2rem;
    }
  `,
})
export class OwnCertificateForm {
  private readonly store = inject(Store);
  readonly own = this.store.selectSignal(settingsFeature.selectOwnCertificate);
  readonly busy = this.store.selectSignal(isRunning('give own certificate', 'request own certificate'));
  private readonly requested = this.store.selectSignal(settingsFeature.selectRequested);
  private readonly authorities = this.store.selectSignal(settingsFeature.selectAuthorities);
  readonly ways = [
    { key: 'authority', word: 'is signed by the plant’s authority' },
    { key: 'request', word: 'is requested, to be signed elsewhere' },
    { key: 'file', word: 'comes as a file' },
  ] as const;
  readonly signerChoices = computed(() =>
    this.signers().map(({ thumbprint, name }) => ({ key: thumbprint, word: name })),
  );
  readonly signers = computed(() => this.authorities().filter(({ keyKept, isCurrent }) => keyKept && isCurrent));
  readonly certificatePem = signal('');
  readonly privateKeyPem = signal('');
  readonly form = inject(FormBuilder).nonNullable.group({
    by: 'authority' as By,
    hosts: '',
    authority: '',
    passphrase: '',
    validDays: 397,
  });
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  readonly by = computed<By>(() => this.typed().by ?? 'authority');
  private readonly hosts = computed(() => (this.typed().hosts ?? '').split(/[\s,]+/).filter((host) => host !== ''));
  /** What would be asked for, where it is complete. */
  readonly wish = computed<OwnCertificate | 'request' | null>(() => {
    const { authority, passphrase, validDays } = this.typed();
    if (this.by() === 'request') return this.hosts().length > 0 ? 'request' : null;
    const wanted =
      this.by() === 'authority'
        ? { by: 'authority', authority, passphrase, hosts: this.hosts(), validDays }
        : {
            by: 'file',
            certificatePem: this.certificatePem(),
            ...(this.privateKeyPem() === '' ? {} : { privateKeyPem: this.privateKeyPem() }),
          };
    return ownCertificate.safeParse(wanted).data ?? null;
  });

  constructor() {
    effect(() => {
      const hosts = this.own()?.hosts ?? [];
      const [signer] = this.signers();
      untracked(() => {
        if (this.form.controls.hosts.pristine) this.form.controls.hosts.setValue(hosts.join(' '));
        if (this.form.controls.authority.pristine && signer) this.form.controls.authority.setValue(signer.thumbprint);
      });
    });
    effect(() => {
      const requestPem = this.requested();
      if (requestPem === null) return;
      saveFile('loyal-hinge.csr.pem', 'application/x-pem-file', requestPem);
      untracked(() => this.store.dispatch(settingsActions.requestSaved()));
    });
  }

  async take(event: Event, into: { set: (text: string) => void }): Promise<void> {
    into.set(await chosenText(event));
  }

  carryOut(): void {
    const wish = this.wish();
    if (wish === null) return;
    this.store.dispatch(
      wish === 'request'
        ? settingsActions.requestOwnCertificate({ hosts: this.hosts() })
        : settingsActions.giveOwnCertificate({ wish }),
    );
    this.form.controls.passphrase.reset();
  }
}
