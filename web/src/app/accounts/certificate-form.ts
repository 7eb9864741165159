import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { userCertificateGift, userCertificateName } from '@loyal-hinge/contract';
import type { UserCertificateGift } from '@loyal-hinge/contract';
import { Choose, asChoices } from '../forms/choose';
import { contractForm, tellFaults } from '../forms/contract-form';
import { judgeOnly } from '../forms/judge-only';
import { KeyFiles } from '../forms/key-files';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { accountsActions, accountsFeature, isRunning } from './state';

type By = UserCertificateGift['by'];
const pem = userCertificateGift.options[0].shape;
const pkcs12 = userCertificateGift.options[1].shape;
const making = userCertificateGift.options[2].shape;
type KeyKind = (typeof making.keyKind.options)[number];

/** Gives a user certificate and its key: out of files, or made here. */
@Component({
  selector: 'hinge-certificate-form',
  imports: [Choose, KeyFiles, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="name() === '' ? 'Add a user certificate' : 'Replace the certificate of ' + name()"
      does="Store certificate and key"
      [form]="form"
      [busy]="busy()"
      (sent)="send()"
      (left)="left.emit()"
    >
      <p class="faint">
        The key is encrypted as soon as it is here, and never shown or exported. Servers must trust the certificate in
        their list of user certificates before links can sign in with it.
      </p>
      @if (name() === '') {
        <hinge-text label="Name in the plant" kind="technical" [control]="form.controls.name" />
      }
      <hinge-choose label="Certificate and key" [formControl]="form.controls.by" [choices]="ways" />
      @if (by() === 'making') {
        <hinge-text label="Common name" [control]="form.controls.commonName" />
        <hinge-text label="Organisation" [control]="form.controls.organization" />
        <hinge-choose label="Key" [formControl]="form.controls.keyKind" [choices]="keyKinds" />
        <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
      } @else {
        <hinge-key-files [by]="filesBy()" [controls]="form.controls" />
      }
    </hinge-form-sheet>
  `,
})
export class CertificateForm implements OnInit {
  private readonly store = inject(Store);
  /** Under which it is known already; empty: it is a new one. */
  readonly name = input('');
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('give certificate'));
  private readonly problem = this.store.selectSignal(accountsFeature.selectCommandProblem);
  readonly ways = [
    { key: 'pkcs12', word: 'come in one file (PKCS#12)' },
    { key: 'pem', word: 'come in two files (PEM)' },
    { key: 'making', word: 'are made here, signed by itself' },
  ] as const;
  readonly keyKinds = asChoices(making.keyKind.options);
  readonly form = contractForm(
    {
      name: userCertificateName,
      commonName: making.commonName,
      organization: making.organization,
      validDays: making.validDays,
      file: pkcs12.base64,
      certificatePem: pem.certificatePem,
      privateKeyPem: pem.privateKeyPem,
    },
    {
      name: '',
      by: 'pkcs12' as By,
      commonName: '',
      organization: '',
      keyKind: 'RSA 2048' as KeyKind,
      validDays: 730,
      passphrase: '',
      file: '',
      certificatePem: '',
      privateKeyPem: '',
    },
  );
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  readonly by = computed<By>(() => this.typed().by ?? 'pkcs12');
  readonly filesBy = computed(() => (this.by() === 'pkcs12' ? 'pkcs12' : 'pem'));

  constructor() {
    effect(() => tellFaults(this.form, this.problem()));
    const { by, commonName, organization, validDays, file, certificatePem, privateKeyPem } = this.form.controls;
    const judged = {
      making: [commonName, organization, validDays],
      pkcs12: [file],
      pem: [certificatePem, privateKeyPem],
    };
    by.valueChanges.subscribe((chosen) => judgeOnly(judged, chosen));
    judgeOnly(judged, 'pkcs12');
  }

  ngOnInit(): void {
    this.form.controls.name.setValue(this.name());
  }

  send(): void {
    this.store.dispatch(
      accountsActions.giveCertificate({ name: this.form.controls.name.value.trim(), gift: this.gift() }),
    );
  }

  private gift(): UserCertificateGift {
    const typed = this.form.getRawValue();
    const { by, passphrase, commonName, organization, keyKind, validDays, certificatePem, privateKeyPem } = typed;
    switch (by) {
      case 'making':
        return { by, commonName, organization, keyKind, validDays };
      case 'pkcs12':
        return { by, base64: typed.file, passphrase };
      case 'pem':
        return { by, certificatePem, privateKeyPem };
    }
  }
}
