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
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { BenchNode } from '@loyal-hinge/contract';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { fromAddress } from '../shell/page-address';
import { BenchLinks } from './bench-links';
import { NodeColumns } from './node-columns';
import { NodeReading } from './node-reading';
import { benchActions, benchFeature } from './state';
import { WatchList } from './watch-list';

/** A live session by hand: browse in columns, read, watch. */
@Component({
  selector: 'hinge-bench-page',
  imports: [BenchLinks, FirstSteps, NodeColumns, NodeReading, ProblemNotice, RouterLink, WatchList],
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
        <hinge-bench-links />
        <hinge-first-steps />
      } @else if (opening()) {
        <p role="status">Checking the steps of the link and opening the session …</p>
      } @else if (bench()) {
        <div class="columns">
          <hinge-node-columns [columns]="columns()" (choose)="choose($event)" />
          @if (reading(); as read) {
            <hinge-node-reading
              [read]="read"
              [name]="chosen()?.displayName ?? ''"
              (readAgain)="readAgain(read.nodeId)"
              (watch)="watch()"
            />
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
    h2 {
      margin-bottom: 0.5rem;
    }
  `,
})
export class BenchPage {
  private readonly store = inject(Store);

  /** From the address; empty: nothing is open. */
  readonly linkId = input('', { transform: fromAddress });

  readonly bench = this.store.selectSignal(benchFeature.selectBench);
  readonly opening = this.store.selectSignal(benchFeature.selectOpening);
  readonly problem = this.store.selectSignal(benchFeature.selectProblem);
  readonly columns = this.store.selectSignal(benchFeature.selectColumns);
  readonly reading = this.store.selectSignal(benchFeature.selectReading);
  readonly watched = this.store.selectSignal(benchFeature.selectWatched);
  readonly headline = computed(() => {
    const bench = this.bench();
    return bench ? `A live session: ${bench.linkName}` : 'Bench: a live session by hand';
  });
  readonly chosen = computed<BenchNode | null>(() => {
    const nodeId = this.reading()?.nodeId;
    for (const column of this.columns()) for (const node of column.nodes ?? []) if (node.nodeId === nodeId) return node;
    return null;
  });

  constructor() {
    effect(() => {
      const linkId = this.linkId();
      untracked(() => {
        this.store.dispatch(benchActions.close());
        if (linkId !== '') this.store.dispatch(benchActions.open({ linkId }));
      });
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(benchActions.close()));
  }

  choose(chosen: { depth: number; node: BenchNode }): void {
    this.store.dispatch(benchActions.choose(chosen));
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
