import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { commonName, counted, dayOf, toCsv } from '@loyal-hinge/core';
import type { SetAsideEntry } from '@loyal-hinge/contract';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { lookingFor } from '../shell/words';
import { saveFile } from '../files/save-file';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { TurnsView } from './turns-view';
import { Choose } from '../forms/choose';

/** Everything that lies in rejected lists in the plant, newest first: look, compare, then trust or put off. */
@Component({
  selector: 'hinge-set-aside-page',
  imports: [Choose, FormsModule, RouterLink, TrustHead, FilterLine, TurnsView, CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" />
      <hinge-filter-line
        [find]="find()"
        what="any application or name"
        (findChange)="go({ find: $event })"
        (save)="save()"
      >
        <label
          ><input type="checkbox" [checked]="off() !== ''" (change)="go({ off: off() === '' ? 'too' : '' })" /> include
          postponed ones</label
        >
      </hinge-filter-line>
      @for (entry of shown(); track entry.holderId + entry.thumbprint) {
        <article class="sheet">
          <header>
            <h2>
              {{ entry.holder }} set aside
              <a [routerLink]="['/trust/certificates', entry.thumbprint]">{{ nameOf(entry) }}</a>
            </h2>
            <span class="faint">seen there since <hinge-moment [at]="entry.since" /></span>
          </header>
          <div class="leaves wide-left">
            <dl class="facts">
              <dt>Says it is</dt>
              <dd>
                @if (entry.claims) {
                  <span class="one">{{ entry.claims }}</span>
                  @switch (entry.known) {
                    @case ('the same') {
                      <span class="holds">It is the certificate that we know for it.</span>
                    }
                    @case ('another') {
                      <span class="fails"
                        >We know
                        <a [routerLink]="['/trust/certificates', entry.knownThumbprint]">another certificate</a> for it:
                        compare them first.</span
                      >
                    }
                    @default {
                      <span class="weak">No certificate is known for it yet.</span>
                    }
                  }
                } @else {
                  <span class="weak"
                    >nobody whom the plant knows ({{
                      entry.certificate.applicationUris.join(', ') || 'no application URI'
                    }})</span
                  >
                }
              </dd>
              <dt>Blocks</dt>
              <dd>
                @for (link of entry.blocks; track link.linkId) {
                  <a class="one" [routerLink]="['/links', link.linkId]">{{ link.name }}</a>
                } @empty {
                  no link
                }
              </dd>
              <dt>Issuer</dt>
              <dd>{{ entry.certificate.selfIssued ? 'itself' : entry.certificate.issuer }}</dd>
              <dt>Valid until</dt>
              <dd><hinge-moment [at]="entry.certificate.notAfter" show="day" /></dd>
              <dt>Thumbprint</dt>
              <dd><hinge-copy [text]="entry.thumbprint" /></dd>
            </dl>
            <div>
              @if (entry.unusual.length > 0) {
                <h3>Check this first</h3>
                <ul>
                  @for (line of entry.unusual; track line) {
                    <li>{{ line }}</li>
                  }
                </ul>
              }
              @if (entry.differs.length > 0) {
                <h3>Beside the one that we know</h3>
                <table class="ledger">
                  <thead>
                    <tr>
                      <th scope="col"><span class="unseen">What</span></th>
                      <th scope="col">We know</th>
                      <th scope="col">Here</th>
                    </tr>
                  </thead>
                  <tbody>
                    @for (one of entry.differs; track one.what) {
                      <tr>
                        <th scope="row">{{ one.what }}</th>
                        <td>{{ one.known }}</td>
                        <td>{{ one.here }}</td>
                      </tr>
                    }
                  </tbody>
                </table>
              }
              @if (entry.dismissed; as off) {
                <p class="faint">Postponed by {{ off.by }} on <hinge-moment [at]="off.at" />.</p>
              }
            </div>
          </div>
          @if (asking() === entry.holderId + entry.thumbprint) {
            <form class="ask" (ngSubmit)="trust(entry)">
              <hinge-choose
                label="Trust"
                name="what"
                [ngModel]="what()"
                (ngModelChange)="choose(entry, $event)"
                [choices]="trustable(entry)"
              />
              <label class="field"
                >Until <input type="date" name="until" [min]="tomorrow" [(ngModel)]="until" />
                <small class="faint">Empty: for good. A temporary trust ends by itself.</small></label
              >
              <hinge-turns [turns]="turns()" />
              @if (isNotEnough(entry)) {
                <p class="weak">
                  This alone opens no link: more is missing there. The <a routerLink="/trust/plan">Plan</a> has all of
                  it.
                </p>
              }
              <p class="faint">
                {{ entry.holder }} will let it in from then on. This becomes a work order, which is approved before
                anything is changed.
              </p>
              <div class="actions">
                <button type="submit" class="act main">Propose it</button>
                <button type="button" class="act" (click)="asking.set('')">Cancel</button>
              </div>
            </form>
          } @else {
            <div class="actions">
              <button type="button" class="act main" [disabled]="!mayAct()" (click)="ask(entry)">Trust it …</button>
              <button type="button" class="act" [disabled]="!mayAct()" (click)="dismiss(entry)">
                {{ entry.dismissed ? 'Review again' : 'Postpone' }}
              </button>
            </div>
          }
        </article>
      } @empty {
        @if (entries() === null) {
          <div class="waiting" aria-busy="true"></div>
        } @else {
          <p class="empty">
            No certificate is set aside. What servers refuse shows up when their lists are read:
            <a routerLink="/trust">read all lists</a>.
          </p>
        }
      }
    </div>
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
    .ask {
      border-top: 1px solid var(--line);
      padding-top: 0.7rem;
      max-width: 34rem;
    }
  `,
})
export class SetAsidePage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly off = input('', { transform: fromAddress });
  readonly entries = this.store.selectSignal(trustFeature.selectSetAside);
  private readonly waiting = this.store.selectSignal(trustFeature.selectWaitingAside);
  readonly mayAct = may('engineer');
  readonly turns = this.store.selectSignal(trustFeature.selectTurns);
  readonly asking = signal('');
  readonly what = signal<'leaf' | 'issuer'>('leaf');
  readonly trustable = ({ issuer }: SetAsideEntry) => [
    { key: 'leaf', word: 'this certificate' },
    ...(issuer ? [{ key: 'issuer', word: `its issuer ${issuer.name}, and all that it signs` }] : []),
  ];
  readonly until = signal('');
  readonly tomorrow = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);
  readonly shown = computed(() => {
    const fits = lookingFor(this.find());
    return (this.entries() ?? []).filter(
      (entry) =>
        (this.off() !== '' || !entry.dismissed) &&
        fits(entry.holder, entry.certificate.subject, entry.claims, entry.thumbprint),
    );
  });
  readonly headline = computed(() => {
    if (this.entries() === null) return 'Set aside';
    const blocking = (this.entries() ?? []).filter(({ blocks, dismissed }) => blocks.length > 0 && !dismissed).length;
    const waiting = this.waiting();
    if (waiting === 0) return 'No certificate is set aside.';
    return `${counted(waiting, 'certificate')} ${waiting === 1 ? 'is' : 'are'} set aside; ${blocking === 0 ? 'none blocks a link' : `${blocking} ${blocking === 1 ? 'blocks' : 'block'} a link`}.`;
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'setAside' } }));
  }

  nameOf = ({ certificate }: SetAsideEntry): string => commonName(certificate.subject);

  isNotEnough = ({ blocks }: SetAsideEntry): boolean => this.turns()?.length === 0 && blocks.length > 0;

  ask(entry: SetAsideEntry): void {
    this.until.set('');
    this.choose(entry, 'leaf');
    this.asking.set(entry.holderId + entry.thumbprint);
  }

  choose(entry: SetAsideEntry, what: 'leaf' | 'issuer'): void {
    this.what.set(what);
    this.store.dispatch(trustActions.forgetTurns());
    this.store.dispatch(trustActions.load({ request: { view: 'turns', changes: [this.changeFor(entry)] } }));
  }

  dismiss({ holderId, thumbprint, dismissed }: SetAsideEntry): void {
    this.store.dispatch(
      trustActions.command({ command: { does: 'dismiss', holderId, thumbprint, dismissed: !dismissed } }),
    );
  }

  trust(entry: SetAsideEntry): void {
    const change = this.changeFor(entry);
    const name = this.what() === 'issuer' && entry.issuer ? entry.issuer.name : this.nameOf(entry);
    const end = change.until === null ? '' : ` until ${dayOf(change.until)}`;
    const why = `${entry.holder} has set ${this.nameOf(entry)} aside.`;
    const linkIds = entry.blocks.map(({ linkId }) => linkId);
    this.store.dispatch(
      orderActions.propose({
        order: { title: `Let ${entry.holder} trust ${name}${end}`, lines: [{ change, why, linkIds }] },
      }),
    );
  }

  save(): void {
    const header = [
      'set aside by',
      'certificate',
      'thumbprint',
      'says it is',
      'issuer',
      'valid until',
      'blocks',
      'seen since',
    ];
    const rows = this.shown().map((entry) => [
      entry.holder,
      entry.certificate.subject,
      entry.thumbprint,
      entry.claims ?? '',
      entry.certificate.issuer,
      entry.certificate.notAfter,
      entry.blocks.map(({ name }) => name).join('; '),
      entry.since,
    ]);
    saveFile('set-aside.csv', 'text/csv', toCsv(header, rows));
  }

  private changeFor({ holderId, thumbprint, issuer }: SetAsideEntry) {
    return {
      kind: 'list-certificate' as const,
      holderId,
      list: 'trusted' as const,
      thumbprint: this.what() === 'issuer' && issuer ? issuer.thumbprint : thumbprint,
      until: this.until() === '' ? null : new Date(`${this.until()}T00:00:00`).toISOString(),
    };
  }
}
