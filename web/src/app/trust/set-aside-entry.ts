import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { commonName } from '@loyal-hinge/core';
import type { SetAsideEntry } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { trustActions } from './state';
import { TrustEntry } from './trust-entry';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';

type Difference = SetAsideEntry['differs'][number];
const columns: readonly Column<Difference>[] = [
  { key: 'what', title: 'What', text: ({ what }) => what },
  { key: 'known', title: 'Known here', text: ({ known }) => known },
  { key: 'here', title: 'Set aside', text: ({ here }) => here },
];

/** One certificate that an application has set aside: what it claims, what it blocks, what to check before it is trusted. */
@Component({
  selector: 'hinge-set-aside-entry',
  imports: [CopyText, Ledger, Moment, RouterLink, TrustEntry],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <article class="sheet">
      <header>
        <h2>
          {{ entry().holder }} set aside
          <a [routerLink]="['/trust/certificates', entry().thumbprint]">{{ name() }}</a>
        </h2>
        <span class="faint">seen there since <hinge-moment [at]="entry().since" /></span>
      </header>
      <div class="leaves wide-left">
        <dl class="facts">
          <dt>Says it is</dt>
          <dd>
            @if (entry().claims) {
              <span class="one">{{ entry().claims }}</span>
              @switch (entry().known) {
                @case ('the same') {
                  <span class="holds">It is the certificate that is known for it.</span>
                }
                @case ('another') {
                  <span class="fails"
                    >Known is
                    <a [routerLink]="['/trust/certificates', entry().knownThumbprint]">another certificate</a> for it:
                    compare them first.</span
                  >
                }
                @default {
                  <span class="weak">No certificate is known for it yet.</span>
                }
              }
            } @else {
              <span class="weak"
                >nobody that the plant knows ({{
                  entry().certificate.applicationUris.join(', ') || 'no application URI'
                }})</span
              >
            }
          </dd>
          <dt>Blocks</dt>
          <dd>
            @for (link of entry().blocks; track link.linkId) {
              <a class="one" [routerLink]="['/links', link.linkId]">{{ link.name }}</a>
            } @empty {
              no link
            }
          </dd>
          <dt>Issuer</dt>
          <dd>{{ entry().certificate.selfIssued ? 'itself' : entry().certificate.issuer }}</dd>
          <dt>Valid until</dt>
          <dd><hinge-moment [at]="entry().certificate.notAfter" show="day" /></dd>
          <dt>Thumbprint</dt>
          <dd><hinge-copy [text]="entry().thumbprint" /></dd>
        </dl>
        <div>
          @if (entry().unusual.length > 0) {
            <h3>Check this first</h3>
            <ul>
              @for (line of entry().unusual; track line) {
                <li>{{ line }}</li>
              }
            </ul>
          }
          @if (entry().differs.length > 0) {
            <h3>Compared with the known one</h3>
            <hinge-ledger [columns]="columns" [rows]="entry().differs" [idOf]="whatOf" [plain]="true" />
          }
          @if (entry().dismissed; as off) {
            <p class="faint">Postponed by {{ off.by }} on <hinge-moment [at]="off.at" />.</p>
          }
        </div>
      </div>
      @if (asking()) {
        <hinge-trust-entry [entry]="entry()" (left)="left.emit()" />
      } @else {
        <div class="actions">
          <button type="button" class="act main" [disabled]="!mayAct()" (click)="ask.emit()">Trust …</button>
          <button type="button" class="act" [disabled]="!mayAct()" (click)="dismiss()">
            {{ entry().dismissed ? 'Review again' : 'Postpone' }}
          </button>
        </div>
      }
    </article>
  `,
  styles: `
    article header {
      display: flex;
      justify-content: space-between;
      gap: 1rem;
      margin-bottom: 0.5rem;
    }
    ul {
      margin: 0.2rem 0;
      padding-left: 1.1rem;
    }
    table td {
      font-size: 0.86rem;
      overflow-wrap: anywhere;
    }
  `,
})
export class SetAsideEntryView {
  private readonly store = inject(Store);
  readonly entry = input.required<SetAsideEntry>();
  readonly mayAct = may('engineer');
  /** Somebody is asked what of it is to be trusted; of one at a time. */
  readonly asking = input(false);
  readonly ask = output();
  readonly left = output();
  readonly columns = columns;
  readonly whatOf = ({ what }: Difference): string => what;
  readonly name = computed(() => commonName(this.entry().certificate.subject));

  dismiss(): void {
    const { holderId, thumbprint, dismissed } = this.entry();
    this.store.dispatch(
      trustActions.command({ command: { does: 'dismiss', holderId, thumbprint, dismissed: !dismissed } }),
    );
  }
}
