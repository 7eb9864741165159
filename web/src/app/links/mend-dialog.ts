import { ChangeDetectionStrategy, Component, computed, effect, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Dialog } from 'primeng/dialog';
import { InputText } from 'primeng/inputtext';
import { endpointUrl, signIn } from '@loyal-hinge/contract';
import type { Change } from '@loyal-hinge/core';
import { contractForm, isComplete } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { FirstField } from '../forms/first-field';
import { fits } from '../forms/fits';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { CertificateSheet } from '../trust/certificate-sheet';
import type { Mending } from './state';

/** Says what will be changed, where and how to go back, and asks before anything is done. */
@Component({
  selector: 'hinge-mend',
  imports: [CertificateSheet, Dialog, FieldFault, FirstField, InputText, ProblemNotice, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="mending().remedy?.title ?? ''"
      [visible]="mending().remedy !== null"
      (visibleChange)="$event || aside.emit()"
      [modal]="true"
      [focusOnShow]="false"
      [style]="{ width: '44rem' }"
      [breakpoints]="{ '800px': '96vw' }"
    >
      @if (mending().remedy; as remedy) {
        <form hingeFirstField [formGroup]="form" (ngSubmit)="confirm($event)">
          <hinge-problem [problem]="mending().problem" />
          <dl class="facts">
            <dt>Where</dt>
            <dd>{{ remedy.target }}</dd>
            <dt>Before</dt>
            <dd class="mono">{{ remedy.before }}</dd>
            <dt>After</dt>
            <dd>
              @if (editsUrl()) {
                <input pInputText class="mono" aria-label="Endpoint URL" [formControl]="form.controls.url" />
                <hinge-field-fault [of]="form.controls.url" />
              } @else {
                <span class="mono">{{ remedy.after }}</span>
              }
            </dd>
            <dt>Restart</dt>
            <dd>{{ restartWords() }}</dd>
            <dt>Way back</dt>
            <dd>{{ remedy.undo }}</dd>
          </dl>
          @if (mending().certificate; as view) {
            <hinge-certificate-sheet [view]="view" />
          }
          @if (needsPassword() || pointsElsewhere()) {
            <hinge-text
              [label]="pointsElsewhere() ? 'Password at the new target' : 'Password'"
              kind="new password"
              [control]="form.controls.password"
            >
              @if (pointsElsewhere()) {
                <small class="faint">{{
                  mayRelease()
                    ? 'Empty: the stored password of “' +
                      signsInAs() +
                      '” is sent to the new target, unless this plant requires a second person for that.'
                    : 'Empty: the stored password of “' +
                      signsInAs() +
                      '” is not sent there until an approver releases it.'
                }}</small>
              }
            </hinge-text>
          }
          <p class="faint">
            {{ consequence() }} It is written into the audit trail, and the link is checked again to prove it.
          </p>
          <div class="actions">
            <button type="submit" class="act main" [disabled]="!ready()">
              {{ mending().busy ? 'Carrying out …' : 'Carry out and check again' }}
            </button>
            <button type="button" class="act" (click)="aside.emit()">Cancel</button>
          </div>
        </form>
      }
    </p-dialog>
  `,
  styles: `
    dd input {
      width: 100%;
    }
  `,
})
export class MendDialog {
  readonly mending = input.required<Mending>();
  /** The user as whom the link signs in with a kept password; null: it does not. */
  readonly signsInAs = input<string | null>(null);
  /** Whether the one who looks may let a kept password go elsewhere. */
  readonly mayRelease = input(false);
  readonly aside = output();
  readonly carryOut = output<{ change: Change; password?: string }>();
  readonly form = contractForm({ url: endpointUrl }, { password: '', url: '' });
  readonly needsPassword = computed(() => this.mending().remedy?.change.kind === 'set-password');
  /** Whether a kept password would have to go to another target by this. */
  readonly pointsElsewhere = computed(() => {
    const kind = this.mending().remedy?.change.kind;
    return this.signsInAs() !== null && (kind === 'set-endpoint-url' || kind === 'pin-address');
  });
  readonly editsUrl = computed(() => this.mending().remedy?.change.kind === 'set-endpoint-url');
  readonly restartWords = computed(() => {
    const remedy = this.mending().remedy;
    // A server says so only when its lists are written (ApplyChanges, Part 12 §7.10.9).
    if (remedy?.change.kind === 'change-lists') return 'only if the server asks for it; it is then restarted at once';
    return remedy?.restart ? 'needed' : 'not needed';
  });
  readonly consequence = computed(() => consequences[this.mending().remedy?.change.kind ?? 'by-hand']);
  readonly ready = computed(() => {
    const { busy, certificate, remedy } = this.mending();
    const showsCertificate =
      remedy?.change.kind === 'trust-server-certificate' || remedy?.change.kind === 'accept-client-certificate';
    return !busy && (!showsCertificate || certificate !== null);
  });

  constructor() {
    effect(() => {
      const change = this.mending().remedy?.change;
      const { password, url } = this.form.controls;
      password.reset();
      password.setValidators(change?.kind === 'set-password' ? fits(signIn.shape.password) : null);
      password.updateValueAndValidity();
      url.reset(change?.kind === 'set-endpoint-url' ? change.after : '');
      if (change?.kind === 'set-endpoint-url') url.enable();
      else url.disable();
    });
  }

  confirm(sent: Event): void {
    const change = this.mending().remedy?.change;
    if (!change || !isComplete(this.form, sent)) return;
    const { password, url } = this.form.getRawValue();
    if (change.kind === 'set-password') this.carryOut.emit({ change, password });
    else
      this.carryOut.emit({
        change: change.kind === 'set-endpoint-url' ? { ...change, after: url } : change,
        ...(this.pointsElsewhere() && password !== '' ? { password } : {}),
      });
  }
}

const consequences: Readonly<Record<Change['kind'], string>> = {
  'set-endpoint-url': 'This changes the link in the plant; nothing is changed on a machine.',
  'pin-address': 'This changes the link in the plant; nothing is changed on a machine.',
  'choose-endpoint': 'This changes the link in the plant; nothing is changed on a machine.',
  'set-password':
    'The password is stored encrypted, for this link and the target that it has now; nothing is changed on the server.',
  'release-password':
    'From then on the stored password is sent to the new target. Do this only if you know who answers there.',
  'trust-server-certificate':
    'From then on the client trusts this certificate. Compare the thumbprint with the one shown at the machine before you do it.',
  'accept-client-certificate':
    'This changes the trusted list of the running server, over push management. From then on it lets this client in.',
  'change-lists':
    'This changes a list of the application named above: here if Loyal Hinge holds it, or on the running server over push management.',
  'by-hand': '',
};
