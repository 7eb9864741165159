import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { CreateAuthority } from '@loyal-hinge/contract';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';
import { Choose, asChoices } from '../../forms/choose';

/** Makes an authority of the plant’s own. */
@Component({
  selector: 'hinge-make-authority',
  imports: [Choose, FormsModule, FormSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Make an authority"
      [does]="busy() ? 'Creating …' : 'Create'"
      [ready]="ready()"
      (kept)="make()"
      (left)="left.emit()"
    >
      <label class="field">Name<input name="commonName" [(ngModel)]="commonName" required /></label>
      <label class="field">Organisation<input name="organization" [(ngModel)]="organization" /></label>
      <hinge-choose label="Key" name="keyKind" [(ngModel)]="keyKind" [choices]="keyKinds" />
      <label class="field">Valid for (days)<input type="number" name="days" [(ngModel)]="validDays" /></label>
      <label class="field"
        >Authorities below it<input type="number" name="pathLength" min="0" max="5" [(ngModel)]="pathLength"
      /></label>
      <label class="field"
        >Passphrase<input type="password" autocomplete="new-password" name="passphrase" [(ngModel)]="passphrase" />
        <small class="faint">It encrypts the key, is asked for at each signing, and is never kept.</small></label
      >
    </hinge-form-sheet>
  `,
})
export class MakeAuthority {
  private readonly store = inject(Store);
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('create authority'));
  readonly keyKinds = asChoices(['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256']);
  readonly commonName = signal('');
  readonly organization = signal('');
  readonly keyKind = signal<CreateAuthority['keyKind']>('RSA 3072');
  readonly validDays = signal(3650);
  readonly pathLength = signal(0);
  readonly passphrase = signal('');
  readonly ready = computed(() => !this.busy() && this.commonName().trim() !== '');

  make(): void {
    const body = {
      commonName: this.commonName(),
      organization: this.organization(),
      keyKind: this.keyKind(),
      validDays: this.validDays(),
      pathLength: this.pathLength(),
      passphrase: this.passphrase(),
    };
    this.passphrase.set('');
    this.store.dispatch(trustActions.command({ command: { does: 'create authority', body } }));
  }
}
