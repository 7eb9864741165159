import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { ClientIdentity, ClientIdentityView } from '@loyal-hinge/contract';
import { base64Of } from '../files/base64';
import { chosenText } from '../files/chosen-text';
import { DroppedFiles } from '../files/dropped-files';
import { isRunning, settingsActions, settingsFeature } from './state';
import { Choose, asChoices } from '../forms/choose';

type By = ClientIdentity['by'];

/** Gives a client its certificate and key: made here, or out of files. */
@Component({
  selector: 'hinge-give-identity',
  imports: [Choose, FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form class="sheet" (ngSubmit)="ready() && give()">
      <hinge-choose label="Client" name="client" [(ngModel)]="clientId" [choices]="clientChoices()" />
      <hinge-choose label="Certificate and key" name="by" [(ngModel)]="by" [choices]="ways" />
      @switch (by()) {
        @case ('making') {
          <label class="field">Name<input name="commonName" [(ngModel)]="commonName" /></label>
          <label class="field">Organisation<input name="organization" [(ngModel)]="organization" /></label>
          <label class="field wide"
            >Host names and addresses<input class="mono" name="hosts" [(ngModel)]="hosts" />
            <small class="faint">With blanks between them. The application URI comes from the plant.</small></label
          >
          <hinge-choose label="Key" name="keyKind" [(ngModel)]="keyKind" [choices]="keyKinds" />
          <label class="field">Valid for (days)<input type="number" name="days" [(ngModel)]="validDays" /></label>
          <hinge-choose label="Signed by" name="signer" [(ngModel)]="authority" [choices]="signerChoices()" />
          @if (authority() !== '') {
            <label class="field"
              >Its passphrase<input type="password" autocomplete="off" name="signing" [(ngModel)]="passphrase"
            /></label>
          }
        }
        @case ('pkcs12') {
          <label class="field"
            >File<input type="file" accept=".p12,.pfx" name="file" (change)="takeFile($event)" />
            @if (brought(); as name) {
              <small class="faint">{{ name }} is here.</small>
            }
          </label>
          <label class="field"
            >Its passphrase<input type="password" autocomplete="off" name="opening" [(ngModel)]="passphrase"
          /></label>
        }
        @case ('pem') {
          <label class="field"
            >Certificate (PEM)<input
              type="file"
              accept=".pem,.crt,.cer"
              name="certificate"
              (change)="take($event, certificatePem)"
          /></label>
          <label class="field"
            >Private key (PEM, without a passphrase)<input
              type="file"
              accept=".pem,.key"
              name="key"
              (change)="take($event, privateKeyPem)"
          /></label>
        }
      }
      <p class="wide faint">
        The key is sealed as soon as it is here, and never shown or given out again. What the client had before is no
        longer shown; servers that trusted it must trust the new one, which the Plan of trust tells.
      </p>
      <div class="wide">
        <button type="submit" class="act" [disabled]="!ready()">
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
  readonly keyKinds = asChoices(['RSA 2048', 'RSA 3072', 'RSA 4096']);
  readonly clientId = signal('');
  readonly by = signal<By>('making');
  readonly commonName = signal('');
  readonly organization = signal('');
  readonly hosts = signal('');
  readonly keyKind = signal<(typeof this.keyKinds)[number]['key']>('RSA 2048');
  readonly validDays = signal(730);
  readonly authority = signal('');
  readonly passphrase = signal('');
  readonly file = signal('');
  /** The name of a file that fell onto the window. */
  readonly brought = signal<string | null>(null);
  readonly certificatePem = signal('');
  readonly privateKeyPem = signal('');
  private readonly identity = computed((): ClientIdentity | null => {
    switch (this.by()) {
      case 'making':
        return this.making();
      case 'pkcs12':
        return this.file() === '' ? null : { by: 'pkcs12', base64: this.file(), passphrase: this.passphrase() };
      case 'pem': {
        const [certificatePem, privateKeyPem] = [this.certificatePem(), this.privateKeyPem()];
        return certificatePem === '' || privateKeyPem === '' ? null : { by: 'pem', certificatePem, privateKeyPem };
      }
    }
  });
  readonly ready = computed(() => this.mayGive() && !this.busy() && this.clientId() !== '' && this.identity() !== null);

  constructor() {
    effect(() => {
      const dropped = this.dropped.identity();
      if (!dropped) return;
      this.by.set('pkcs12');
      this.file.set(dropped.base64);
      this.brought.set(dropped.name);
      untracked(() => this.dropped.identity.set(null));
    });
    effect(() => {
      const [first] = this.identities();
      if (this.clientId() === '' && first) this.clientId.set(first.applicationId);
    });
    effect(() => {
      const client = this.identities().find(({ applicationId }) => applicationId === this.clientId());
      this.commonName.set(client?.application ?? '');
    });
  }

  async take(event: Event, into: { set(text: string): void }): Promise<void> {
    into.set(await chosenText(event));
  }

  async takeFile(event: Event): Promise<void> {
    const file = (event.target as HTMLInputElement).files?.[0];
    this.file.set(file ? await base64Of(file) : '');
    this.brought.set(null);
  }

  give(): void {
    const identity = this.identity();
    if (!identity) return;
    this.store.dispatch(settingsActions.giveIdentity({ applicationId: this.clientId(), identity }));
    this.passphrase.set('');
    this.privateKeyPem.set('');
  }

  private making(): ClientIdentity | null {
    const hosts = this.hosts()
      .split(/[\s,]+/)
      .filter(Boolean);
    const authority = this.authority() === '' ? null : { thumbprint: this.authority(), passphrase: this.passphrase() };
    if (this.commonName().trim() === '' || hosts.length === 0 || authority?.passphrase === '') return null;
    return {
      by: 'making',
      commonName: this.commonName(),
      organization: this.organization(),
      hosts,
      keyKind: this.keyKind(),
      validDays: this.validDays(),
      authority,
    };
  }
}
