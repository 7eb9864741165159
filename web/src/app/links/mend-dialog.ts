import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Dialog } from 'primeng/dialog';
import type { Change } from '@loyal-hinge/core';
import { ProblemNotice } from '../http/problem-notice';
import { CertificateSheet } from '../trust/certificate-sheet';
import type { Mending } from './state';

/** Says what will be changed, where and how to go back, and asks before anything is done. */
@Component({
  selector: 'hinge-mend',
  imports: [Dialog, FormsModule, ProblemNotice, CertificateSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="mending().remedy?.title ?? ''"
      [visible]="mending().remedy !== null"
      (visibleChange)="$event || aside.emit()"
      [modal]="true"
      [style]="{ width: '44rem' }"
      [breakpoints]="{ '800px': '96vw' }"
    >
      @if (mending().remedy; as remedy) {
        <hinge-problem [problem]="mending().problem" />
        <dl>
          <dt>Where</dt>
          <dd>{{ remedy.target }}</dd>
          <dt>Before</dt>
          <dd class="mono">{{ remedy.before }}</dd>
          <dt>After</dt>
          <dd>
            @if (editsUrl()) {
              <input class="mono" aria-label="Endpoint URL" [ngModel]="url()" (ngModelChange)="url.set($event)" />
            } @else {
              <span class="mono">{{ remedy.after }}</span>
            }
          </dd>
          <dt>Restart</dt>
          <dd>{{ remedy.restart ? 'needed' : 'not needed' }}</dd>
          <dt>Way back</dt>
          <dd>{{ remedy.undo }}</dd>
        </dl>
        @if (mending().certificate; as view) {
          <hinge-certificate-sheet [view]="view" />
        }
        @if (needsPassword()) {
          <label class="field"
            >Password<input
              type="password"
              autocomplete="new-password"
              [ngModel]="password()"
              (ngModelChange)="password.set($event)"
          /></label>
        }
        <p class="faint">
          {{ consequence() }} It is written into the audit trail, and the link is checked again to prove it.
        </p>
        <div class="actions">
          <button type="button" class="act main" [disabled]="!ready()" (click)="confirm()">
            {{ mending().busy ? 'Carrying out …' : 'Carry it out and check again' }}
          </button>
          <button type="button" class="act" (click)="aside.emit()">Leave it as it is</button>
        </div>
      }
    </p-dialog>
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 6rem 1fr;
      gap: 0.3rem 0.8rem;
      margin: 0 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    dd input {
      width: 100%;
    }
  `,
})
export class MendDialog {
  readonly mending = input.required<Mending>();
  readonly aside = output();
  readonly carryOut = output<{ change: Change; password?: string }>();
  readonly password = signal('');
  readonly url = signal('');
  readonly needsPassword = computed(() => this.mending().remedy?.change.kind === 'set-password');
  readonly editsUrl = computed(() => this.mending().remedy?.change.kind === 'set-endpoint-url');
  readonly consequence = computed(() => consequences[this.mending().remedy?.change.kind ?? 'by-hand']);
  readonly ready = computed(() => {
    const { busy, certificate, remedy } = this.mending();
    const showsCertificate =
      remedy?.change.kind === 'trust-server-certificate' || remedy?.change.kind === 'accept-client-certificate';
    return !busy && (!this.needsPassword() || this.password() !== '') && (!showsCertificate || certificate !== null);
  });

  constructor() {
    effect(() => {
      const change = this.mending().remedy?.change;
      this.password.set('');
      this.url.set(change?.kind === 'set-endpoint-url' ? change.after : '');
    });
  }

  confirm(): void {
    const change = this.mending().remedy?.change;
    if (!change) return;
    if (change.kind === 'set-password') this.carryOut.emit({ change, password: this.password() });
    else this.carryOut.emit({ change: change.kind === 'set-endpoint-url' ? { ...change, after: this.url() } : change });
  }
}

const consequences: Readonly<Record<Change['kind'], string>> = {
  'set-endpoint-url': 'This changes the link in the plant; nothing is changed on a machine.',
  'pin-address': 'This changes the link in the plant; nothing is changed on a machine.',
  'choose-endpoint': 'This changes the link in the plant; nothing is changed on a machine.',
  'set-password': 'The password is kept encrypted and used for this link only; nothing is changed on the server.',
  'trust-server-certificate':
    'From then on the client trusts this certificate. Compare the thumbprint with the one shown at the machine before you do it.',
  'accept-client-certificate':
    'This changes the trusted list of the running server, over push management. From then on it lets this client in.',
  'by-hand': '',
};
