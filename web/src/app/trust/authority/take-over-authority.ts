import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { chosenText } from '../../files/chosen-text';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

/** Takes over an authority that the plant has already, with its key or without. */
@Component({
  selector: 'hinge-take-over-authority',
  imports: [FormsModule, FormSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Take an authority over"
      does="Take it over"
      [ready]="ready()"
      (kept)="takeOver()"
      (left)="left.emit()"
    >
      <label class="field"
        >Certificate (PEM)<input type="file" accept=".pem,.crt,.cer" (change)="take($event, certificatePem)"
      /></label>
      <label class="field"
        >Its key, encrypted (PEM)<input type="file" accept=".pem,.key" (change)="take($event, encryptedKeyPem)" />
        <small class="faint"
          >Leave it out where the key is kept elsewhere: requests are then signed there.</small
        ></label
      >
      <label class="field"
        >Passphrase of the key<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
      /></label>
    </hinge-form-sheet>
  `,
})
export class TakeOverAuthority {
  private readonly store = inject(Store);
  readonly left = output();
  private readonly busy = this.store.selectSignal(isRunning('import authority'));
  readonly certificatePem = signal('');
  readonly encryptedKeyPem = signal('');
  readonly passphrase = signal('');
  readonly ready = computed(() => !this.busy() && this.certificatePem() !== '');

  async take(event: Event, into: { set(text: string): void }): Promise<void> {
    into.set(await chosenText(event));
  }

  takeOver(): void {
    const given = (text: string): string | null => (text === '' ? null : text);
    const body = {
      certificatePem: this.certificatePem(),
      encryptedKeyPem: given(this.encryptedKeyPem()),
      passphrase: given(this.passphrase()),
    };
    this.passphrase.set('');
    this.store.dispatch(trustActions.command({ command: { does: 'import authority', body } }));
  }
}
