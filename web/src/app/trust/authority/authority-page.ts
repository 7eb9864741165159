import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import { saveFile } from '../../files/save-file';
import { may } from '../../session/may';
import { onceMore } from '../../http/once-more';
import { trustActions, trustFeature } from '../state';
import { TrustHead } from '../trust-head';
import { MakeAuthority } from './make-authority';
import { OneAuthority } from './one-authority';
import { TakeOverAuthority } from './take-over-authority';
import { Waiting } from '../../shell/waiting';

/** The plant’s authorities: made, taken over, renewed; the one with which plans reckon stands first. */
@Component({
  selector: 'hinge-authority-page',
  imports: [Waiting, RouterLink, TrustHead, MakeAuthority, TakeOverAuthority, OneAuthority],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        <button type="button" class="act" [disabled]="!mayMake()" (click)="form.set('create')">
          Create an authority …
        </button>
        <button type="button" class="act" [disabled]="!mayMake()" (click)="form.set('import')">
          Import an authority …
        </button>
      </hinge-trust-head>
      @if (issued(); as made) {
        <p class="says">
          The certificate was saved.
          <button type="button" class="plain" (click)="savePem(made.thumbprint, made.certificatePem)">
            Save as PEM
          </button>
          <button type="button" class="plain" (click)="savePem('issuer', made.chainPem)">
            Save its issuer as well
          </button>
          <a [routerLink]="['/trust/certificates', made.thumbprint]">Show the certificate</a>
        </p>
      }
      @switch (form()) {
        @case ('create') {
          <hinge-make-authority (left)="form.set('none')" />
        }
        @case ('import') {
          <hinge-take-over-authority (left)="form.set('none')" />
        }
      }
      @for (authority of authorities(); track authority.thumbprint) {
        <hinge-one-authority [authority]="authority" />
      } @empty {
        @if (authorities() === null) {
          <hinge-waiting />
        } @else {
          <p class="empty">
            The plant’s certificate authority: one that all applications trust, and that signs their certificates.
            Create one, or import one that the plant has already.
          </p>
        }
      }
    </div>
  `,
})
export class AuthorityPage {
  private readonly store = inject(Store);
  readonly authorities = this.store.selectSignal(trustFeature.selectAuthorities);
  readonly issued = this.store.selectSignal(trustFeature.selectIssued);
  readonly mayMake = may('administrator');
  readonly form = signal<'none' | 'create' | 'import'>('none');
  readonly headline = computed(() => {
    const all = this.authorities();
    if (all === null) return 'Authority';
    const current = all.find(({ isCurrent }) => isCurrent);
    if (!current) return 'The plant has no authority of its own yet.';
    const revoked = current.issued.filter(({ revokedAt }) => revokedAt !== null).length;
    const moving = all.find(({ succession }) => succession && !succession.isOver);
    const overlap = moving ? ' The previous one is still needed.' : '';
    return `${current.name} signs for the plant: ${counted(current.issued.length - revoked, 'certificate')} from here, ${revoked} revoked.${overlap}`;
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'authorities' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'parties' } }));
    // A form stays open, with what was typed, until its wish was carried out.
    onceMore(this.store.selectSignal(trustFeature.selectDone), () => this.form.set('none'));
  }

  savePem = (name: string, pem: string): void => saveFile(`${name}.pem`, 'application/x-pem-file', pem);
}
