import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { FormControl } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isLinkNeed } from '@loyal-hinge/core';
import type { PassageChange } from '@loyal-hinge/core';
import type { Firewall, FirewallRule, RuleEdits } from '@loyal-hinge/contract';
import { TextField } from '../forms/text-field';
import { orderActions } from '../orders/state';
import { CopyText } from '../signs/copy-text';
import { isStopped, purposeWords, sayWorth, verdictWords } from './passage-words';
import { RuleChange } from './rule-change';
import { passageActions, passageFeature } from './state';

/** One rule of a firewall: who needs it, what nobody needs of it, what would turn were it another one, and the change for it. */
@Component({
  selector: 'hinge-rule-look',
  imports: [CopyText, RouterLink, RuleChange, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="below">
      <p>{{ sayWorth(row()) }}</p>
      @if (row().links.length > 0) {
        <p>
          {{ row().worth === 'stops' ? 'Stops:' : 'Needed by:' }}
          @for (link of row().links; track link.id; let last = $last) {
            <a [routerLink]="['/passage']" [queryParams]="{ link: link.id }">{{ link.name }}</a>{{ last ? '' : ', ' }}
          }
        </p>
      }
      @for (crossing of row().withoutConduit; track crossing.from + crossing.to) {
        <p class="weak">
          It lets {{ crossing.from }} open connections to {{ crossing.to }}, and there is no conduit for that.
        </p>
      }
      @if (row().needed.length > 0) {
        <h3>What is needed of it</h3>
        <ul class="mono">
          @for (line of row().needed; track line) {
            <li>{{ line }}</li>
          }
        </ul>
      }
      @if (row().unneeded.length > 0) {
        <h3>What nobody needs of it</h3>
        <ul class="mono">
          @for (line of row().unneeded; track line) {
            <li>{{ line }}</li>
          }
          @if (row().moreUnneeded > 0) {
            <li>and {{ row().moreUnneeded }} more</li>
          }
        </ul>
      }
      @if (row().narrowed.length > 0) {
        <h3>Rules that let through just what is needed</h3>
        @for (rule of row().narrowed; track rule) {
          <p><hinge-copy [text]="rule" /></p>
        }
      }
      <hinge-text label="Try another text" [control]="changed" />
      <div class="actions">
        <button type="button" class="act main" [disabled]="isTrying()" (click)="tryChanged()">Try it</button>
        @if (row().narrowed.length > 0) {
          <button type="button" class="act" [disabled]="isTrying()" (click)="tryNarrowed()">
            Try the narrow rules instead
          </button>
        }
        <button type="button" class="act" [disabled]="isTrying()" (click)="tryWithout()">Try without it</button>
        @if (isTrying()) {
          <span class="faint" role="status">Judging all links …</span>
        }
      </div>
      @if (turns(); as told) {
        <div role="status">
          @for (turn of told.turns; track $index) {
            <p>
              <a [routerLink]="['/passage']" [queryParams]="{ link: turn.linkId }">{{ turn.link }}</a>,
              {{ purposeWords[turn.purpose] }}: {{ verdictWords[turn.before] }} →
              <strong>{{ verdictWords[turn.after] }}</strong>
            </p>
          } @empty {
            <p>Nothing that the plant needs would be judged otherwise.</p>
          }
          @if (cutsOff()) {
            <p class="weak">It would cut off what is needed, and is not proposed.</p>
          } @else if (changeTried(); as change) {
            @if (row().worth === 'unneeded' || row().worth === 'too-wide') {
              <p class="faint">
                Only what links, services and devices of this plant need is known here. Ask who else uses it before you
                change it.
              </p>
            }
            <hinge-rule-change [change]="change" (proposed)="propose($event)" />
          }
        </div>
      }
    </div>
  `,
  styles: `
    .below {
      padding: 0.4rem 0 0.8rem;
    }
    .below p {
      margin: 0.2rem 0;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    h3 {
      margin: 0.7rem 0 0.2rem;
      font-size: 1rem;
    }
    ul {
      margin: 0;
      padding-left: 1.2rem;
    }
  `,
})
export class RuleLook {
  private readonly store = inject(Store);
  readonly row = input.required<FirewallRule>();
  readonly firewall = input.required<Firewall>();
  readonly changed = new FormControl('', { nonNullable: true });
  readonly turns = this.store.selectSignal(passageFeature.selectShownTurns);
  private readonly turnsView = this.store.selectSignal(passageFeature.selectTurns);
  readonly isTrying = computed(() => this.turnsView().isLoading);
  /** What was tried last. */
  private readonly tried = signal<'another text' | 'narrow' | 'without' | null>(null);
  readonly sayWorth = sayWorth;
  readonly purposeWords = purposeWords;
  readonly verdictWords = verdictWords;
  private readonly at = computed(() => {
    const { table, chain, index } = this.row();
    return { table, chain, index };
  });
  private readonly text = computed(() => this.row().text);
  /** The change that was just tried on paper, where it leaves just what is needed. */
  readonly changeTried = computed((): PassageChange | null => {
    const { worth, tightened } = this.row();
    return this.tried() === (worth === 'too-wide' ? 'narrow' : 'without') ? tightened : null;
  });
  /** What was tried lets through no longer what it must. */
  readonly cutsOff = computed(
    () =>
      this.changeTried() !== null &&
      (this.turns()?.turns ?? []).some(({ before, after }) => !isStopped(before) && isStopped(after)),
  );

  constructor() {
    effect(() => {
      const text = this.text();
      untracked(() => this.changed.setValue(text));
    });
  }

  tryChanged(): void {
    const text = this.changed.value.trim();
    if (text !== '') this.try('another text', [{ kind: 'replace', at: this.at(), text }]);
  }

  tryWithout(): void {
    this.try('without', [{ kind: 'remove', at: this.at() }]);
  }

  /** Each goes before those that were put there already. */
  tryNarrowed(): void {
    const at = this.at();
    const narrow = this.row().narrowed.map((text) => ({ kind: 'add' as const, at, text }));
    this.try('narrow', [{ kind: 'remove', at }, ...narrow]);
  }

  propose(change: PassageChange): void {
    const { index, chain, worth, links } = this.row();
    const does = worth === 'too-wide' ? 'Narrow' : 'Take away';
    const line = {
      change,
      why: sayWorth(this.row()),
      linkIds: links.flatMap(({ id }) => (isLinkNeed(id) ? [id] : [])),
    };
    this.store.dispatch(
      orderActions.propose({
        order: { title: `${does} rule ${index + 1} of ${chain} at ${this.firewall().name}`, lines: [line] },
      }),
    );
  }

  private try(what: 'another text' | 'narrow' | 'without', edits: RuleEdits['edits']): void {
    this.tried.set(what);
    this.store.dispatch(passageActions.try({ firewallId: this.firewall().id, edits }));
  }
}
