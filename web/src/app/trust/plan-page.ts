import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted, keyOfChange, listed } from '@loyal-hinge/core';
import type { TrustPlanView } from '@loyal-hinge/contract';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { isRunning, orderActions, ordersFeature } from '../orders/state';
import { may } from '../session/may';
import { trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { Telling } from '../shell/telling';
import { Waiting } from '../shell/waiting';

type PlannedLine = TrustPlanView['changes'][number];

/** The two strategies side by side, each with the smallest set of changes after which every wanted link is trusted. */
@Component({
  selector: 'hinge-plan-page',
  imports: [Waiting, Telling, RouterLink, TrustHead, Ledger],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" [otherProblem]="orderProblem()" />
      @if (plans(); as both) {
        @if (both.unread.length > 0) {
          <p class="unread">
            The lists of {{ listedNames(both.unread) }} have not been read: the plans can’t include them.
            <a routerLink="/trust">Read all lists</a> first, or import a copied PKI folder.
          </p>
        }
        <div class="two">
          @for (plan of cards(); track plan.strategy) {
            <section [class.chosen]="plan.strategy === strategy()">
              <h2>{{ words[plan.strategy].title }}</h2>
              <p class="faint">{{ words[plan.strategy].says }}</p>
              <dl>
                <div>
                  <dt>changes now</dt>
                  <dd>{{ plan.count }}</dd>
                </div>
                <div>
                  <dt>restarts</dt>
                  <dd [hingeTelling]="plan.restarts.join(', ')">{{ plan.restartCount }}</dd>
                </div>
                <div>
                  <dt>links mended</dt>
                  <dd>{{ plan.mends }}</dd>
                </div>
                <div>
                  <dt>changes at each renewal</dt>
                  <dd>{{ renewal(plan) }}</dd>
                </div>
              </dl>
              <div class="actions">
                <button
                  type="button"
                  class="act"
                  [attr.aria-pressed]="plan.strategy === strategy()"
                  (click)="go({ by: plan.strategy })"
                >
                  {{ plan.strategy === strategy() ? 'Its changes are shown below' : 'Show its changes' }}
                </button>
                <button
                  type="button"
                  class="act main"
                  [disabled]="!mayAct() || busy() || plan.count === 0"
                  (click)="propose(plan)"
                >
                  Create a work order
                </button>
              </div>
            </section>
          }
          @if (both.authority === null) {
            <section>
              <h2>{{ words.authority.title }}</h2>
              <p>
                The plant has no authority yet. <a routerLink="/trust/authority">Create or import one</a>, and this
                strategy can be planned, too.
              </p>
            </section>
          }
        </div>
        @if (chosen(); as plan) {
          <hinge-ledger
            [columns]="columns"
            [rows]="plan.changes"
            [idOf]="idOf"
            [find]="find()"
            [plain]="plan.count <= few"
            what="any change or reason"
            fileName="plan"
            empty="Nothing has to be changed."
            (findChange)="go({ find: $event })"
          />
          @if (plan.fitting > plan.changes.length) {
            <p class="faint">
              The first {{ plan.changes.length }} of {{ plan.fitting }} are shown. Look for words to find others; a work
              order holds them all.
            </p>
          }
          @if (plan.remainder.length > 0) {
            <h2>What this does not mend</h2>
            <ul>
              @for (left of plan.remainder; track $index) {
                <li>
                  <a [routerLink]="['/links', left.linkId]">{{ left.link }}</a>: {{ left.says }}
                </li>
              }
            </ul>
            @if (plan.remainderCount > plan.remainder.length) {
              <p class="faint">And {{ plan.remainderCount - plan.remainder.length }} more.</p>
            }
          }
        }
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .two {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 1rem;
      margin-bottom: 1rem;
    }
    section {
      background: var(--panel);
      border: 1px solid var(--line);
      border-top: 4px solid var(--line);
      padding: 0.8rem 1rem;
    }
    section.chosen {
      border-top-color: var(--lake);
    }
    dl {
      display: grid;
      grid-template-columns: repeat(4, auto);
      gap: 0.5rem 1.5rem;
      margin: 0.4rem 0 0.8rem;
      justify-content: start;
    }
    dl div {
      display: flex;
      flex-direction: column-reverse;
    }
    dt {
      color: var(--faint);
      font-size: 0.86rem;
    }
    dd {
      margin: 0;
      font-size: 1.35rem;
      font-weight: 600;
      font-variant-numeric: tabular-nums;
    }
    .unread {
      border-left: 4px solid var(--weak);
      background: var(--panel);
      padding: 0.45rem 0.9rem;
    }
    hinge-ledger {
      display: block;
    }
    hinge-ledger + h2 {
      margin: 1.2rem 0 0.4rem;
    }
  `,
})
export class PlanPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly by = input('', { transform: fromAddress });
  readonly find = input('', { transform: fromAddress });
  readonly few = 5;
  readonly columns = columns;
  readonly plans = this.store.selectSignal(trustFeature.selectPlans);
  readonly orderProblem = this.store.selectSignal(ordersFeature.selectProblem);
  readonly busy = this.store.selectSignal(isRunning('propose plan', 'propose'));
  readonly mayAct = may('engineer');
  readonly words = {
    direct: {
      title: 'Direct trust',
      says: 'Each application lists the certificates of those it talks to.',
    },
    authority: {
      title: 'One authority',
      says: 'Each application lists the plant’s authority, which signs for all.',
    },
  } as const;
  readonly strategy = computed(() => (this.by() === 'authority' && this.plans()?.authority ? 'authority' : 'direct'));
  readonly cards = computed(() => {
    const plans = this.plans();
    return plans ? [plans.direct, ...(plans.authority ? [plans.authority] : [])] : [];
  });
  readonly chosen = computed(() => this.cards().find(({ strategy }) => strategy === this.strategy()) ?? null);
  private readonly isWhole = computed(() => this.cards().every(({ changes, count }) => changes.length === count));
  readonly headline = computed(() => {
    const plans = this.plans();
    if (!plans) return 'Plan';
    const { links, direct, authority, unread } = plans;
    if (links === 0) return 'There is no link yet, so there is nothing to plan.';
    if (direct.count === 0 && direct.remainderCount === 0)
      return unread.length > 0
        ? 'As far as the lists are known, nothing has to be changed.'
        : 'Every wanted link is trusted both ways, and nothing else is.';
    const cost = ({ count, restartCount, atRenewal }: TrustPlanView): string =>
      `${counted(count, 'change')}, ${counted(restartCount, 'restart')}, then ${atRenewal.mean.toFixed(1)} at each renewal`;
    return `Direct trust: ${cost(direct)}.${authority ? ` One authority: ${cost(authority)}.` : ''}`;
  });

  constructor() {
    // Of a plan that is shown as a whole the words are looked for here.
    effect(() => {
      const find = this.isWhole() ? '' : this.find();
      untracked(() => this.store.dispatch(trustActions.show({ request: { view: 'plans', find } })));
    });
  }

  idOf = ({ change }: PlannedLine): string => keyOfChange(change);
  listedNames = (names: readonly string[]): string => listed(names);
  renewal = ({ atRenewal: { most, mean } }: TrustPlanView): string =>
    most === Math.round(mean * 10) / 10 ? String(most) : `${mean.toFixed(1)}, at most ${most}`;

  propose(plan: TrustPlanView): void {
    this.store.dispatch(orderActions.proposePlan({ strategy: plan.strategy }));
  }
}

const columns: readonly Column<PlannedLine>[] = [
  { key: 'target', title: 'Where', text: ({ target }) => target, short: true },
  { key: 'change', title: 'Change', text: ({ title }) => title },
  { key: 'why', title: 'Why', text: ({ why }) => why },
  {
    key: 'links',
    title: 'Links',
    text: ({ linkIds }) => (linkIds.length === 0 ? '' : String(linkIds.length)),
    order: ({ linkIds }) => linkIds.length,
  },
];
