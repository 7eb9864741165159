import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Dialog } from 'primeng/dialog';
import {
  capabilityOf,
  changedBy,
  givesCertificate,
  isDcomChange,
  isTrustChange,
  keysOfDcomChanges,
  registryExportText,
  registryFileBytes,
  wayBackOf,
  wayWords,
} from '@loyal-hinge/core';
import type { ChangeCapability } from '@loyal-hinge/core';
import type { OrderLine } from '@loyal-hinge/contract';
import { saveBlob } from '../files/save-blob';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter } from '../shell/page-address';
import { VerdictBar } from '../signs/verdict-bar';
import type { OrderCommand } from './state';
import { Telling } from '../shell/telling';

/** The lines of a work order: before and after side by side, what came of each, and the way back. */
@Component({
  selector: 'hinge-order-lines',
  imports: [Telling, Dialog, RouterLink, Ledger, LedgerCell, ChoiceField, VerdictBar],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns"
      [rows]="shown()"
      [idOf]="idOf"
      [find]="find()"
      [plain]="lines().length <= few"
      what="any change or reason"
      fileName="work-order"
      empty="No line is in this state."
      (findChange)="go({ find: $event })"
    >
      <hinge-choice
        word="that is"
        label="State of the lines"
        [choices]="choices"
        [chosen]="standing()"
        (chose)="go({ standing: $event })"
      />
      <ng-template hingeCell="before" [hingeCellOf]="shown()" let-line>
        <span class="told">{{ line.before }}</span>
      </ng-template>
      <ng-template hingeCell="after" [hingeCellOf]="shown()" let-line>
        <span class="told">{{ line.after }}</span>
      </ng-template>
      <ng-template hingeCell="change" [hingeCellOf]="shown()" let-line>
        {{ line.title }} <span class="faint why">{{ line.why }}</span>
      </ng-template>
      <ng-template hingeCell="way" [hingeCellOf]="shown()" let-line>
        <span [hingeTelling]="ways[line.way]">{{ shortWays[line.way] }}</span>
        @if (line.restart) {
          <span class="weak why">restart</span>
        }
      </ng-template>
      <ng-template hingeCell="state" [hingeCellOf]="shown()" let-line>
        <div class="state">
          <hinge-bar [verdict]="bars[line.state]" [working]="line.state === 'claimed'" />
          <strong [class]="bars[line.state]">{{ words[line.state] }}</strong>
          @if (line.says) {
            <span class="faint why">{{ line.says }}</span>
          }
        </div>
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="shown()" let-line>
        @if (line.state === 'by hand') {
          @if (placeOf(line); as place) {
            <a class="plain" [routerLink]="place.at" [queryParams]="place.query">{{ place.words }}</a>
          } @else {
            <button type="button" class="plain" (click)="saveFile(line)">Save the file</button>
          }
          <button
            type="button"
            class="plain"
            [disabled]="!mayAct()"
            (click)="ask.emit({ does: 'done by hand', position: line.position })"
          >
            Mark as done
          </button>
        }
        @if (mayUndo(line)) {
          <button
            type="button"
            class="plain"
            [disabled]="!mayAct() || busy()"
            [hingeTelling]="line.undo"
            (click)="undoing.set(line)"
          >
            Undo …
          </button>
        }
      </ng-template>
    </hinge-ledger>
    <p-dialog
      header="Undo this line?"
      [visible]="undoing() !== null"
      (visibleChange)="$event || undoing.set(null)"
      [modal]="true"
      [style]="{ width: '38rem' }"
      [breakpoints]="{ '800px': '96vw' }"
    >
      @if (undoing(); as line) {
        <dl class="facts">
          <dt>Where</dt>
          <dd>{{ line.target }}</dd>
          <dt>Now</dt>
          <dd class="told">{{ line.after }}</dd>
          <dt>Then</dt>
          <dd class="told">{{ line.before }}</dd>
          <dt>Way</dt>
          <dd>{{ ways[line.way] }}{{ line.restart ? '; it may restart for it' : '' }}</dd>
        </dl>
        <p class="faint">{{ line.undo }} {{ undoWords(line) }}</p>
        <div class="actions">
          <button type="button" class="act main" (click)="undo(line.position)">Undo</button>
          <button type="button" class="act" (click)="undoing.set(null)">Cancel</button>
        </div>
      }
    </p-dialog>
  `,
  styles: `
    .why {
      display: block;
      font-size: 0.86rem;
    }
    .told {
      white-space: pre-line;
      overflow-wrap: anywhere;
    }
    .state {
      min-width: 14rem;
    }
    .state hinge-bar {
      vertical-align: -0.1rem;
      margin-right: 0.35rem;
    }
    a.plain,
    button.plain {
      display: block;
      margin-left: auto;
      white-space: nowrap;
    }
  `,
})
export class OrderLines {
  readonly lines = input.required<readonly OrderLine[]>();
  readonly find = input.required<string>();
  /** How the lines that are shown stand; empty: all. */
  readonly standing = input.required<string>();
  readonly mayAct = input.required<boolean>();
  readonly busy = input.required<boolean>();
  readonly ask = output<OrderCommand>();
  /** The line whose undoing is asked about. */
  readonly undoing = signal<OrderLine | null>(null);
  readonly go = addressWriter();
  readonly few = 5;
  readonly columns = columns;
  readonly ways = { ...wayWords, 'by hand': 'by a person on the machine: nothing sets it from here' } as const;
  readonly shortWays = shortWays;
  readonly bars = bars;
  readonly words = words;
  readonly choices = [
    { key: '', word: 'in any state' },
    ...Object.entries(words).map(([key, word]) => ({ key, word })),
  ];
  readonly shown = computed(() =>
    this.lines().filter(({ state }) => this.standing() === '' || state === this.standing()),
  );

  undo(position: number): void {
    this.undoing.set(null);
    this.ask.emit({ does: 'undo', position });
  }

  idOf = ({ position }: OrderLine): string => String(position);
  /** Where somebody finds what a line by hand needs; null: it is a file. */
  placeOf({ change, target }: OrderLine): Place | null {
    const by = changedBy(change);
    switch (capabilityOf(change)) {
      case 'entry':
        return { at: ['/entry'], query: { find: target }, words: 'See its doors' };
      case 'passage':
        return { at: ['/passage/firewalls', by], words: 'See its rules' };
      case 'tunnels':
        return 'tunnelId' in change ? { at: ['/passage/tunnels', change.tunnelId], words: 'See the tunnel' } : null;
      case 'accounts':
        return { at: ['/entry/identities', by], words: 'See its accounts' };
      case 'trust':
        return isTrustChange(change) && givesCertificate(change)
          ? { at: ['/trust/authority'], words: 'Sign its request' }
          : { at: ['/trust/lists', by], words: 'Export the bundle' };
      case 'field':
        return { at: ['/links'], query: { find: target }, words: 'See its links' };
      case 'dcom':
        return null;
    }
  }

  /** One file for all lines of the same machine, as they are carried out together. */
  saveFile(line: OrderLine): void {
    const machineId = changedBy(line.change);
    const changes = this.lines()
      .map(({ change }) => change)
      .filter(isDcomChange)
      .filter((change) => change.machineId === machineId);
    const bytes = registryFileBytes(registryExportText(keysOfDcomChanges(changes).apply));
    saveBlob(`${machineId}-work-order.reg`, new Blob([Uint8Array.from(bytes)]));
  }

  undoWords = (line: OrderLine): string =>
    alwaysByHand.has(capabilityOf(line.change))
      ? 'It is proposed as a work order of its own.'
      : 'It is done at once, or proposed if this plant requires a second person.';
  mayUndo = ({ state, change, way, wrote }: OrderLine): boolean =>
    wrote &&
    (state === 'done' || state === 'proved') &&
    ['held', 'push', 'by hand'].includes(way) &&
    wayBackOf(change) !== null;
}

interface Place {
  readonly at: readonly string[];
  readonly query?: Readonly<Record<string, string>>;
  readonly words: string;
}

/** What nothing sets from here: its way back is a work order of its own. */
const alwaysByHand: ReadonlySet<ChangeCapability> = new Set(['entry', 'dcom', 'passage', 'tunnels', 'field']);

const shortWays = {
  held: 'held here',
  push: 'push',
  files: 'bundle',
  unknown: 'by hand',
  'by hand': 'on the machine',
} as const;
const bars = {
  waiting: 'unknown',
  claimed: 'unknown',
  'by hand': 'weak',
  done: 'weak',
  proved: 'holds',
  failed: 'fails',
  undoing: 'unknown',
  undone: 'not-needed',
} as const;
const words = {
  waiting: 'waiting',
  claimed: 'being carried out',
  'by hand': 'for a person',
  done: 'done, not proved yet',
  proved: 'proved',
  failed: 'failed',
  undoing: 'being undone',
  undone: 'undone',
} as const;

const columns: readonly Column<OrderLine>[] = [
  { key: 'position', title: 'No.', text: ({ position }) => String(position), order: ({ position }) => position },
  { key: 'change', title: 'Change', text: ({ title, why }) => `${title}. ${why}` },
  { key: 'target', title: 'Where', text: ({ target }) => target, onlySaved: true },
  { key: 'before', title: 'Before', text: ({ before }) => before },
  { key: 'after', title: 'After', text: ({ after }) => after },
  {
    key: 'way',
    title: 'Way',
    text: ({ way, restart }) => [shortWays[way], ...(restart ? ['restart'] : [])].join(', '),
  },
  { key: 'state', title: 'State', text: ({ state, says }) => `${words[state]}${says ? `: ${says}` : ''}` },
];
