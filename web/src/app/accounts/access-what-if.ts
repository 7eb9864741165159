import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import { byNumber, listed, sayAccessChange } from '@loyal-hinge/core';
import type { AccessChange } from '@loyal-hinge/core';
import type { AccessTurns } from '@loyal-hinge/contract';
import type { View } from '../http/view';
import { Waiting } from '../shell/waiting';
import { nameWords } from './account-words';

/** Changes of a server’s roles and users that are tried out: which links would be given other roles. */
@Component({
  selector: 'hinge-access-what-if',
  imports: [RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="sheet" aria-label="What if">
      <h2>What these changes would do</h2>
      @if (drafts().length === 0) {
        <p class="faint">
          Add or remove a rule or a user: what becomes of the links is shown here. Nothing is changed at the server
          before a work order is approved and carried out.
        </p>
      } @else {
        <ul class="drafts">
          @for (draft of said(); track draft.title) {
            <li>
              <span>{{ draft.title }}</span>
              <button type="button" class="plain" (click)="undo.emit(draft.change)">Undo</button>
            </li>
          }
        </ul>
        @if (turns().shown; as known) {
          <p role="status">
            <strong [class]="losers() > 0 ? 'weak' : 'holds'">{{ turnWords() }}</strong>
          </p>
          <ul>
            @for (turn of known.turns; track turn.link?.id) {
              <li>
                @if (turn.link; as link) {
                  <a [routerLink]="['/links', link.id]">{{ link.name }}</a>
                } @else {
                  <strong class="fails">Loyal Hinge, as administrator</strong>
                }
                <span class="faint"> as {{ nameOf(turn.userName) }}</span>
                @if (turn.gains.length > 0) {
                  <span class="line">is given {{ listOf(turn.gains) }}</span>
                }
                @if (turn.loses.length > 0) {
                  <span class="line weak"
                    >loses {{ listOf(turn.loses) }}{{ turn.writes ? ', and needs to write' : '' }}</span
                  >
                }
              </li>
            }
          </ul>
        } @else if (!turns().problem) {
          <hinge-waiting [rows]="2" />
        }
        <div class="actions">
          <button type="button" class="act main" [disabled]="!mayPropose()" (click)="propose.emit()">
            Propose a work order
          </button>
          <button type="button" class="act" (click)="clear.emit()">Clear</button>
        </div>
      }
    </section>
  `,
  styles: `
    ul {
      margin: 0 0 0.6rem;
      padding-left: 1.1rem;
    }
    .drafts {
      list-style: none;
      padding: 0;
    }
    .drafts li {
      display: flex;
      justify-content: space-between;
      gap: 0.8rem;
      align-items: baseline;
    }
    .line {
      display: block;
      font-size: 0.92rem;
    }
    h2 {
      margin-bottom: 0.5rem;
    }
  `,
})
export class AccessWhatIf {
  readonly server = input.required<string>();
  readonly drafts = input.required<readonly AccessChange[]>();
  readonly turns = input.required<View<AccessTurns>>();
  readonly mayPropose = input.required<boolean>();
  readonly undo = output<AccessChange>();
  readonly clear = output();
  readonly propose = output();
  readonly nameOf = nameWords;
  readonly listOf = (names: readonly string[]): string => listed(names);
  readonly said = computed(() =>
    this.drafts().map((change) => ({ change, title: sayAccessChange(change, this.server()).title })),
  );
  private readonly ofLinks = computed(() => (this.turns().shown?.turns ?? []).filter(({ link }) => link !== null));
  readonly losers = computed(() => this.ofLinks().filter(({ loses }) => loses.length > 0).length);
  readonly turnWords = computed(() => {
    const turns = this.ofLinks();
    const losers = this.losers();
    if (turns.length === 0) return 'No link is given another role by this.';
    return losers === 0
      ? byNumber(turns.length, '# link is given more.', '# links are given more.')
      : byNumber(losers, '# link loses a role.', '# links lose a role.');
  });
}
