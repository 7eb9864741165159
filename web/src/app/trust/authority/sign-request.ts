import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { AuthorityView } from '@loyal-hinge/contract';
import { chosenText } from '../../files/chosen-text';
import { DroppedFiles } from '../../files/dropped-files';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions, trustFeature } from '../state';
import { WhichApplication } from '../which-application';

/** Signs a certificate request of an application; one that was dropped onto the window lies here already. */
@Component({
  selector: 'hinge-sign-request',
  imports: [FormsModule, FormSheet, WhichApplication],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet heading="Sign a request" does="Sign" [ready]="ready()" (kept)="sign()" (left)="left.emit()">
      <hinge-which-application [parties]="parties()" [(chosen)]="applicationId" />
      <label class="field"
        >Request (PKCS#10, PEM)<input type="file" accept=".csr,.pem,.req" (change)="take($event)" />
        @if (requestPem() !== '') {
          <small class="holds">A request is here.</small>
        }
      </label>
      <label class="field">Valid for (days)<input type="number" name="days" [(ngModel)]="validDays" /></label>
      <label class="field"
        >Passphrase<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
      /></label>
    </hinge-form-sheet>
  `,
})
export class SignRequest {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  private readonly busy = this.store.selectSignal(isRunning('issue'));
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  private readonly dropped = inject(DroppedFiles);
  readonly parties = computed(() => this.known() ?? []);
  readonly applicationId = signal('');
  readonly requestPem = signal('');
  readonly validDays = signal(730);
  readonly passphrase = signal('');
  readonly ready = computed(
    () => !this.busy() && this.applicationId() !== '' && this.requestPem() !== '' && this.passphrase() !== '',
  );

  constructor() {
    const request = this.dropped.request();
    this.dropped.request.set(null);
    this.requestPem.set(request?.pem ?? '');
    this.applicationId.set(request?.applicationId ?? '');
  }

  async take(event: Event): Promise<void> {
    this.requestPem.set(await chosenText(event));
  }

  sign(): void {
    const body = {
      applicationId: this.applicationId(),
      requestPem: this.requestPem(),
      validDays: this.validDays(),
      passphrase: this.passphrase(),
    };
    this.passphrase.set('');
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'issue', authority: thumbprint, body } }));
  }
}
