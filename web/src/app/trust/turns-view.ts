import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { LinkTurn } from '@loyal-hinge/core';

/** Which links a change would turn, reckoned on paper. */
@Component({
  selector: 'hinge-turns',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (turns(); as all) {
      @for (turn of all; track turn.linkId) {
        <p class="turn">
          <strong [class]="turn.after === 'trusted' ? 'holds' : 'fails'">{{ turn.name }}</strong>
          would change from {{ turn.before }} to {{ turn.after }}.
          @if (turn.after !== 'trusted') {
            <span class="faint">{{ turn.why }}</span>
          }
        </p>
      } @empty {
        <p class="faint">No link would change.</p>
      }
    } @else {
      <p class="faint">Calculating which links would change …</p>
    }
  `,
  styles: `
    .turn {
      border-left: 3px solid var(--line);
      padding-left: 0.7rem;
    }
  `,
})
export class TurnsView {
  readonly turns = input.required<readonly LinkTurn[] | null>();
}
