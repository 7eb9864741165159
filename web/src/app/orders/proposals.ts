import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Proposal } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { sessionFeature } from '../session/state';
import { Moment } from '../signs/moment';
import { isRunning, orderActions, ordersFeature } from './state';

/** What waits for a second person beside the work orders, and what came of the last ones. */
@Component({
  selector: 'hinge-proposals',
  imports: [Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (waiting().length > 0) {
      <section aria-label="Waits for a second person">
        <h2>Waits for a second person</h2>
        @for (proposal of waiting(); track proposal.id) {
          <article>
            <div>
              <h3>{{ proposal.title }}</h3>
              <p class="faint">proposed by {{ proposal.proposedBy }}, <hinge-moment [at]="proposal.proposedAt" /></p>
              <ul>
                @for (line of proposal.says; track line) {
                  <li>{{ line }}</li>
                }
              </ul>
            </div>
            <div class="acts">
              <button
                type="button"
                class="act main"
                [disabled]="!mayAccept(proposal) || busy()"
                (click)="decide(proposal, true)"
              >
                Accept
              </button>
              <button
                type="button"
                class="act"
                [disabled]="!mayRefuse(proposal) || busy()"
                (click)="decide(proposal, false)"
              >
                {{ isOwn(proposal) ? 'Withdraw' : 'Refuse' }}
              </button>
              @if (!mayAccept(proposal)) {
                <small class="faint">{{
                  isOwn(proposal) ? 'Another person must accept it.' : 'This needs the role approver.'
                }}</small>
              }
            </div>
          </article>
        }
      </section>
    }
    @if (decided().length > 0) {
      <details>
        <summary>Decided by a second person: {{ decided().length }}</summary>
        <ul>
          @for (proposal of decided(); track proposal.id) {
            <li>
              {{ proposal.title }}: {{ proposal.state }} by {{ proposal.decidedBy }},
              <hinge-moment [at]="proposal.decidedAt ?? proposal.proposedAt" /><span class="faint"
                >; proposed by {{ proposal.proposedBy }}</span
              >
            </li>
          }
        </ul>
      </details>
    }
  `,
  styles: `
    section,
    details {
      margin-bottom: 1.2rem;
    }
    article {
      display: flex;
      justify-content: space-between;
      gap: 1.5rem;
      background: var(--panel);
      border: 1px solid var(--line);
      border-left: 4px solid var(--weak);
      padding: 0.7rem 0.9rem;
      margin-bottom: 0.6rem;
    }
    h2 {
      margin-bottom: 0.5rem;
    }
    h3,
    p {
      margin: 0 0 0.2rem;
    }
    ul {
      margin: 0;
      padding-left: 1.1rem;
      overflow-wrap: anywhere;
    }
    .acts {
      display: flex;
      flex-direction: column;
      gap: 0.4rem;
      flex: none;
      width: 11rem;
    }
    summary {
      cursor: pointer;
      color: var(--faint);
    }
  `,
})
export class Proposals {
  private readonly store = inject(Store);
  private readonly person = this.store.selectSignal(sessionFeature.selectSignedIn);
  private readonly all = this.store.selectSignal(ordersFeature.selectProposals);
  readonly busy = this.store.selectSignal(isRunning('decide'));
  readonly waiting = computed(() => this.all().filter(({ state }) => state === 'waiting'));
  readonly decided = computed(() => this.all().filter(({ state }) => state !== 'waiting'));
  private readonly isApprover = may('approver');

  isOwn = ({ proposedBy }: Proposal): boolean => proposedBy === this.person()?.name;
  mayAccept = (proposal: Proposal): boolean => this.isApprover() && !this.isOwn(proposal);
  mayRefuse = (proposal: Proposal): boolean => this.isApprover() || this.isOwn(proposal);

  decide(proposal: Proposal, accepts: boolean): void {
    this.store.dispatch(orderActions.decide({ proposal, accepts }));
  }
}
