import { ChangeDetectionStrategy, Component, input, signal } from '@angular/core';

/** A technical value in the monospaced face; a click copies it. */
@Component({
  selector: 'hinge-copy',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<button type="button" class="plain mono" [title]="copied() ? 'copied' : 'Copy'" (click)="copy($event)">
    {{ text() }}
    @if (copied()) {
      <span class="faint"> copied</span>
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
  readonly copied = signal(false);

  async copy(event: Event): Promise<void> {
    event.stopPropagation();
    await navigator.clipboard?.writeText(this.text()).catch(() => undefined);
    this.copied.set(true);
    setTimeout(() => this.copied.set(false), 1500);
  }
}
