import { ChangeDetectionStrategy, Component, computed, effect, inject, untracked } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { RecognisedFile } from '@loyal-hinge/contract';
import { DroppedFiles } from '../files/dropped-files';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { isRunning, trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { Choose } from '../forms/choose';
import { FileButton } from '../forms/file-button';
import { Message } from 'primeng/message';

/** Files as they were dropped: what each is, and what can be done with it. */
@Component({
  selector: 'hinge-files-page',
  imports: [Message, Choose, FileButton, ReactiveFormsModule, RouterLink, TrustHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        <hinge-file-button words="Choose files …" [multiple]="true" [disabled]="!mayAct()" (taken)="choose($event)" />
      </hinge-trust-head>
      @if (dropped.refused(); as refused) {
        <p-message severity="error">{{ refused }}</p-message>
      }
      @if (files().length > 0) {
        <hinge-choose label="Do it at" [inline]="true" [formControl]="holder" [choices]="partyChoices()" />
      }
      @for (file of files(); track $index) {
        <article class="sheet">
          <h2>{{ file.name }}</h2>
          <p>{{ file.says }}</p>
          @for (certificate of file.certificates; track certificate.thumbprint) {
            <div class="one">
              <span>
                <a [routerLink]="['/trust/certificates', certificate.thumbprint]">{{ certificate.name }}</a>
                <span class="faint">
                  {{
                    certificate.isAuthority
                      ? 'authority'
                      : certificate.shownBy
                        ? 'of ' + certificate.shownBy
                        : 'not of an application that the plant knows'
                  }}
                </span>
              </span>
              <span class="actions">
                <button type="button" class="act" [disabled]="!mayAct()" (click)="list('trusted', certificate)">
                  Into the trusted list …
                </button>
                @if (certificate.isAuthority) {
                  <button type="button" class="act" [disabled]="!mayAct()" (click)="list('issuers', certificate)">
                    Into the issuers list …
                  </button>
                }
              </span>
            </div>
          }
          @switch (file.kind) {
            @case ('crl') {
              <div class="actions">
                <button type="button" class="act" [disabled]="!mayAct()" (click)="giveCrl('trusted', file)">
                  Beside the trusted list …
                </button>
                <button type="button" class="act" [disabled]="!mayAct()" (click)="giveCrl('issuers', file)">
                  Beside the issuers list …
                </button>
              </div>
            }
            @case ('request') {
              <div class="actions">
                <button type="button" class="act" [disabled]="!mayAct()" (click)="sign(file)">Sign …</button>
              </div>
            }
            @case ('pkcs12') {
              <div class="actions">
                <button type="button" class="act" [disabled]="!mayAct()" (click)="giveToClient($index)">
                  Give to a client …
                </button>
              </div>
            }
            @case ('pki-folder') {
              <div class="actions">
                <button type="button" class="act" [disabled]="!mayAct() || busy()" (click)="report($index)">
                  Import it as the lists of {{ nameOf(holderId()) }}
                </button>
                @if (file.applicationId && file.applicationId !== holderId()) {
                  <span class="weak">It seems to be of {{ nameOf(file.applicationId) }}.</span>
                }
              </div>
            }
          }
        </article>
      } @empty {
        <p class="empty">
          Drop files onto this window, on any page: certificates, revocation lists, requests, PKI folders as a zip. They
          are recognised by what is in them, not by their names.
        </p>
      }
    </div>
  `,
  styles: `
    .one {
      display: flex;
      justify-content: space-between;
      gap: 1rem;
      align-items: center;
      padding: 0.25rem 0;
    }
    .whom {
      display: block;
      margin-bottom: 0.8rem;
    }
  `,
})
export class FilesPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  readonly dropped = inject(DroppedFiles);
  readonly files = this.store.selectSignal(trustFeature.selectRecognised);
  readonly known = this.store.selectSignal(trustFeature.selectParties);
  readonly busy = this.store.selectSignal(isRunning('recognise', 'import bundle'));
  readonly mayAct = may('engineer');
  readonly parties = computed(() => this.known() ?? []);
  readonly partyChoices = computed(() =>
    this.parties().map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  readonly holder = new FormControl('', { nonNullable: true });
  readonly holderId = toSignal(this.holder.valueChanges, { initialValue: '' });
  readonly headline = computed(() =>
    this.files().length === 0
      ? 'Files'
      : `${counted(new Set(this.files().map(({ name }) => name)).size, 'file')} recognised by what is in them.`,
  );

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'parties' } }));
    effect(() => {
      const files = this.dropped.files().map(({ name, base64 }) => ({ name, base64 }));
      if (files.length > 0)
        untracked(() => this.store.dispatch(trustActions.command({ command: { does: 'recognise', files } })));
    });
    effect(() => {
      const seeming = this.files().find(({ applicationId }) => applicationId !== null)?.applicationId;
      const first = this.parties()[0]?.applicationId ?? '';
      untracked(() => this.holder.setValue(seeming ?? (this.holder.value || first)));
    });
  }

  nameOf = (id: string): string => this.parties().find(({ applicationId }) => applicationId === id)?.name ?? id;

  choose(files: readonly File[]): void {
    void this.dropped.take(files);
  }

  list(list: 'trusted' | 'issuers', { thumbprint, name }: RecognisedFile['certificates'][number]): void {
    this.propose(`Put ${name} into the ${list} list of ${this.nameOf(this.holderId())}`, {
      kind: 'list-certificate',
      holderId: this.holderId(),
      list,
      thumbprint,
      until: null,
    });
  }

  giveCrl(list: 'trusted' | 'issuers', { crlId, name }: RecognisedFile): void {
    if (crlId === null) return;
    const change = { kind: 'list-crl', holderId: this.holderId(), list, crlId, before: null } as const;
    this.propose(`Give ${this.nameOf(this.holderId())} the CRL of ${name}`, change);
  }

  sign({ requestPem, applicationId }: RecognisedFile): void {
    if (requestPem === null) return;
    this.dropped.request.set({ pem: requestPem, applicationId });
    void this.router.navigateByUrl('/trust/authority');
  }

  giveToClient(index: number): void {
    const file = this.dropped.files()[index];
    if (!file) return;
    this.dropped.identity.set(file);
    void this.router.navigateByUrl('/settings');
  }

  report(index: number): void {
    const file = this.dropped.files()[index];
    if (!file) return;
    const { name, base64, changedAt } = file;
    const body = { file: { name, base64 }, copiedAt: changedAt };
    this.store.dispatch(trustActions.command({ command: { does: 'import bundle', id: this.holderId(), body } }));
  }

  private propose(title: string, change: TrustChange): void {
    const why = 'It came as a file.';
    this.store.dispatch(orderActions.propose({ order: { title, lines: [{ change, why, linkIds: [] }] } }));
  }
}
