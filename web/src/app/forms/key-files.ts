import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { FormControl } from '@angular/forms';
import { base64Of } from '../files/base64';
import { FileField } from './file-field';
import { TextField } from './text-field';

/** What a form holds of a certificate with its key that comes in files. */
export interface KeyFileControls {
  readonly file: FormControl<string>;
  readonly passphrase: FormControl<string>;
  readonly certificatePem: FormControl<string>;
  readonly privateKeyPem: FormControl<string>;
}

/** The files of a certificate and its key: one with a passphrase (PKCS#12), or two (PEM). */
@Component({
  selector: 'hinge-key-files',
  imports: [FileField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (by() === 'pkcs12') {
      <hinge-file
        label="File (PKCS#12)"
        accept=".p12,.pfx"
        [control]="controls().file"
        [read]="base64Of"
        [given]="brought() ? brought() + ' is here.' : ''"
      />
      <hinge-text label="Passphrase of the file" kind="password" [control]="controls().passphrase" />
    } @else {
      <hinge-file label="Certificate (PEM)" accept=".pem,.crt,.cer" [control]="controls().certificatePem" />
      <hinge-file
        label="Private key (PEM, without a passphrase)"
        accept=".pem,.key"
        [control]="controls().privateKeyPem"
      />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class KeyFiles {
  readonly by = input.required<'pkcs12' | 'pem'>();
  readonly controls = input.required<KeyFileControls>();
  /** The name of a file that was brought otherwise. */
  readonly brought = input<string | null>(null);
  readonly base64Of = base64Of;
}
