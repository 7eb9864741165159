import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { PassageChange } from '@loyal-hinge/core';
import { may } from '../session/may';
import { CopyText } from '../signs/copy-text';

/** A change of a firewall’s rules: what to type there, what takes it back, and a work order for it. */
@Component({
  selector: 'hinge-rule-change',
  imports: [CopyText],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="change">
      <span>
        <button type="button" class="act" [disabled]="!mayPropose()" (click)="proposed.emit(change())">
          Propose a work order
        </button>
      </span>
      @if (change().commands.length > 0) {
        <span>{{ words() }}</span>
        @for (command of change().commands; track $index) {
          <hinge-copy [text]="command" />
        }
        <span class="faint">To undo it:</span>
        @for (command of change().undo; track $index) {
          <hinge-copy [text]="command" />
        }
      } @else {
        <span>{{ byHandWords() }}</span>
        @for (rule of come(); track $index) {
          <hinge-copy [text]="rule" />
        }
      }
    </div>
  `,
  styles: `
    .change {
      display: grid;
      gap: 0.15rem;
      margin: 0.3rem 0;
      max-width: 100%;
    }
  `,
})
export class RuleChange {
  readonly change = input.required<PassageChange>();
  readonly proposed = output<PassageChange>();
  readonly mayPropose = may('engineer');
  readonly words = computed(() =>
    this.change().kind === 'replace-rules' ? 'To be typed at the firewall:' : 'The smallest change:',
  );
  /** Rules that come to stand there. */
  readonly come = computed(() => {
    const change = this.change();
    return change.kind === 'replace-rules' ? change.by : change.rules;
  });
  readonly byHandWords = computed(() => {
    if (this.change().kind !== 'replace-rules') return 'The smallest rule, to be entered there:';
    return this.come().length === 0
      ? 'Take the rule away at the firewall by hand.'
      : 'At the firewall, by hand, these rules take the place of the one above:';
  });
}
