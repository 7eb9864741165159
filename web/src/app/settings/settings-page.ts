import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { ClientIdentityView } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { GiveIdentity } from './give-identity';
import { OwnCertificateForm } from './own-certificate';
import { PlantSettingsForm } from './plant-settings';
import { settingsActions, settingsFeature } from './state';
import { Waiting } from '../shell/waiting';

/** How the plant is dialled, and with which client certificates. */
@Component({
  selector: 'hinge-settings-page',
  imports: [
    Waiting,
    CopyText,
    GiveIdentity,
    Ledger,
    LedgerCell,
    Moment,
    OwnCertificateForm,
    PlantSettingsForm,
    ProblemNotice,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (settings(); as known) {
        <div class="two">
          <hinge-plant-settings [settings]="known" />
          <section>
            <h2>Client certificates</h2>
            <hinge-ledger
              [columns]="columns"
              [rows]="identities()"
              [idOf]="idOf"
              [(find)]="find"
              what="any client"
              fileName="client-certificates"
              empty="Add client applications to the plant first."
            >
              <ng-template hingeCell="thumbprint" [hingeCellOf]="identities()" let-entry>
                @if (entry.thumbprint) {
                  <hinge-copy [text]="entry.thumbprint" />
                } @else {
                  <span class="weak">none: no secured channel with this client</span>
                }
              </ng-template>
              <ng-template hingeCell="notAfter" [hingeCellOf]="identities()" let-entry>
                @if (entry.notAfter) {
                  <hinge-moment [at]="entry.notAfter" show="day" />
                }
              </ng-template>
            </hinge-ledger>
            <h3>Give a client its certificate and key</h3>
            <hinge-give-identity [identities]="identities()" [mayGive]="mayGive()" />
            @if (mayKeep()) {
              <h2 class="own">The certificate of this server itself</h2>
              <hinge-own-certificate />
            }
          </section>
        </div>
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .two {
      display: grid;
      grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
      gap: 2rem;
    }
    h2 {
      margin-bottom: 0.7rem;
    }
    h2.own {
      margin-top: 1.6rem;
    }
    h3 {
      margin: 1.2rem 0 0.6rem;
    }
  `,
})
export class SettingsPage {
  private readonly store = inject(Store);
  readonly settings = this.store.selectSignal(settingsFeature.selectSettings);
  readonly identities = this.store.selectSignal(settingsFeature.selectIdentities);
  readonly problem = this.store.selectSignal(settingsFeature.selectProblem);
  readonly mayKeep = may('administrator');
  readonly mayGive = may('engineer');
  readonly headline = computed(() => {
    const ranges = this.settings()?.declaredRanges;
    if (!ranges) return 'Settings';
    return ranges.length === 0
      ? 'No address may be dialled yet: declare the plant’s ranges.'
      : `Settings: ${ranges.join(', ')} may be dialled`;
  });
  readonly find = signal('');
  readonly columns = columns;
  readonly idOf = ({ applicationId }: ClientIdentityView): string => applicationId;

  constructor() {
    this.store.dispatch(settingsActions.load());
    if (this.mayKeep()) this.store.dispatch(settingsActions.loadOwnCertificate());
  }
}

const columns: readonly Column<ClientIdentityView>[] = [
  { key: 'application', title: 'Client', text: ({ application }) => application },
  { key: 'thumbprint', title: 'Certificate', text: ({ thumbprint }) => thumbprint ?? 'none' },
  { key: 'notAfter', title: 'Valid until', text: ({ notAfter }) => notAfter ?? '' },
];
