import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { fromAddress, valueOf } from '../shell/page-address';
import { Store } from '@ngrx/store';
import type { BenchNode } from '@loyal-hinge/contract';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { CopyText } from '../signs/copy-text';
import { HingeSign } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { WatchList } from './watch-list';
import { benchActions, benchFeature } from './state';

/** A live session by hand: browse in columns, read, watch. */
@Component({
  selector: 'hinge-bench-page',
  imports: [RouterLink, ProblemNotice, HingeSign, Moment, CopyText, FirstSteps, WatchList],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        @if (bench(); as open) {
          <div class="actions">
            <span class="faint">{{ open.security }}, signed in as {{ open.user }}</span
            ><a class="act" [routerLink]="['/links', open.linkId]">To the link</a
            ><a class="act" routerLink="/bench">Close the session</a>
          </div>
        }
      </header>
      <hinge-problem [problem]="problem()" />
      @if (!linkId()) {
        <p>
          Choose the link on which to open a live session. It is opened as the link’s own client, with its certificate
          and its user.
        </p>
        <label class="look"
          >Look for
          <input
            type="search"
            placeholder="any link or machine"
            aria-label="Words to look for"
            [value]="find()"
            (input)="look(valueOf($event))"
        /></label>
        <ul class="choice">
          @for (row of choices(); track row.id) {
            <li>
              <a [routerLink]="['/bench', row.id]"><hinge-sign [state]="row.state" /> {{ row.name }}</a>
            </li>
          } @empty {
            @if (found()) {
              <li class="faint">
                {{ find() === '' ? 'No link is sound or strained now.' : 'No link that works matches these words.' }}
                <a routerLink="/links">Look at the links</a> first.
              </li>
            }
          }
        </ul>
        @if (more() > 0) {
          <p class="faint">{{ more() }} more match: type words of their names.</p>
        }
        <hinge-first-steps />
      } @else if (opening()) {
        <p role="status">Checking the steps of the link and opening the session …</p>
      } @else if (bench()) {
        <div class="columns" aria-label="Nodes">
          @for (column of columns(); track column.parent; let depth = $index) {
            @if (column.nodes === null || column.nodes.length > 0) {
              <ul [attr.aria-busy]="column.nodes === null">
                @for (node of column.nodes ?? []; track node.nodeId) {
                  <li>
                    <button
                      type="button"
                      [class.here]="column.chosen === node.nodeId"
                      [attr.aria-pressed]="column.chosen === node.nodeId"
                      (click)="choose(depth, node)"
                    >
                      {{ node.displayName }} <span class="faint">{{ marks[node.nodeClass] }}</span>
                    </button>
                  </li>
                } @empty {
                  <li class="faint">Reading …</li>
                }
              </ul>
            }
          }
          @if (reading(); as read) {
            <section class="reading">
              <h2>{{ chosenName() }}</h2>
              <p class="value" [class.long]="(read.value ?? '').length > 24">
                {{ read.value ?? 'no value' }} {{ read.unit }}
              </p>
              <dl>
                <dt>Status</dt>
                <dd>{{ read.status }}</dd>
                <dt>Type</dt>
                <dd>{{ read.dataType ?? 'none' }}</dd>
                <dt>Source time</dt>
                <dd>
                  @if (read.sourceTimestamp) {
                    <hinge-moment [at]="read.sourceTimestamp" />
                  } @else {
                    none
                  }
                </dd>
                <dt>Server time</dt>
                <dd>
                  @if (read.serverTimestamp) {
                    <hinge-moment [at]="read.serverTimestamp" />
                  } @else {
                    none
                  }
                </dd>
                <dt>You may</dt>
                <dd>{{ read.userAccessLevel.join(', ') || 'nothing' }}</dd>
                <dt>Node id</dt>
                <dd><hinge-copy [text]="read.nodeId" /></dd>
              </dl>
              <div class="actions">
                <button type="button" class="act" (click)="readAgain(read.nodeId)">Read again</button
                ><button type="button" class="act main" (click)="watch()">Watch</button>
              </div>
            </section>
          }
        </div>
        <h2>Watched</h2>
        <hinge-watch-list [watched]="watched()" (unwatch)="unwatch($event)" />
      } @else {
        <a class="act" [routerLink]="['/links', linkId()]">To the link</a>
      }
    </div>
  `,
  styles: `
    .columns {
      display: flex;
      border: 1px solid var(--line);
      background: var(--panel);
      height: 21rem;
      overflow-x: auto;
      margin-bottom: 1.2rem;
    }
    .columns ul {
      list-style: none;
      margin: 0;
      padding: 0.3rem 0;
      min-width: 12.5rem;
      border-right: 1px solid var(--line);
      overflow-y: auto;
    }
    .columns button:not(.act) {
      all: unset;
      box-sizing: border-box;
      cursor: pointer;
      display: block;
      width: 100%;
      padding: 0.24rem 0.8rem;
    }
    .columns ul button:hover {
      background: var(--wash);
    }
    .columns ul button:focus-visible {
      outline: 2px solid var(--lake);
      outline-offset: -2px;
    }
    .columns ul button.here:not(.act) {
      background: var(--wash);
      box-shadow: inset 3px 0 var(--weak);
      font-weight: 600;
    }
    .reading {
      padding: 0.8rem 1.1rem;
      flex: 1 0 20rem;
      width: 20rem;
      overflow-y: auto;
    }
    .value {
      font: 600 1.6rem/1.2 var(--mono);
      margin: 0.3rem 0;
      overflow-wrap: anywhere;
    }
    .value.long {
      font-size: 0.92rem;
      font-weight: 400;
    }
    dl {
      display: grid;
      grid-template-columns: 6.5rem 1fr;
      gap: 0.2rem 0.6rem;
      margin: 0 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
    }
    .choice {
      list-style: none;
      padding: 0;
      max-width: 34rem;
    }
    .choice a {
      display: block;
      padding: 0.5rem 0.8rem;
      border: 1px solid var(--line);
      margin-bottom: -1px;
      background: var(--panel);
      text-decoration: none;
      color: var(--ink);
    }
    .look {
      display: block;
      margin: 0.6rem 0;
    }
    .choice a:hover {
      background: var(--wash);
    }
    h2 {
      margin-bottom: 0.5rem;
    }
  `,
})
export class BenchPage {
  private readonly store = inject(Store);

  /** From the address; empty: nothing is open. */
  readonly linkId = input('', { transform: fromAddress });

  readonly marks = { Object: '›', Variable: '', Method: 'method', other: '' } as const;
  readonly bench = this.store.selectSignal(benchFeature.selectBench);
  readonly opening = this.store.selectSignal(benchFeature.selectOpening);
  readonly problem = this.store.selectSignal(benchFeature.selectProblem);
  readonly columns = this.store.selectSignal(benchFeature.selectColumns);
  readonly reading = this.store.selectSignal(benchFeature.selectReading);
  readonly watched = this.store.selectSignal(benchFeature.selectWatched);
  readonly found = this.store.selectSignal(benchFeature.selectChoices);
  readonly find = signal('');
  readonly valueOf = valueOf;
  readonly choices = computed(() => this.found()?.rows ?? []);
  /** Links that fit, and are not shown. */
  readonly more = computed(() => (this.found()?.fitting ?? 0) - this.choices().length);
  readonly headline = computed(() => {
    const bench = this.bench();
    return bench ? `A live session: ${bench.linkName}` : 'Bench: a live session by hand';
  });
  private readonly chosen = computed<BenchNode | null>(() => {
    const nodeId = this.reading()?.nodeId;
    for (const column of this.columns()) for (const node of column.nodes ?? []) if (node.nodeId === nodeId) return node;
    return null;
  });
  readonly chosenName = computed(() => this.chosen()?.displayName ?? '');

  constructor() {
    this.look('');
    effect(() => {
      const linkId = this.linkId();
      untracked(() => {
        this.store.dispatch(benchActions.close());
        if (linkId !== '') this.store.dispatch(benchActions.open({ linkId }));
      });
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(benchActions.close()));
  }

  look(find: string): void {
    this.find.set(find);
    this.store.dispatch(benchActions.lookForLinks({ find }));
  }

  choose(depth: number, node: BenchNode): void {
    this.store.dispatch(benchActions.choose({ depth, node }));
  }

  readAgain(nodeId: string): void {
    this.store.dispatch(benchActions.read({ nodeId }));
  }

  watch(): void {
    const node = this.chosen();
    if (node) this.store.dispatch(benchActions.watch({ node, unit: this.reading()?.unit ?? '' }));
  }

  unwatch(nodeId: string): void {
    this.store.dispatch(benchActions.unwatch({ nodeId }));
  }
}
