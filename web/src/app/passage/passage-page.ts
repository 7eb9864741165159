import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, counted, isLinkNeed, openingPurposes, passageVerdictWords, portCostOf } from '@loyal-hinge/core';
import type { PassageChange, PortCost } from '@loyal-hinge/core';
import type { LinkPassage, PassageOpening, PassageView } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { orderActions, ordersFeature } from '../orders/state';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { PassageMap } from './passage-map';
import { passagePlaces } from './passage-places';
import { isStopped, purposeWords, stopOf, verdictWords, worstOf } from './passage-words';
import { RuleChange } from './rule-change';
import { passageActions, passageFeature } from './state';

/** Which links get through the firewalls that are known, where they stop, and which opening is missing. */
@Component({
  selector: 'hinge-passage-page',
  imports: [Ledger, LedgerCell, PassageMap, PlaceHead, ProblemNotice, RouterLink, RuleChange, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()" />
      @if (view(); as known) {
        <hinge-problem [problem]="orderProblem()" />
        @if (known.firewalls.length === 0) {
          <div class="empty">
            <p>
              This page shows which firewalls stand in the way of each link, and what their rules make of it. Describe
              the first firewall, and import its rules as it writes them.
            </p>
            <a class="act" routerLink="/passage/firewalls">Add a firewall</a>
          </div>
        }
        @if (known.zones.length > 0) {
          <hinge-passage-map [view]="known" [link]="chosen()" />
        }
        @if (known.firewalls.length > 0) {
          @if (chosen(); as link) {
            <section class="way" aria-live="polite">
              <h2>
                @if (isLink(link)) {
                  <a [routerLink]="['/links', link.linkId]">{{ link.link }}</a>
                } @else {
                  {{ link.link }}
                }
              </h2>
              @if (costOf(link); as cost) {
                <p class="notice">
                  As its machines are set, firewalls on its way must let {{ thousands(cost.now) }} ports through;
                  {{ thousands(cost.fixed) }} with one fixed port for the objects of each machine;
                  {{ cost.tunnelled }} by <a routerLink="/passage/gateways">gateways</a> at both sides and a
                  <a routerLink="/passage/tunnels">tunnel</a> between them.
                </p>
              }
              @for (opening of link.openings; track opening.purpose + opening.protocol + opening.ports.join()) {
                <div class="opening">
                  <p>
                    <strong>{{ purposeOf(opening) }}</strong>
                    <span class="mono">{{ opening.from.join(', ') }} → {{ opening.to.join(', ') }}</span>
                    <span
                      >{{ opening.protocol.toUpperCase() }} port
                      <span class="mono">{{ opening.ports.join(', ') }}</span></span
                    >
                    @if (opening.portCount > 1) {
                      <span class="faint">({{ opening.portCount }} ports)</span>
                    }
                    <span [class.fails]="isStopped(opening.verdict)" [class.weak]="opening.verdict === 'partly'">{{
                      verdictWords[opening.verdict]
                    }}</span>
                  </p>
                  <ul>
                    @for (firewall of opening.firewalls; track firewall.id) {
                      <li>
                        <a [routerLink]="['/passage/firewalls', firewall.id]">{{ firewall.name }}</a>:
                        {{ firewall.isAnswer ? 'answers are ' : '' }}{{ verdictWords[firewall.verdict] }}
                        @if (firewall.rule; as rule) {
                          by rule {{ rule.index + 1 }} of {{ rule.chain }}, <code>{{ rule.text }}</code>
                        } @else if (isStopped(firewall.verdict)) {
                          by its policy: no rule lets it through
                        }
                        @if (firewall.why) {
                          <span class="faint">{{ firewall.why }}</span>
                        }
                        @if (firewall.translated) {
                          <span class="faint">, leads to {{ firewall.translated }}</span>
                        }
                        @if (firewall.change; as change) {
                          <hinge-rule-change [change]="change" (proposed)="propose(link, opening, firewall, $event)" />
                        }
                      </li>
                    } @empty {
                      <li class="faint">No firewall that is known is on this way.</li>
                    }
                  </ul>
                </div>
              }
            </section>
          }
          <hinge-ledger
            [columns]="columns"
            [rows]="known.links"
            [idOf]="idOf"
            [find]="find()"
            (findChange)="go({ find: $event })"
            what="any link or machine"
            fileName="passage"
          >
            <span empty>The plant has no links yet.</span>
            <ng-template hingeCell="link" [hingeCellOf]="known.links" let-row>
              <button
                type="button"
                class="as-link"
                (click)="go({ link: row.linkId })"
                [attr.aria-pressed]="row.linkId === chosen()?.linkId"
              >
                {{ row.link }}
              </button>
            </ng-template>
            <ng-template hingeCell="state" [hingeCellOf]="known.links" let-row>
              <span [class.fails]="isStopped(worstOf(row))" [class.weak]="worstOf(row) === 'partly'">{{
                stateText(row)
              }}</span>
            </ng-template>
          </hinge-ledger>
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .way {
      margin: 0.8rem 0 1.2rem;
    }
    .opening {
      margin: 0.4rem 0 0.8rem;
    }
    .opening p {
      display: flex;
      flex-wrap: wrap;
      gap: 0.2rem 0.6rem;
      margin: 0;
    }
    ul {
      margin: 0.2rem 0 0;
      padding-left: 1.2rem;
    }
    code {
      font-family: var(--mono);
      overflow-wrap: anywhere;
    }
    .fails {
      color: var(--fails);
      font-weight: 600;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    .as-link {
      background: none;
      border: 0;
      padding: 0;
      font: inherit;
      color: var(--lake);
      text-align: left;
      cursor: pointer;
      text-decoration: underline;
    }
    .as-link[aria-pressed='true'] {
      font-weight: 600;
    }
  `,
})
export class PassagePage {
  private readonly store = inject(Store);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  /** The link of which the way is drawn. */
  readonly link = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(passageFeature.selectKnown);
  readonly problem = this.store.selectSignal(passageFeature.selectProblem);
  /** Why a work order could not be proposed; null: it was, or nobody did. */
  readonly orderProblem = this.store.selectSignal(ordersFeature.selectProblem);
  readonly headline = computed(() => headlineOf(this.view()));
  readonly chosen = computed(() => {
    const links = this.view()?.links ?? [];
    return links.find(({ linkId }) => linkId === this.link()) ?? links.find((each) => isStopped(worstOf(each))) ?? null;
  });
  readonly idOf = ({ linkId }: LinkPassage): string => linkId;
  readonly verdictWords = verdictWords;
  readonly isStopped = isStopped;
  readonly isLink = isLink;
  readonly worstOf = worstOf;
  readonly stateText = stateText;
  readonly thousands = (count: number): string => count.toLocaleString('en');
  /** What its range of ports costs beside other ways. */
  readonly costOf = ({ openings }: LinkPassage): PortCost | null =>
    portCostOf(
      openings.map(({ purpose, portCount, firewalls }) => ({ purpose, portCount, firewallCount: firewalls.length })),
    );
  readonly purposeOf = ({ purpose }: LinkPassage['openings'][number]): string => purposeWords[purpose];
  readonly columns: readonly Column<LinkPassage>[] = [
    { key: 'link', title: 'Needed by', text: ({ link }) => link },
    { key: 'from', title: 'From', text: ({ clientMachine }) => clientMachine },
    { key: 'to', title: 'To', text: ({ serverMachine }) => serverMachine },
    {
      key: 'ports',
      title: 'Ports',
      text: ({ openings }) => String(openings.reduce((sum, { portCount }) => sum + portCount, 0)),
      order: ({ openings }) => openings.reduce((sum, { portCount }) => sum + portCount, 0),
    },
    { key: 'over', title: 'Firewalls', text: (row) => firewallsOf(row).join(', ') || 'none' },
    { key: 'state', title: 'Passage', text: stateText },
  ];

  constructor() {
    this.store.dispatch(passageActions.show());
    this.store.dispatch(orderActions.begin());
  }

  propose(
    need: LinkPassage,
    opening: PassageOpening,
    { name }: PassageOpening['firewalls'][number],
    change: PassageChange,
  ): void {
    const why = `${name} ${passageVerdictWords[opening.verdict]}; ${need.link} needs it for ${openingPurposes[opening.purpose]}.`;
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Let ${need.link} through at ${name}`,
          lines: [{ change, why, linkIds: isLink(need) ? [need.linkId] : [] }],
        },
      }),
    );
  }
}

const isLink = ({ linkId }: LinkPassage): boolean => isLinkNeed(linkId);

const firewallsOf = ({ openings }: LinkPassage): readonly string[] => [
  ...new Set(openings.flatMap(({ firewalls }) => firewalls.map(({ name }) => name))),
];

function stateText(row: LinkPassage): string {
  const verdict = worstOf(row);
  const stop = stopOf(row);
  if (stop) return `${verdictWords[verdict]} at ${stop.name}`;
  return firewallsOf(row).length === 0 ? 'no firewall known' : verdictWords[verdict];
}

function headlineOf(view: PassageView | null): string {
  if (!view) return 'Passage';
  if (view.firewalls.length === 0) return 'No firewall is known yet.';
  const links = view.links.filter(isLink);
  const stopped = links.filter((link) => isStopped(worstOf(link)));
  const open = links.filter((link) => worstOf(link) === 'unknown' || worstOf(link) === 'not-told').length;
  const first =
    stopped.length === 0
      ? links.length === 0
        ? 'The plant has no links yet'
        : 'By the rules that are known, every link gets through'
      : byNumber(stopped.length, '1 link is stopped at a firewall', '# links are stopped at firewalls');
  const services = view.links.filter((need) => need.kind === 'service' && worstOf(need) !== 'accept').length;
  const devices = view.links.filter((need) => need.kind === 'device' && isStopped(worstOf(need))).length;
  const more = [
    first,
    ...(services === 0 ? [] : [byNumber(services, '1 service lacks an opening', '# services lack openings')]),
    ...(devices === 0
      ? []
      : [byNumber(devices, '1 device can’t be asked by its server', '# devices can’t be asked by their servers')]),
  ];
  return `${more.join('; ')}${open === 0 ? '' : `; of ${counted(open, 'link')} it can’t be told`}.`;
}
