import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { AuthorityView } from '@loyal-hinge/contract';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

/** Issues the next CRL of an authority. */
@Component({
  selector: 'hinge-next-crl',
  imports: [FormsModule, FormSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Issue the next CRL"
      does="Issue it"
      [ready]="ready()"
      (kept)="issue()"
      (left)="left.emit()"
    >
      <p class="faint">
        It names all that was revoked and is in force for 35 days. Lists don’t get it by themselves: the Plan page
        brings it to those that lack one.
      </p>
      <label class="field"
        >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
      /></label>
    </hinge-form-sheet>
  `,
})
export class NextCrl {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  private readonly busy = this.store.selectSignal(isRunning('issue CRL'));
  readonly passphrase = signal('');
  readonly ready = computed(() => !this.busy() && this.passphrase() !== '');

  issue(): void {
    const [authority, passphrase] = [this.authority().thumbprint, this.passphrase()];
    this.store.dispatch(trustActions.command({ command: { does: 'issue CRL', authority, passphrase } }));
  }
}
