import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { clientIdentity } from '@loyal-hinge/contract';
import type { ClientIdentity, ClientIdentityView } from '@loyal-hinge/contract';
import { DroppedFiles } from '../files/dropped-files';
import { Choose, asChoices } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, isComplete } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { judgeOnly } from '../forms/judge-only';
import { KeyFiles } from '../forms/key-files';
import { lines, linesOf } from '../forms/lines';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { isRunning, settingsActions, settingsFeature } from './state';

type By = ClientIdentity['by'];
const pem = clientIdentity.options[0].shape;
const pkcs12 = clientIdentity.options[1].shape;
const making = clientIdentity.options[2].shape;
type KeyKind = (typeof making.keyKind.options)[number];

/** Gives a client its certificate and key: made here, or out of files. */
@Component({
  selector: 'hinge-give-identity',
  imports: [Choose, FieldFault, KeyFiles, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form class="sheet" [formGroup]="form" (ngSubmit)="give($event)">
      <hinge-choose label="Client" placeholder="which client?" formControlName="clientId" [choices]="clientChoices()">
        <hinge-field-fault [of]="form.controls.clientId" />
      </hinge-choose>
      <hinge-choose label="Certificate and key" formControlName="by" [choices]="ways" />
      @if (by() === 'making') {
        <hinge-text label="Name" [control]="form.controls.commonName" />
        <hinge-text label="Organisation" [control]="form.controls.organization" />
        <hinge-text class="wide" label="Host names and addresses" kind="technical" [control]="form.controls.hosts">
          <small class="faint">Separated by blanks. The application URI comes from the plant.</small>
        </hinge-text>
        <hinge-choose label="Key" formControlName="keyKind" [choices]="keyKinds" />
        <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
        <hinge-choose label="Signed by" formControlName="authority" [choices]="signerChoices()" />
        @if (isSigned()) {
          <hinge-text label="Passphrase of the authority" kind="password" [control]="form.controls.passphrase" />
        }
      } @else {
        <hinge-key-files [by]="filesBy()" [controls]="form.controls" [brought]="brought()" />
      }
      <p class="wide faint">
        The key is encrypted as soon as it is here, and never shown or exported. The client no longer shows the
        certificate that it had before; servers that trusted that one must trust the new one: see the Plan page of
        Trust.
      </p>
      <div class="wide">
        <button type="submit" class="act" [disabled]="busy() || !mayGive()">
          {{ busy() ? 'Working …' : by() === 'making' ? 'Create certificate and key' : 'Save certificate and key' }}
        </button>
      </div>
    </form>
  `,
  styles: `
    form {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 0.1rem 1.2rem;
    }
    .wide {
      grid-column: 1 / -1;
    }
  `,
})
export class GiveIdentity {
  private readonly store = inject(Store);
  private readonly dropped = inject(DroppedFiles);
  readonly identities = input.required<readonly ClientIdentityView[]>();
  readonly mayGive = input.required<boolean>();
  readonly busy = this.store.selectSignal(isRunning('give identity'));
  private readonly authorities = this.store.selectSignal(settingsFeature.selectAuthorities);
  readonly signers = computed(() => this.authorities().filter(({ keyKept, isCurrent }) => keyKept && isCurrent));
  readonly clientChoices = computed(() =>
    this.identities().map(({ applicationId, application }) => ({ key: applicationId, word: application })),
  );
  readonly ways = [
    { key: 'making', word: 'are made here' },
    { key: 'pkcs12', word: 'come in one file (PKCS#12)' },
    { key: 'pem', word: 'come in two files (PEM)' },
  ] as const;
  readonly signerChoices = computed(() => [
    { key: '', word: 'itself' },
    ...this.signers().map(({ thumbprint, name }) => ({ key: thumbprint, word: name })),
  ]);
  readonly keyKinds = asChoices(making.keyKind.options);
  readonly form = contractForm(
    {
      clientId: chosenOne,
      commonName: making.commonName,
      organization: making.organization,
      hosts: lines(making.hosts, undefined, /[\s,]+/),
      validDays: making.validDays,
      file: pkcs12.base64,
      certificatePem: pem.certificatePem,
      privateKeyPem: pem.privateKeyPem,
    },
    {
      clientId: '',
      by: 'making' as By,
      commonName: '',
      organization: '',
      hosts: '',
      keyKind: 'RSA 2048' as KeyKind,
      validDays: 730,
      authority: '',
      passphrase: '',
      file: '',
      certificatePem: '',
      privateKeyPem: '',
    },
  );
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  readonly by = computed<By>(() => this.typed().by ?? 'making');
  readonly filesBy = computed(() => (this.by() === 'pkcs12' ? 'pkcs12' : 'pem'));
  readonly isSigned = computed(() => (this.typed().authority ?? '') !== '');
  private readonly clientId = computed(() => this.typed().clientId ?? '');
  /** The name of a file that was dropped onto the window. */
  readonly brought = signal<string | null>(null);

  constructor() {
    const { clientId, by, commonName, organization, hosts, validDays } = this.form.controls;
    const { file, certificatePem, privateKeyPem } = this.form.controls;
    const judged = {
      making: [commonName, organization, hosts, validDays],
      pkcs12: [file],
      pem: [certificatePem, privateKeyPem],
    };
    by.valueChanges.subscribe((chosen) => judgeOnly(judged, chosen));
    judgeOnly(judged, 'making');
    effect(() => {
      const dropped = this.dropped.identity();
      if (!dropped) return;
      by.setValue('pkcs12');
      this.form.controls.file.setValue(dropped.base64);
      this.brought.set(dropped.name);
      untracked(() => this.dropped.identity.set(null));
    });
    effect(() => {
      const [first] = this.identities();
      if (clientId.value === '' && first) clientId.setValue(first.applicationId);
    });
    effect(() => {
      const client = this.identities().find(({ applicationId }) => applicationId === this.clientId());
      commonName.setValue(client?.application ?? '');
    });
  }

  give(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const applicationId = this.form.controls.clientId.value;
    this.store.dispatch(settingsActions.giveIdentity({ applicationId, identity: this.identity() }));
    this.form.controls.passphrase.reset();
    this.form.controls.privateKeyPem.reset();
    this.form.controls.file.reset();
  }

  private identity(): ClientIdentity {
    const typed = this.form.getRawValue();
    const { by, passphrase, commonName, organization, keyKind, validDays, certificatePem, privateKeyPem } = typed;
    switch (by) {
      case 'making': {
        const authority = typed.authority === '' ? null : { thumbprint: typed.authority, passphrase };
        const hosts = linesOf(typed.hosts, /[\s,]+/);
        return { by, commonName, organization, hosts, keyKind, validDays, authority };
      }
      case 'pkcs12':
        return { by, base64: typed.file, passphrase };
      case 'pem':
        return { by, certificatePem, privateKeyPem };
    }
  }
}
