import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { HolderDetail } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { Moment } from '../signs/moment';
import { trustActions } from './state';

/** What changed in the lists of one application, newest first. */
@Component({
  selector: 'hinge-holder-history',
  imports: [Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>What changed</h2>
    <ol class="history">
      @for (entry of told().history; track entry.id) {
        <li>
          <hinge-moment [at]="entry.at" />&ngsp;<span class="faint">{{ entry.says }} {{ entry.actor }}</span>
          @for (line of entry.added; track line) {
            <div class="holds">added: {{ line }}</div>
          }
          @for (line of entry.removed; track line) {
            <div class="fails">removed: {{ line }}</div>
          }
          @if ($first) {
            <button type="button" class="plain" [disabled]="!mayAct()" (click)="stepBack(entry.id)">
              Undo this change …
            </button>
          }
        </li>
      } @empty {
        <li class="faint">No change was seen since these lists were first read.</li>
      }
    </ol>
  `,
  styles: `
    h2 {
      margin-top: 1.2rem;
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
export class HolderHistory {
  private readonly store = inject(Store);
  readonly told = input.required<HolderDetail>();
  readonly mayAct = may('engineer');

  stepBack(entry: number): void {
    const id = this.told().party.applicationId;
    this.store.dispatch(trustActions.command({ command: { does: 'step back', id, entry } }));
  }
}
