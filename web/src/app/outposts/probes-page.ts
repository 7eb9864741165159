import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { Probe, ProbesView } from '@loyal-hinge/contract';
import { passagePlaces } from '../passage/passage-places';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { OutpostActs } from './outpost-acts';
import { OutpostSheet } from './outpost-forms';
import { ProbeForm } from './probe-form';
import { outpostActions, outpostsFeature } from './state';
import { outpostTones, outpostWords } from './outpost-words';

/** Probes: where they stand, what they may dial, and when they were last heard. */
@Component({
  selector: 'hinge-probes-page',
  imports: [Ledger, LedgerCell, Moment, OutpostActs, OutpostSheet, PlaceHead, ProbeForm, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit('new')">Add a probe</button>
      </hinge-place-head>
      @if (view(); as known) {
        @if (known.door.port === null) {
          <p class="notice">No probe can reach this server. {{ known.door.says }}</p>
        }
        @if (editing() !== null) {
          <hinge-probe-form [row]="edited()" />
        }
        <hinge-outpost-sheet [outposts]="outposts()" />
        <hinge-ledger
          [columns]="columns"
          [rows]="known.probes"
          [idOf]="idOf"
          [open]="opened()"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any probe or machine"
          fileName="probes"
        >
          <span empty
            >This server checks every link itself, from where it stands. A probe is a small process on another machine
            that checks the links of clients there: then a check sees what they see.</span
          >
          <ng-template hingeCell="name" [hingeCellOf]="known.probes" let-row>
            <button
              type="button"
              class="plain"
              [attr.aria-expanded]="row.outpost.id === opened()"
              (click)="toggle(row)"
            >
              {{ row.outpost.name }}
            </button>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.probes" let-row>
            <strong [class]="tones[row.outpost.state]">{{ words[row.outpost.state] }}</strong>
          </ng-template>
          <ng-template hingeCell="heard" [hingeCellOf]="known.probes" let-row>
            @if (row.outpost.heardAt; as at) {
              <hinge-moment [at]="at" show="near" />
            } @else {
              never
            }
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="known.probes" let-row>
            <button type="button" class="act" [disabled]="!mayChange()" (click)="edit(row.outpost.id)">Change …</button>
            <button type="button" class="act" [disabled]="!mayChange()" (click)="remove(row)">Remove …</button>
          </ng-template>
          <ng-template hingeCell="below" [hingeCellOf]="known.probes" let-row>
            <hinge-outpost-acts [outpost]="row.outpost" />
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class ProbesPage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  /** The probe whose certificate is looked after. */
  readonly open = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(outpostsFeature.selectProbesShown);
  readonly problem = this.store.selectSignal(outpostsFeature.selectProblem);
  readonly editing = this.store.selectSignal(outpostsFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly words = outpostWords;
  readonly tones = outpostTones;
  readonly headline = computed(() => headlineOf(this.view()));
  readonly outposts = computed(() => this.view()?.probes.map(({ outpost }) => outpost) ?? []);
  readonly edited = computed(() => this.view()?.probes.find(({ outpost }) => outpost.id === this.editing()) ?? null);
  /** One that asks for its certificate is open by itself. */
  readonly opened = computed(() => {
    const asks = this.outposts().find(({ state }) => state === 'asks' || state === 'new');
    return this.open() === '' ? (asks?.id ?? '') : this.open();
  });
  readonly idOf = ({ outpost: { id } }: Probe): string => id;
  readonly columns: readonly Column<Probe>[] = [
    { key: 'name', title: 'Probe', text: ({ outpost }) => outpost.name },
    { key: 'machine', title: 'Runs on', text: ({ outpost }) => outpost.machine },
    {
      key: 'for',
      title: 'Checks links of clients on',
      text: ({ machines }) => machines.map(({ name }) => name).join(', ') || 'no machine yet',
    },
    { key: 'links', title: 'Links', text: ({ links }) => String(links), order: ({ links }) => links },
    {
      key: 'ranges',
      title: 'May dial',
      text: ({ ranges }) => (ranges === null ? 'not known' : ranges.join(', ') || 'nothing'),
    },
    { key: 'state', title: 'Process', text: ({ outpost }) => outpostWords[outpost.state] },
    { key: 'heard', title: 'Last heard', text: ({ outpost }) => outpost.heardAt ?? 'never' },
  ];

  constructor() {
    this.store.dispatch(outpostActions.showProbes());
    effect((onCleanup) => onCleanup(() => untracked(() => this.store.dispatch(outpostActions.leave()))));
  }

  edit(id: string): void {
    this.store.dispatch(outpostActions.edit({ id }));
  }

  toggle({ outpost: { id } }: Probe): void {
    this.go({ open: this.opened() === id ? '-' : id });
  }

  remove({ outpost: { id, name }, links }: Probe): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: `It is told to stop asking. ${links === 0 ? 'No link is checked by it.' : `This server checks ${byNumber(links, 'its link', 'its # links')} itself from then on.`}`,
      does: 'Remove',
      run: () => this.store.dispatch(outpostActions.command({ command: { does: 'remove probe', id, name } })),
    });
  }
}

function headlineOf(view: ProbesView | null): string {
  if (!view) return 'Probes';
  const { length } = view.probes;
  if (length === 0) return 'This server checks every link itself.';
  const asking = view.probes.filter(({ outpost }) => outpost.state === 'asks').length;
  const away = view.probes.filter(({ outpost }) => outpost.state === 'away').length;
  const first = byNumber(length, '1 probe', '# probes');
  if (asking > 0)
    return `${first}, and ${byNumber(asking, '1 asks for its certificate', '# ask for their certificates')}.`;
  if (away > 0) return `${first}, and ${byNumber(away, '1 is not connected', '# are not connected')}.`;
  const links = view.probes.reduce((sum, probe) => sum + probe.links, 0);
  return `${first}; ${byNumber(links, '1 link is checked from there', '# links are checked from there')}.`;
}
