import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted, sayPasswordTarget, wayWords } from '@loyal-hinge/core';
import type { PasswordMove, TrustWayBody } from '@loyal-hinge/contract';
import { base64Of } from '../files/base64';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { Moment } from '../signs/moment';
import { onceMore } from '../http/once-more';
import { isRunning, trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { Choose } from '../forms/choose';
import type { Choice } from '../forms/choose';

const waysOfAll = [
  { key: 'files', word: 'by a bundle that somebody takes to the machine' },
  { key: 'unknown', word: 'not known' },
] as const;
const waysOfServers = [{ key: 'push', word: 'over push management (Part 12 §7.10)' }, ...waysOfAll] as const;

/** The lists of one application: what lies in them, how they are reached, and what changed when. */
@Component({
  selector: 'hinge-holder-page',
  imports: [Choose, FormsModule, RouterLink, TrustHead, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        @if (holder(); as told) {
          @if (told.party.way === 'push') {
            <button type="button" class="act main" [disabled]="!mayAct() || isRead()" (click)="read()">
              {{ isRead() ? 'Reading …' : 'Read its lists' }}
            </button>
          }
          <button type="button" class="act" [disabled]="!mayAct()" (click)="fetchBundle()">Fetch as a bundle</button>
          <label class="act file"
            >Take over a PKI folder (zip)<input
              type="file"
              accept=".zip"
              class="unseen"
              [disabled]="!mayAct()"
              (change)="takeBundle($event)"
          /></label>
        }
      </hinge-trust-head>
      @if (holder(); as told) {
        @if (told.party.fault; as fault) {
          <p class="fault"><strong class="fails">The newest try to read them failed.</strong> {{ fault }}</p>
        }
        @if (told.unreadable.length > 0) {
          <div class="fault">
            <strong class="weak">Some entries of the lists can’t be read and are ignored.</strong>
            <ul>
              @for (says of told.unreadable; track $index) {
                <li>{{ says }}</li>
              }
            </ul>
          </div>
        }
        <div class="leaves wide-left">
          <div>
            @for (group of lists(); track group.list) {
              <h2>{{ group.title }}</h2>
              <table class="ledger">
                <tbody>
                  @for (entry of group.entries; track entry.thumbprint) {
                    <tr>
                      <td>
                        <a [routerLink]="['/trust/certificates', entry.thumbprint]">{{ entry.name }}</a>
                      </td>
                      <td class="faint">
                        seen since <hinge-moment [at]="entry.since" show="day" />
                        @if (entry.until) {
                          <strong class="weak">until <hinge-moment [at]="entry.until" /></strong>
                        }
                      </td>
                      <td class="acts">
                        @if (group.list !== 'rejected') {
                          <button
                            type="button"
                            class="plain"
                            [disabled]="!mayAct()"
                            (click)="takeOut(group.list, entry.thumbprint, entry.name)"
                          >
                            Remove …
                          </button>
                        }
                      </td>
                    </tr>
                  } @empty {
                    <tr>
                      <td class="faint">
                        {{ told.party.readAt || told.party.way === 'held' ? 'Empty.' : 'Not read yet.' }}
                      </td>
                    </tr>
                  }
                </tbody>
              </table>
            }
            <h2>Revocation lists</h2>
            <table class="ledger">
              <tbody>
                @for (crl of told.crls; track crl.list + crl.id) {
                  <tr>
                    <td>{{ crl.issuer }}</td>
                    <td class="faint">
                      of <hinge-moment [at]="crl.thisUpdate" show="day" />, {{ crl.revoked }} revoked
                    </td>
                    <td>
                      @if (crl.nextUpdate) {
                        next update <hinge-moment [at]="crl.nextUpdate" show="day" />
                      }
                    </td>
                  </tr>
                } @empty {
                  <tr>
                    <td class="faint">None.</td>
                  </tr>
                }
              </tbody>
            </table>
          </div>
          <div>
            <h2>How they are changed</h2>
            @if (told.party.way === 'held') {
              <p>By the product, which holds the key and the lists of this client.</p>
            } @else {
              <form (ngSubmit)="keepWay()">
                <hinge-choose label="Way" name="way" [(ngModel)]="way" [choices]="ways(told.party.kind)" />
                @if (way() === 'push') {
                  <hinge-choose
                    label="As which client"
                    name="clientId"
                    [(ngModel)]="clientId"
                    [choices]="clientChoices()"
                  />
                  <label class="field"
                    >Endpoint URL<input class="mono" name="endpointUrl" [(ngModel)]="endpointUrl"
                  /></label>
                  <label class="field">User<input name="userName" autocomplete="off" [(ngModel)]="userName" /></label>
                  <label class="field"
                    >Password<input
                      type="password"
                      name="password"
                      autocomplete="new-password"
                      [(ngModel)]="password"
                    />
                    <small class="faint">{{
                      told.access?.passwordState === 'kept'
                        ? 'One is kept, encrypted. Empty: it stays.'
                        : 'It is kept encrypted.'
                    }}</small></label
                  >
                  @if (told.access?.passwordMoves; as move) {
                    <div class="fault">
                      <p>
                        The kept password stays behind: it was given for another target. Type it anew, or let an
                        approver who knows the new target send it there.
                      </p>
                      <dl>
                        <dt>Given for</dt>
                        <dd>{{ target(move.before) }}</dd>
                        <dt>Now</dt>
                        <dd>{{ target(move.after) }}</dd>
                      </dl>
                      <button
                        type="button"
                        class="act"
                        [disabled]="!mayRelease() || isReleased()"
                        [title]="mayRelease() ? '' : 'This takes the role approver.'"
                        (click)="release(move)"
                      >
                        Send the kept password to the new target
                      </button>
                    </div>
                  }
                  <p class="faint">
                    The user needs the role SecurityAdmin there; the channel is always signed and encrypted.
                  </p>
                }
                <button type="submit" class="act" [disabled]="!mayAct() || isSaved()">Save</button>
              </form>
            }
            <h2>What changed</h2>
            <ol class="history">
              @for (entry of told.history; track entry.id) {
                <li>
                  <hinge-moment [at]="entry.at" /> <span class="faint">{{ entry.says }} {{ entry.actor }}</span>
                  @for (line of entry.added; track line) {
                    <div class="holds">came: {{ line }}</div>
                  }
                  @for (line of entry.removed; track line) {
                    <div class="fails">went: {{ line }}</div>
                  }
                  @if ($first) {
                    <button type="button" class="plain" [disabled]="!mayAct()" (click)="stepBack(entry.id)">
                      Take this step back …
                    </button>
                  }
                </li>
              } @empty {
                <li class="faint">No change was seen since these lists were first read.</li>
              }
            </ol>
          </div>
        </div>
      } @else if (!problem()) {
        <div class="waiting" aria-busy="true"></div>
      }
    </div>
  `,
  styles: `
    td {
      font-size: 0.92rem;
    }
    .fault {
      border-left: 4px solid var(--fails);
      background: var(--panel);
      padding: 0.45rem 0.9rem;
    }
    .fault dl {
      display: grid;
      grid-template-columns: max-content 1fr;
      gap: 0.2rem 0.8rem;
      margin: 0 0 0.6rem;
      overflow-wrap: anywhere;
    }
    .fault dt {
      color: var(--faint);
    }
    .fault dd {
      margin: 0;
    }
    .fault + p {
      margin-top: 0.8rem;
    }
    .history {
      list-style: none;
      padding: 0;
      margin: 0;
    }
    .history li {
      padding: 0.4rem 0;
      border-bottom: 1px solid var(--line);
    }
  `,
})
export class HolderPage {
  private readonly store = inject(Store);
  /** From the address. */
  readonly id = input.required<string>();
  readonly holder = this.store.selectSignal(trustFeature.selectHolder);
  readonly known = this.store.selectSignal(trustFeature.selectParties);
  readonly problem = this.store.selectSignal(trustFeature.selectProblem);
  readonly isRead = this.store.selectSignal(isRunning('read'));
  readonly isSaved = this.store.selectSignal(isRunning('set way'));
  readonly isReleased = this.store.selectSignal(isRunning('release password'));
  private readonly done = this.store.selectSignal(trustFeature.selectDone);
  private filledFor = '';
  readonly mayAct = may('engineer');
  readonly mayRelease = may('approver');
  readonly target = sayPasswordTarget;
  readonly ways = (kind: 'client' | 'server'): readonly Choice<TrustWayBody['way']>[] =>
    kind === 'server' ? waysOfServers : waysOfAll;
  readonly clients = computed(() => (this.known() ?? []).filter(({ way }) => way === 'held'));
  readonly clientChoices = computed(() =>
    this.clients().map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  readonly way = signal<TrustWayBody['way']>('unknown');
  readonly clientId = signal('');
  readonly endpointUrl = signal('');
  readonly userName = signal('');
  readonly password = signal('');
  readonly lists = computed(() => {
    const entries = this.holder()?.lists ?? [];
    return (
      [
        { list: 'trusted', title: 'Trusted: they give trust' },
        { list: 'issuers', title: 'Issuers: they complete chains, and give no trust' },
        { list: 'rejected', title: 'Set aside' },
      ] as const
    ).map((group) => ({ ...group, entries: entries.filter(({ list }) => list === group.list) }));
  });
  readonly headline = computed(() => {
    const party = this.holder()?.party;
    if (!party) return 'Lists';
    const known = party.readAt !== null || party.way === 'held';
    return known
      ? `${party.name} trusts ${counted(party.trusted, 'certificate')} and has set ${party.rejected} aside; its lists are changed ${wayWords[party.way]}.`
      : `The lists of ${party.name} have not been read yet.`;
  });

  constructor() {
    this.store.dispatch(trustActions.load({ request: { view: 'parties' } }));
    effect(() => this.store.dispatch(trustActions.show({ request: { view: 'holder', id: this.id() } })));
    // What somebody types stays when the lists are loaded anew: the form is filled once for each application.
    effect(() => {
      const told = this.holder();
      if (!told || told.party.applicationId === this.filledFor) return;
      this.filledFor = told.party.applicationId;
      this.way.set(told.party.way === 'held' ? 'unknown' : told.party.way);
      this.clientId.set(told.access?.clientId ?? '');
      this.endpointUrl.set(told.access?.endpointUrl ?? '');
      this.userName.set(told.access?.userName ?? '');
      this.password.set('');
    });
    onceMore(this.done, () => this.password.set(''));
  }

  read(): void {
    this.store.dispatch(trustActions.command({ command: { does: 'read', id: this.id() } }));
  }

  keepWay(): void {
    const way = this.way();
    const password = this.password() === '' ? {} : { password: this.password() };
    const body: TrustWayBody =
      way === 'push'
        ? { way, clientId: this.clientId(), endpointUrl: this.endpointUrl(), userName: this.userName(), ...password }
        : { way };
    this.store.dispatch(trustActions.command({ command: { does: 'set way', id: this.id(), body } }));
  }

  release(move: PasswordMove): void {
    this.store.dispatch(trustActions.command({ command: { does: 'release password', id: this.id(), move } }));
  }

  stepBack(entry: number): void {
    this.store.dispatch(trustActions.command({ command: { does: 'step back', id: this.id(), entry } }));
  }

  takeOut(list: 'trusted' | 'issuers', thumbprint: string, name: string): void {
    const holder = this.holder()?.party.name ?? this.id();
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Take ${name} out of the ${list} list of ${holder}`,
          lines: [
            {
              change: { kind: 'unlist-certificate', holderId: this.id(), list, thumbprint },
              why: `Asked for on the page of the lists of ${holder}.`,
              linkIds: [],
            },
          ],
        },
      }),
    );
  }

  fetchBundle(): void {
    this.store.dispatch(trustActions.command({ command: { does: 'fetch bundle', id: this.id() } }));
  }

  async takeBundle(event: Event): Promise<void> {
    const field = event.target as HTMLInputElement;
    const file = field.files?.[0];
    if (!file) return;
    const body = {
      file: { name: file.name, base64: await base64Of(file) },
      copiedAt: new Date(file.lastModified).toISOString(),
    };
    field.value = '';
    this.store.dispatch(trustActions.command({ command: { does: 'import bundle', id: this.id(), body } }));
  }
}
