import { ChangeDetectionStrategy, Component, effect, inject, input, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { AuthorityView } from '@loyal-hinge/contract';
import { DroppedFiles } from '../../files/dropped-files';
import { may } from '../../session/may';
import { CopyText } from '../../signs/copy-text';
import { Moment } from '../../signs/moment';
import { daysWords, nearness } from '../days';
import { onceMore } from '../../http/once-more';
import { trustFeature } from '../state';
import { MakeRequest } from './make-request';
import { NextCrl } from './next-crl';
import { OpenRequests } from './open-requests';
import { RenewAuthority } from './renew-authority';
import { RevokeCertificate } from './revoke-certificate';
import { SignRequest } from './sign-request';
import { SignedBy } from './signed-by';
import { SuccessionNote } from './succession-note';

type Form = 'none' | 'issue' | 'request' | 'renew' | 'revoke' | 'crl';

/** One authority: what it is, what it signs and revokes, and how it is followed by another. */
@Component({
  selector: 'hinge-one-authority',
  imports: [
    RouterLink,
    SignRequest,
    MakeRequest,
    OpenRequests,
    SignedBy,
    RenewAuthority,
    RevokeCertificate,
    NextCrl,
    SuccessionNote,
    CopyText,
    Moment,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="sheet">
      <header>
        <h2>
          <a [routerLink]="['/trust/certificates', authority().thumbprint]">{{ authority().name }}</a>
          <span class="faint">of <hinge-moment [at]="authority().certificate.notBefore" show="day" /></span>
          @if (authority().isCurrent) {
            <span class="holds">used by plans</span>
          } @else {
            <span class="faint">a former one</span>
          }
        </h2>
        <div class="actions">
          @if (authority().keyKept) {
            <button type="button" class="act" [disabled]="!mayAct()" (click)="open('issue')">Sign a request …</button>
            <button type="button" class="act" [disabled]="!mayAct()" (click)="open('crl')">Issue the next CRL …</button>
            @if (authority().mayRenew) {
              <button type="button" class="act" [disabled]="!mayMake()" (click)="open('renew')">Renew …</button>
            }
          } @else if (authority().isCurrent) {
            <button type="button" class="act" [disabled]="!mayAct()" (click)="open('request')">
              Create a request …
            </button>
          }
        </div>
      </header>
      <dl class="facts">
        <dt>Thumbprint</dt>
        <dd><hinge-copy [text]="authority().thumbprint" /></dd>
        <dt>Valid until</dt>
        <dd>
          <hinge-moment [at]="authority().certificate.notAfter" show="day" />
          <span class="left" [class]="toneOf(authority().certificate.notAfter)">{{
            leftOf(authority().certificate.notAfter)
          }}</span>
        </dd>
        <dt>Key</dt>
        <dd>
          {{ authority().certificate.keyType }}, {{ authority().certificate.keyBits }} bits;
          {{ authority().keyKept ? 'is kept here, encrypted with its passphrase' : 'is kept elsewhere' }}
        </dd>
        <dt>CRL</dt>
        <dd>
          @if (authority().crl; as crl) {
            number {{ crl.number }} of <hinge-moment [at]="crl.thisUpdate" show="day" />{{
              crl.nextUpdate ? ', next update' : ''
            }}
            @if (crl.nextUpdate) {
              <hinge-moment [at]="crl.nextUpdate" show="day" />
            }
            @if (crl.warning) {
              <p class="weak">{{ crl.warning }}</p>
            }
          } @else {
            none is known here
          }
        </dd>
      </dl>
      @switch (form()) {
        @case ('issue') {
          <hinge-sign-request [authority]="authority()" (left)="close()" />
        }
        @case ('request') {
          <hinge-make-request [authority]="authority()" (left)="close()" />
        }
        @case ('crl') {
          <hinge-next-crl [authority]="authority()" (left)="close()" />
        }
        @case ('renew') {
          <hinge-renew-authority [authority]="authority()" (left)="close()" />
        }
        @case ('revoke') {
          <hinge-revoke-certificate [authority]="authority()" [serialNumber]="serialNumber()" (left)="close()" />
        }
      }
      @if (authority().succession; as succession) {
        <hinge-succession [succession]="succession" />
      }
      <hinge-open-requests [authority]="authority()" />
      @if (authority().issued.length > 0) {
        <hinge-signed-by [authority]="authority()" (revoke)="revoke($event)" />
      }
    </section>
  `,
  styles: `
    section header {
      display: flex;
      justify-content: space-between;
      gap: 1rem;
      margin-bottom: 0.5rem;
    }
    h2 span {
      font-size: 0.86rem;
      font-weight: 400;
      margin-left: 0.6rem;
    }
    .left {
      margin-left: 0.5rem;
    }
  `,
})
export class OneAuthority {
  private readonly store = inject(Store);
  private readonly dropped = inject(DroppedFiles);
  readonly authority = input.required<AuthorityView>();
  readonly mayAct = may('engineer');
  readonly mayMake = may('administrator');
  readonly form = signal<Form>('none');
  readonly serialNumber = signal('');

  constructor() {
    effect(() => {
      const { isCurrent, keyKept } = this.authority();
      if (this.dropped.request() && isCurrent && keyKept) untracked(() => this.open('issue'));
    });
    // A form stays open, with what was typed, until its wish was carried out.
    onceMore(this.store.selectSignal(trustFeature.selectDone), () => this.close());
  }

  leftOf = (at: string): string => daysWords(Date.parse(at), Date.now());
  toneOf = (at: string): string => nearness(Date.parse(at), Date.now());

  open(form: Form): void {
    this.form.set(form);
  }

  revoke(serialNumber: string): void {
    this.serialNumber.set(serialNumber);
    this.open('revoke');
  }

  close(): void {
    this.form.set('none');
  }
}
