import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  untracked,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, listed, sayDoor, toCsv } from '@loyal-hinge/core';
import { doorChoices } from '@loyal-hinge/contract';
import type { DoorTurns } from '@loyal-hinge/contract';
import { saveFile } from '../files/save-file';
import { ProblemNotice } from '../http/problem-notice';
import { orderActions, ordersFeature } from '../orders/state';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { Pager } from '../shell/pager';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { DoorWhatIfPanel } from './door-what-if';
import { endpointWords, weaknessWords } from './door-words';
import { EntryHead } from './entry-head';
import { closedKeys, rulesIn, turned } from './rules';
import { ServerDoorsView } from './server-doors';
import { entryActions, entryFeature } from './state';

const pageSize = 50;
const choiceWords = {
  weak: 'a weak door',
  unused: 'a weak door that nobody uses',
  unseen: 'doors never seen',
} as const;

/** The doors of all servers: which are weak, who comes in by each, and what would be if some were closed. */
@Component({
  selector: 'hinge-entry-page',
  imports: [ChoiceField, DoorWhatIfPanel, EntryHead, FilterLine, Pager, ServerDoorsView, Waiting, ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" />
      <hinge-filter-line
        [find]="find()"
        what="any server, door or link"
        (findChange)="go({ find: $event, from: '' })"
        (save)="save()"
      >
        <hinge-choice
          word="with"
          label="Which servers"
          [choices]="choices"
          [chosen]="only() || 'all'"
          (chose)="go({ only: $event === 'all' ? '' : $event, from: '' })"
        />
      </hinge-filter-line>
      <hinge-problem [problem]="problem()" />
      @if (doors(); as known) {
        <div class="with-what-if">
          <div>
            @for (server of known.servers; track server.id) {
              <hinge-server-doors [server]="server" [closed]="closed()" (turn)="turn($event)" />
            } @empty {
              <p class="empty">
                @if (find() !== '' || only() !== '') {
                  Nothing matches.
                  <button type="button" class="act" (click)="go({ find: '', only: '', from: '' })">Show all</button>
                } @else {
                  This page shows by which doors (policy, mode and kind of user) clients get into each server. It fills
                  as soon as there are servers in the plant and one of their links was checked.
                }
              </p>
            }
            <hinge-pager
              what="Servers"
              [from]="known.from"
              [shown]="known.servers.length"
              [fitting]="known.fitting"
              [size]="pageSize"
              (go)="go({ from: $event })"
            />
          </div>
          <hinge-door-what-if
            [rules]="rules()"
            [turns]="turns()"
            [closing]="closing()"
            [servers]="serverChoices()"
            [mayPropose]="mayPropose()"
            (closeIdle)="go({ unneeded: 'all' })"
            (shut)="turn($event)"
            (open)="go({ open: turnedIn(open(), $event) })"
            (undo)="$event.to === 'open' ? go({ open: turnedIn(open(), $event.key) }) : turn($event.key)"
            (clear)="go({ close: '', open: '', unneeded: '' })"
            (propose)="propose($event)"
          />
        </div>
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
})
export class EntryPageView {
  private readonly store = inject(Store);
  /** Why a work order could not be proposed; null: it was, or nobody did. */
  readonly problem = this.store.selectSignal(ordersFeature.selectProblem);
  private readonly asks = inject(Ask);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  readonly from = input('', { transform: fromAddress });
  readonly close = input('', { transform: fromAddress });
  readonly open = input('', { transform: fromAddress });
  readonly unneeded = input('', { transform: fromAddress });
  readonly doors = this.store.selectSignal(entryFeature.selectDoors);
  readonly closing = this.store.selectSignal(entryFeature.selectClosing);
  readonly turns = this.store.selectSignal(entryFeature.selectTurns);
  readonly mayPropose = may('engineer');
  readonly turnedIn = turned;
  readonly pageSize = pageSize;
  readonly choices = [
    { key: 'all', word: 'any doors' },
    ...doorChoices.map((key) => ({ key, word: choiceWords[key] })),
  ];
  private readonly inAddress = computed(() => ({
    close: this.close(),
    open: this.open(),
    unneeded: this.unneeded(),
  }));
  readonly closed = computed(() => closedKeys(this.inAddress(), this.closing()));
  readonly rules = computed(() => rulesIn(this.inAddress(), this.closing()));
  readonly serverChoices = computed(() =>
    (this.doors()?.servers ?? []).map(({ id, name }) => ({ key: id, word: name })),
  );
  readonly headline = computed(() => {
    const counts = this.doors()?.counts;
    if (!counts) return 'Entry';
    if (counts.servers === 0) return 'There is no server yet.';
    if (counts.unseen === counts.servers) return 'No server’s doors have been seen yet: check a link.';
    const clauses = [
      counts.weakDoors === 0 ? 'No door is weak' : byNumber(counts.weakDoors, '# door is weak', '# doors are weak'),
      ...(counts.weakDoors === 0
        ? []
        : [
            counts.closable === 0
              ? 'none can be closed without cutting a link off'
              : byNumber(
                  counts.closable,
                  '# can be closed without cutting a link off',
                  '# can be closed without cutting a link off',
                ),
          ]),
      ...(counts.unseen === 0 ? [] : [byNumber(counts.unseen, '# server was never seen', '# servers were never seen')]),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    this.store.dispatch(orderActions.begin());
    effect(() => {
      const [find, only, from] = [this.find(), doorChoices.find((one) => one === this.only()), Number(this.from())];
      const wish = { ...(find && { find }), ...(only && { only }), ...(from > 0 && { from }), most: pageSize };
      untracked(() => this.store.dispatch(entryActions.showDoors({ wish })));
    });
    this.store.dispatch(entryActions.showClosing());
    effect(() => {
      const rules = this.rules();
      untracked(() => this.store.dispatch(entryActions.tryOut({ rules })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(entryActions.leave()));
  }

  turn(key: string): void {
    this.go({ close: turned(this.close(), key) });
  }

  propose(turns: DoorTurns): void {
    const { cutOff } = turns.counts;
    const run = (): void => this.proposeNow(turns);
    if (cutOff === 0) return run();
    this.asks.first({
      title: 'Propose this although links are cut off?',
      says: byNumber(
        cutOff,
        `# link would be cut off: ${cutOffNames(turns)}. Nothing is changed before the order is approved and carried out.`,
        `# links would be cut off: ${cutOffNames(turns)}. Nothing is changed before the order is approved and carried out.`,
      ),
      does: 'Propose',
      run,
    });
  }

  private proposeNow({ lines, counts }: DoorTurns): void {
    const names = [...new Set(lines.map(({ server }) => server))];
    const where = names.length <= 3 ? listed(names) : byNumber(names.length, '# server', '# servers');
    const why =
      counts.cutOff === 0
        ? 'Tried out on the page Entry: no link is cut off by it.'
        : byNumber(
            counts.cutOff,
            'Tried out on the page Entry: # link is cut off by it.',
            'Tried out on the page Entry: # links are cut off by it.',
          );
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Change doors on ${where}`,
          lines: lines.map(({ change, linkIds }) => ({ change, why, linkIds })),
        },
      }),
    );
  }

  save(): void {
    const header = ['server', 'machine', 'zone', 'policy and mode', 'kind of user', 'weaknesses', 'links', 'door'];
    const rows = (this.doors()?.servers ?? []).flatMap(({ name, machine, zone, doors }) =>
      doors.map((door) => [
        name,
        machine,
        zone,
        endpointWords(door),
        door.token,
        door.weaknesses.map((weakness) => weaknessWords[weakness]).join('; '),
        door.links.map((link) => link.name).join('; '),
        sayDoor(door),
      ]),
    );
    saveFile('doors.csv', 'text/csv', toCsv(header, rows));
  }
}

const mostNamed = 5;

function cutOffNames({ turns }: DoorTurns): string {
  const names = turns.filter(({ turn }) => turn === 'cut off').map(({ name }) => name);
  return names.length <= mostNamed ? listed(names) : `${names.slice(0, mostNamed).join(', ')} and others`;
}
