import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { revocationReasons } from '@loyal-hinge/contract';
import type { AuthorityView } from '@loyal-hinge/contract';
import { FormSheet } from '../../shell/form-sheet';
import { reasonWords } from '../reasons';
import { isRunning, trustActions } from '../state';
import { Choose } from '../../forms/choose';

type Reason = (typeof revocationReasons)[number];

/** Revokes a certificate that an authority has signed. */
@Component({
  selector: 'hinge-revoke-certificate',
  imports: [Choose, FormsModule, FormSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Revoke ' + serialNumber()"
      does="Revoke it"
      [ready]="ready()"
      (kept)="revoke()"
      (left)="left.emit()"
    >
      <p class="faint">It can’t be taken back. A CRL that says so is issued at once.</p>
      <hinge-choose label="Because" name="reason" [(ngModel)]="reason" [choices]="reasons" />
      <label class="field"
        >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
      /></label>
    </hinge-form-sheet>
  `,
})
export class RevokeCertificate {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly serialNumber = input.required<string>();
  readonly left = output();
  private readonly busy = this.store.selectSignal(isRunning('revoke'));
  readonly reasons = revocationReasons.map((key) => ({ key, word: reasonWords[key] ?? key }));
  readonly reason = signal<Reason>('unspecified');
  readonly passphrase = signal('');
  readonly ready = computed(() => !this.busy() && this.passphrase() !== '');

  revoke(): void {
    const body = { serialNumber: this.serialNumber(), reason: this.reason(), passphrase: this.passphrase() };
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'revoke', authority: thumbprint, body } }));
  }
}
