import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { InputText } from 'primeng/inputtext';
import { valueOf } from '../shell/page-address';
import { HingeSign } from '../signs/hinge-sign';
import { benchActions, benchFeature } from './state';

/** Links on which a live session can be opened, looked for by words. */
@Component({
  selector: 'hinge-bench-links',
  imports: [HingeSign, InputText, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p>
      Choose the link on which to open a live session. It is opened as the link’s own client, with its certificate or
      its account.
    </p>
    <label
      >Show
      <input
        pInputText
        type="search"
        placeholder="any link or machine"
        aria-label="Words to look for"
        [value]="find()"
        (input)="look(valueOf($event))"
    /></label>
    <ul class="choice">
      @for (row of choices(); track row.id) {
        <li>
          <a class="open" [routerLink]="['/bench', row.id]"><hinge-sign [state]="row.state" /> {{ row.name }}</a>
        </li>
      } @empty {
        @if (found()) {
          <li class="faint">
            {{ find() === '' ? 'No link is sound or strained now.' : 'No link that works matches these words.' }}
            <a routerLink="/links">Open the links</a> first.
          </li>
        }
      }
    </ul>
    @if (more() > 0) {
      <p class="faint">{{ more() }} more match: type words of their names.</p>
    }
  `,
  styles: `
    ul {
      list-style: none;
      padding: 0;
      max-width: 34rem;
    }
    label {
      display: block;
      margin: 0.6rem 0;
    }
    .choice .open {
      display: block;
      padding: 0.5rem 0.8rem;
      border: 1px solid var(--line);
      margin-bottom: -1px;
      background: var(--panel);
      text-decoration: none;
      color: var(--ink);
    }
    .choice .open:hover {
      background: var(--wash);
    }
  `,
})
export class BenchLinks {
  private readonly store = inject(Store);
  readonly found = this.store.selectSignal(benchFeature.selectChoices);
  readonly find = signal('');
  readonly valueOf = valueOf;
  readonly choices = computed(() => this.found()?.rows ?? []);
  /** Links that match, and are not shown. */
  readonly more = computed(() => (this.found()?.fitting ?? 0) - this.choices().length);

  constructor() {
    this.look('');
  }

  look(find: string): void {
    this.find.set(find);
    this.store.dispatch(benchActions.lookForLinks({ find }));
  }
}
