import { ChangeDetectionStrategy, Component, computed, effect, inject, untracked } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { ownCertificate } from '@loyal-hinge/contract';
import type { OwnCertificate } from '@loyal-hinge/contract';
import { saveFile } from '../files/save-file';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, isComplete } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { FileField } from '../forms/file-field';
import { judgeOnly } from '../forms/judge-only';
import { lines, linesOf } from '../forms/lines';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { isRunning, settingsActions, settingsFeature } from './state';

type By = OwnCertificate['by'] | 'request';
const authorityWay = ownCertificate.options[0].shape;
const fileWay = ownCertificate.options[1].shape;
const blanks = /[\s,]+/;

/** The certificate by which this server itself is reached, and how it gets another one: for administrators. */
@Component({
  selector: 'hinge-own-certificate',
  imports: [Choose, CopyText, FieldFault, FileField, Moment, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (own(); as state) {
      @if (state.certificate; as shown) {
        <dl class="facts">
          <dt>Made for</dt>
          <dd class="mono">{{ shown.hosts.join(', ') || shown.subject }}</dd>
          <dt>Signed by</dt>
          <dd>{{ shown.isSelfSigned ? 'itself: browsers warn of it' : shown.issuer }}</dd>
          <dt>Valid until</dt>
          <dd><hinge-moment [at]="shown.notAfter" show="day" /></dd>
          <dt>SHA-256</dt>
          <dd><hinge-copy [text]="shown.sha256" /></dd>
        </dl>
        <form class="sheet" [formGroup]="form" (ngSubmit)="carryOut($event)">
          <hinge-choose label="Replace it by" formControlName="by" [choices]="ways" />
          @if (by() !== 'file') {
            <hinge-text label="Host names and addresses" kind="technical" [control]="form.controls.hosts">
              <small class="faint">By which browsers reach this server, separated by blanks.</small>
            </hinge-text>
          }
          @if (by() === 'authority') {
            <hinge-choose label="Authority" formControlName="authority" [choices]="signerChoices()">
              <hinge-field-fault [of]="form.controls.authority" />
            </hinge-choose>
            <hinge-text label="Passphrase of the authority" kind="password" [control]="form.controls.passphrase" />
            <hinge-number label="Valid for" unit="days" [control]="form.controls.validDays" />
          }
          @if (by() === 'file') {
            <hinge-file
              label="Certificate (PEM), with its issuers"
              accept=".pem,.crt,.cer"
              [control]="form.controls.certificatePem"
            />
            <hinge-file label="Private key (PEM)" accept=".pem,.key" [control]="form.controls.privateKeyPem">
              <small class="faint">Not needed if the certificate was requested here.</small>
            </hinge-file>
          }
          @if (by() === 'authority' && signers().length === 0) {
            <p class="wide weak">
              The plant has no authority whose key is kept here: create one on the Authority page of Trust.
            </p>
          }
          <div class="wide">
            <button type="submit" class="act" [disabled]="busy()">
              {{ by() === 'request' ? 'Create the request' : 'Use it from now on' }}
            </button>
          </div>
        </form>
      } @else {
        <p class="faint">
          This server is reached only from its own computer, and needs no certificate. If it is started with HINGE_HOST
          set to an address of this computer, it serves others, over TLS only.
        </p>
      }
    }
  `,
  styles: `
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
  readonly form = contractForm(
    {
      hosts: lines(authorityWay.hosts, undefined, blanks),
      authority: chosenOne,
      validDays: authorityWay.validDays,
      certificatePem: fileWay.certificatePem,
    },
    {
      by: 'authority' as By,
      hosts: '',
      authority: '',
      passphrase: '',
      validDays: 397,
      certificatePem: '',
      privateKeyPem: '',
    },
  );
  readonly by = toSignal(this.form.controls.by.valueChanges, { initialValue: 'authority' });

  constructor() {
    const { by, hosts, authority, validDays, certificatePem } = this.form.controls;
    const judged = { authority: [hosts, authority, validDays], request: [hosts], file: [certificatePem] };
    by.valueChanges.subscribe((chosen) => judgeOnly(judged, chosen));
    judgeOnly(judged, 'authority');
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

  carryOut(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const {
      by,
      hosts: typed,
      authority,
      passphrase,
      validDays,
      certificatePem,
      privateKeyPem,
    } = this.form.getRawValue();
    const hosts = linesOf(typed, blanks);
    this.form.controls.passphrase.reset();
    switch (by) {
      case 'request':
        return this.store.dispatch(settingsActions.requestOwnCertificate({ hosts }));
      case 'authority': {
        const wish = { by, authority, passphrase, hosts, validDays };
        return this.store.dispatch(settingsActions.giveOwnCertificate({ wish }));
      }
      case 'file': {
        const wish = { by, certificatePem, ...(privateKeyPem === '' ? {} : { privateKeyPem }) };
        return this.store.dispatch(settingsActions.giveOwnCertificate({ wish }));
      }
    }
  }
}
