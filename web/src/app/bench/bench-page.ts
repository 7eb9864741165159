import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { mostWatched } from '@loyal-hinge/contract';
import type { BenchMatches, BenchNode } from '@loyal-hinge/contract';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { fromAddress } from '../shell/page-address';
import { Moment } from '../signs/moment';
import { BenchLinks } from './bench-links';
import { FindNodes } from './find-nodes';
import { NodeColumns } from './node-columns';
import { NodeDetails } from './node-details';
import { NodeEvents } from './node-events';
import { NodePast } from './node-past';
import { NodeReading } from './node-reading';
import { benchActions, benchFeature } from './state';
import { Recordings } from './recordings';
import { watchActions, watchFeature } from './watch-state';
import type { Over } from './watch-state';
import { WatchedValues } from './watched-values';
import { WriteValue } from './write-value';

/** A live session by hand: browse in columns, find by pattern, read, watch, write. */
@Component({
  selector: 'hinge-bench-page',
  imports: [
    BenchLinks,
    FindNodes,
    FirstSteps,
    Moment,
    NodeColumns,
    NodeDetails,
    NodeEvents,
    NodePast,
    NodeReading,
    ProblemNotice,
    Recordings,
    RouterLink,
    WatchedValues,
    WriteValue,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        @if (bench(); as open) {
          <div class="actions">
            <a class="act" [routerLink]="['/links', open.linkId]">To the link</a
            ><a class="act" routerLink="/bench">{{ goesOn() ? 'Open another session' : 'Choose another link' }}</a
            ><button type="button" class="act" (click)="closeSession(open.linkId)">Close the session</button>
          </div>
        }
      </header>
      @if (bench(); as open) {
        <p class="faint secured">{{ open.security }}, signed in as {{ open.user }}</p>
      }
      <hinge-problem [problem]="problem()" />
      @if (others().length > 0) {
        <p class="others">
          Also open:
          @for (other of others(); track other.benchId) {
            <a [routerLink]="['/bench', other.linkId]">{{ other.linkName }}</a>
          }
        </p>
      }
      @if (!linkId()) {
        <hinge-bench-links />
        <hinge-first-steps />
      } @else if (opening()) {
        <p role="status">Checking the steps of the link and opening the session …</p>
      } @else if (bench()) {
        @if (lost(); as state) {
          <p class="lost" role="status">
            <strong>The session was lost at <hinge-moment [at]="state.at" show="time" />.</strong>
            It is being opened again by itself; the values are those from before. {{ state.says }}
          </p>
        }
        <hinge-find-nodes
          [matches]="matches()"
          [busy]="isMatching()"
          [room]="room()"
          (found)="lookFor($event)"
          (watch)="watchAll($event)"
          (left)="letMatchesGo()"
        />
        <div class="browse-head">
          <span class="faint">Arrows move, Enter opens, W watches the {{ isClassic() ? 'item' : 'variable' }}.</span>
          <button type="button" class="plain" (click)="browseAgain()">Browse again</button>
        </div>
        <div class="columns">
          <hinge-node-columns [columns]="columns()" (choose)="choose($event)" (watch)="watchNode($event)" />
          @if (reading(); as read) {
            <hinge-node-reading
              [read]="read"
              [name]="chosen()?.displayName ?? ''"
              [isClassic]="isClassic()"
              (readAgain)="readAgain(read.nodeId)"
              (watch)="watch()"
              (write)="beginWriting(read.nodeId)"
              (describe)="describe(read.nodeId)"
              (lookBack)="lookBack(60)"
            />
          } @else if (chosenObject(); as node) {
            <div class="object">
              <h2>{{ node.displayName }}</h2>
              @if (isClassic()) {
                <p class="faint">A branch: its items are in the next column.</p>
              } @else {
                <p class="mono faint">{{ node.nodeId }}</p>
                <div class="actions">
                  <button type="button" class="act" (click)="listen(node)">Alarms and events</button>
                  <button type="button" class="plain" (click)="describe(node.nodeId)">Attributes and references</button>
                </div>
              }
            </div>
          }
        </div>
        @if (typed(); as node) {
          <hinge-write-value
            [node]="node"
            [name]="chosen()?.displayName ?? ''"
            [busy]="isWriting()"
            [written]="written()"
            [problem]="problem()"
            (write)="write($event)"
            (undo)="undo(node.nodeId)"
            (left)="endWriting()"
          />
        }
        @if (past(); as shown) {
          <hinge-node-past
            [name]="shown.node.displayName"
            [unit]="reading()?.nodeId === shown.node.nodeId ? (reading()?.unit ?? '') : ''"
            [minutes]="shown.minutes"
            [history]="history()"
            (span)="lookBackOn(shown.node, $event)"
            (left)="lookBackNoMore()"
          />
        }
        @if (listening(); as node) {
          <hinge-node-events
            [name]="node.displayName"
            [says]="listeningSays()"
            [skipped]="eventsSkipped()"
            [events]="events()"
            (left)="listenNoMore()"
          />
        }
        @if (described(); as node) {
          <hinge-node-details
            [node]="node"
            [name]="(chosen() ?? chosenObject())?.displayName ?? ''"
            [isClassic]="isClassic()"
            (left)="describeNoMore()"
          />
        }
      } @else {
        <div class="actions">
          <button type="button" class="act main" (click)="openAgain()">Open it again</button>
          <a class="act" [routerLink]="['/links', linkId()]">To the link</a>
          <a class="act" routerLink="/bench">Choose another link</a>
        </div>
      }
      @if (bench() || others().length > 0) {
        <hinge-watched-values />
        <hinge-recordings />
      }
    </div>
  `,
  styles: `
    .columns {
      display: flex;
      border: 1px solid var(--line);
      background: var(--panel);
      min-height: 10rem;
      max-height: 24rem;
      overflow-x: auto;
      margin-bottom: 1.2rem;
    }
    .lost {
      border-left: 4px solid var(--fails);
      padding: 0.4rem 0.9rem;
      background: var(--panel);
      margin: 0 0 0.8rem;
    }
    .browse-head {
      display: flex;
      justify-content: space-between;
      font-size: 0.9rem;
      margin-bottom: 0.2rem;
    }
    .object {
      padding: 0.8rem 1.1rem;
      flex: 1 0 20rem;
    }
    .secured {
      margin: -0.6rem 0 0.8rem;
    }
    .others {
      display: flex;
      flex-wrap: wrap;
      gap: 0.2rem 0.9rem;
      margin: 0 0 0.8rem;
    }
  `,
})
export class BenchPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  /** From the address; empty: nothing is open. */
  readonly linkId = input('', { transform: fromAddress });

  readonly bench = this.store.selectSignal(benchFeature.selectBench);
  readonly isClassic = computed(() => this.bench()?.kind === 'classic');
  readonly opening = this.store.selectSignal(benchFeature.selectOpening);
  readonly problem = this.store.selectSignal(benchFeature.selectProblem);
  readonly columns = this.store.selectSignal(benchFeature.selectColumns);
  readonly reading = this.store.selectSignal(benchFeature.selectReading);
  readonly watched = this.store.selectSignal(watchFeature.selectWatched);
  readonly matches = this.store.selectSignal(benchFeature.selectMatches);
  readonly isMatching = this.store.selectSignal(benchFeature.selectIsMatching);
  readonly described = this.store.selectSignal(benchFeature.selectDescribed);
  readonly typed = this.store.selectSignal(benchFeature.selectTyped);
  readonly isWriting = this.store.selectSignal(benchFeature.selectIsWriting);
  readonly written = this.store.selectSignal(benchFeature.selectWritten);
  private readonly session = this.store.selectSignal(benchFeature.selectFrontSession);
  private readonly benches = this.store.selectSignal(benchFeature.selectBenches);
  /** Sessions that go on because something is watched over them. */
  readonly others = computed(() => this.benches().filter(({ linkId }) => linkId !== this.bench()?.linkId));
  /** null: the session is there. */
  readonly lost = computed(() => {
    const state = this.session()?.state;
    return state?.isLost ? state : null;
  });
  readonly past = this.store.selectSignal(benchFeature.selectPast);
  readonly history = this.store.selectSignal(benchFeature.selectHistory);
  readonly listening = this.store.selectSignal(benchFeature.selectListening);
  readonly events = this.store.selectSignal(benchFeature.selectEvents);
  readonly eventsSkipped = this.store.selectSignal(benchFeature.selectEventsSkipped);
  readonly listeningSays = this.store.selectSignal(benchFeature.selectListeningSays);
  readonly room = computed(() => mostWatched - this.watched().length);
  /** Something is watched over this session: it stays open while another one is looked at. */
  readonly goesOn = computed(() => this.watched().some(({ linkId }) => linkId === this.bench()?.linkId));
  readonly headline = computed(() => {
    const bench = this.bench();
    return bench ? `A live session: ${bench.linkName}` : 'Bench: a live session by hand';
  });
  readonly chosen = computed<BenchNode | null>(() => {
    const nodeId = this.reading()?.nodeId;
    for (const column of this.columns()) for (const node of column.nodes ?? []) if (node.nodeId === nodeId) return node;
    return null;
  });

  /** The object that was chosen last; null: nothing, or something else. */
  readonly chosenObject = computed<BenchNode | null>(() => {
    const chosen = this.columns().findLast((column) => column.chosen !== null);
    const node = chosen?.nodes?.find(({ nodeId }) => nodeId === chosen.chosen);
    return node?.nodeClass === 'Object' ? node : null;
  });

  constructor() {
    effect(() => {
      const linkId = this.linkId();
      untracked(() => {
        this.store.dispatch(linkId === '' ? benchActions.lookAway() : benchActions.open({ linkId }));
      });
    });
  }

  openAgain = (): void => this.store.dispatch(benchActions.open({ linkId: this.linkId() }));

  choose(chosen: { depth: number; node: BenchNode }): void {
    this.store.dispatch(benchActions.choose(chosen));
  }

  readAgain(nodeId: string): void {
    this.store.dispatch(benchActions.read({ nodeId }));
  }

  watch(): void {
    const node = this.chosen();
    if (node) this.watchNode(node, this.reading()?.unit ?? '');
  }

  watchNode(node: BenchNode, unit = ''): void {
    const over = this.over();
    if (over) this.store.dispatch(watchActions.watch({ over, node, unit }));
  }

  watchAll(nodes: BenchMatches['nodes']): void {
    const over = this.over();
    if (over) this.store.dispatch(watchActions.watchAll({ over, nodes }));
    this.letMatchesGo();
  }

  closeSession(linkId: string): void {
    this.store.dispatch(benchActions.closeSessions({ linkIds: [linkId] }));
    void this.router.navigate(['/bench']);
  }

  browseAgain = (): void => this.store.dispatch(benchActions.browseAgain());
  lookBack(minutes: number): void {
    const node = this.chosen();
    if (node) this.lookBackOn(node, minutes);
  }

  lookBackOn = (node: BenchNode, minutes: number): void =>
    this.store.dispatch(benchActions.lookBack({ node, minutes }));
  lookBackNoMore = (): void => this.store.dispatch(benchActions.lookBackNoMore());
  listen = (node: BenchNode): void => this.store.dispatch(benchActions.listen({ node }));
  listenNoMore = (): void => this.store.dispatch(benchActions.listenNoMore());
  lookFor = (pattern: string): void => this.store.dispatch(benchActions.lookForNodes({ pattern }));
  letMatchesGo = (): void => this.store.dispatch(benchActions.letMatchesGo());
  describe = (nodeId: string): void => this.store.dispatch(benchActions.describe({ nodeId }));
  describeNoMore = (): void => this.store.dispatch(benchActions.describeNoMore());
  beginWriting = (nodeId: string): void => this.store.dispatch(benchActions.beginWriting({ nodeId }));
  endWriting = (): void => this.store.dispatch(benchActions.endWriting());
  write = (wish: { typed: string; why: string }): void => this.store.dispatch(benchActions.write(wish));
  undo = (nodeId: string): void => this.store.dispatch(benchActions.undo({ nodeId }));

  private over(): Over | null {
    const bench = this.bench();
    return bench && { linkId: bench.linkId, linkName: bench.linkName };
  }
}
