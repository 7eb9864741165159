import { ChangeDetectionStrategy, Component, input, signal } from '@angular/core';
import { Telling } from '../shell/telling';

/** A technical value in the monospaced face; a click copies it. */
@Component({
  selector: 'hinge-copy',
  imports: [Telling],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<button type="button" class="plain mono" hingeTelling="Copy" (click)="copy($event)">
    {{ text() }}
    @if (outcome(); as said) {
      <span class="faint" role="status"> {{ said }}</span>
    }
  </button>`,
  styles: `
    button {
      color: inherit;
      font-family: var(--mono);
      font-size: 0.86em;
      overflow-wrap: anywhere;
    }
    button:hover {
      text-decoration: underline dotted;
    }
  `,
})
export class CopyText {
  readonly text = input.required<string>();
  readonly outcome = signal<'copied' | 'not copied: select it and press Ctrl+C' | null>(null);

  async copy(event: Event): Promise<void> {
    event.stopPropagation();
    this.outcome.set(await copied(this.text()));
    setTimeout(() => this.outcome.set(null), 2500);
  }
}

/** Browsers give the clipboard only to pages over TLS or on this computer, and only where a person allows it. */
async function copied(text: string): Promise<'copied' | 'not copied: select it and press Ctrl+C'> {
  try {
    await navigator.clipboard.writeText(text);
    return 'copied';
  } catch {
    return 'not copied: select it and press Ctrl+C';
  }
}
