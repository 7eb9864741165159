import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { explainedStatusCode } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { GridCellView, GridColumnView, TrustPartyRow } from '@loyal-hinge/contract';
import { SideSheet } from '../shell/side-sheet';
import { Moment } from '../signs/moment';
import { trustActions, trustFeature } from './state';
import { TrustMark, toneOfCell } from './trust-mark';
import { wordsOf } from './trust-grid';
import { TurnsView } from './turns-view';

/** One cell of the trust grid: how it stands and why, which links need it, what can be changed and what that would turn. */
@Component({
  selector: 'hinge-cell-drawer',
  imports: [SideSheet, RouterLink, Moment, TrustMark, TurnsView],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-side-sheet
      [open]="party() !== null && column() !== null"
      [heading]="party()?.name ?? ''"
      (closed)="closed.emit()"
    >
      @if (party(); as holder) {
        @if (column(); as shown) {
          <p class="lead">
            <hinge-trust-mark [cell]="told()" />
            <strong [class]="tone()">{{ words() }}</strong>
          </p>
          <dl class="facts">
            <dt>Certificate</dt>
            <dd>
              <a [routerLink]="['/trust/certificates', shown.thumbprint]">{{ shown.name }}</a>
              <span class="mono faint"> {{ shown.thumbprint }}</span>
            </dd>
            <dt>Valid until</dt>
            <dd><hinge-moment [at]="shown.notAfter" show="day" /></dd>
            @if (shown.revoked) {
              <dt>Revoked</dt>
              <dd class="fails">A known CRL revokes it.</dd>
            }
            <dt>Links</dt>
            <dd>
              @for (link of links(); track link.id) {
                <span class="one">{{ link.name }}</span>
              } @empty {
                No link needs this.
              }
            </dd>
          </dl>
          <h3>What it means</h3>
          <p>{{ told().says }}</p>
          @if (code(); as explained) {
            <p class="faint">{{ explained }}</p>
          }
          <h3>How we know</h3>
          <p>
            @if (holder.readAt) {
              The lists were read <hinge-moment [at]="holder.readAt" />; the rest is calculated by the eleven steps of
              Part 4 §6.1.3.
            } @else if (holder.way === 'held') {
              Loyal Hinge holds these lists itself.
            } @else {
              The lists of {{ holder.name }} have not been read yet.
            }
          </p>
          @if (change(); as wanted) {
            <h3>What can be changed</h3>
            <p>{{ changeWords() }}</p>
            <hinge-turns [turns]="turns()" />
            <div class="actions">
              <button type="button" class="act main" [disabled]="!mayPropose()" (click)="propose.emit(wanted)">
                Add to a work order
              </button>
            </div>
          } @else if (told().linkIds.length > 0 && told().status !== 'Good') {
            <h3>What can be changed</h3>
            <p>
              What is missing here is more than a certificate in the trusted list: the
              <a routerLink="/trust/plan">Plan</a> has the changes that mend it.
            </p>
          }
        }
      }
    </hinge-side-sheet>
  `,
  styles: `
    .lead {
      display: flex;
      gap: 0.5rem;
      align-items: center;
    }
    .one {
      display: block;
    }
    h3 {
      margin: 1rem 0 0.3rem;
    }
  `,
})
export class CellDrawer {
  private readonly store = inject(Store);
  readonly party = input.required<TrustPartyRow | null>();
  readonly column = input.required<GridColumnView | null>();
  /** null: it stands nowhere with this application. */
  readonly cell = input.required<GridCellView | null>();
  readonly linkNames = input.required<Readonly<Record<string, string>>>();
  readonly mayPropose = input(true);
  readonly closed = output();
  readonly propose = output<TrustChange>();
  readonly turns = this.store.selectSignal(trustFeature.selectTurns);
  readonly told = computed<GridCellView>(
    () =>
      this.cell() ?? {
        holderId: '',
        thumbprint: '',
        standing: 'not at all',
        status: 'BadCertificateUntrusted',
        says: 'It is in none of its lists, and no link needs it.',
        linkIds: [],
      },
  );
  readonly tone = computed(() => toneOfCell(this.told()));
  readonly words = computed(() => wordsOf(this.told()));
  readonly code = computed(() => {
    const { status } = this.told();
    return status === 'Good' || status === '' ? null : explainedStatusCode(status);
  });
  readonly links = computed(() => this.told().linkIds.map((id) => ({ id, name: this.linkNames()[id] ?? id })));
  /** Into the trusted list, or out of it; nothing where the lists are not known. */
  readonly change = computed<TrustChange | null>(() => {
    const [party, column, { standing }] = [this.party(), this.column(), this.told()];
    if (!party || !column || standing === 'not known' || standing === 'through an issuer') return null;
    const at = { holderId: party.applicationId, list: 'trusted', thumbprint: column.thumbprint } as const;
    return standing === 'directly'
      ? { kind: 'unlist-certificate', ...at }
      : { kind: 'list-certificate', ...at, until: null };
  });
  readonly changeWords = computed(() => {
    const [party, column] = [this.party()?.name ?? '', this.column()?.name ?? ''];
    return this.change()?.kind === 'unlist-certificate'
      ? `Remove ${column} from the trusted list of ${party}.`
      : `Put ${column} into the trusted list of ${party}.`;
  });

  constructor() {
    effect(() => {
      const change = this.change();
      this.store.dispatch(
        change ? trustActions.load({ request: { view: 'turns', changes: [change] } }) : trustActions.forgetTurns(),
      );
    });
  }
}
