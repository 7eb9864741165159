import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { Dialog } from 'primeng/dialog';
import { glossary } from './glossary';
import { Keys } from './keys';

/** The keys of the page that is shown, and the words of the product. */
@Component({
  selector: 'hinge-keys-dialog',
  imports: [Dialog],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Keys and words"
      [pt]="read"
      [visible]="true"
      (visibleChange)="closed.emit()"
      [modal]="true"
      [dismissableMask]="true"
      [style]="{ width: '30rem' }"
    >
      <dl class="keys">
        @for (key of keys.help(); track key.keys) {
          <dt>
            <kbd>{{ key.keys }}</kbd>
          </dt>
          <dd>{{ key.does }}</dd>
        }
      </dl>
      <h3>Words</h3>
      <dl class="words">
        @for (entry of glossary; track entry[0]) {
          <dt>{{ entry[0] }}</dt>
          <dd>{{ entry[1] }}</dd>
        }
      </dl>
    </p-dialog>
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: 6rem 1fr;
      gap: 0.4rem;
      margin: 0;
    }
    h3 {
      margin: 1rem 0 0.4rem;
    }
    .words {
      gap: 0.15rem 0.4rem;
    }
    .words dt {
      font-weight: 600;
    }
    dd {
      margin: 0;
    }
  `,
})
export class KeysDialog {
  readonly keys = inject(Keys);
  readonly glossary = glossary;
  readonly closed = output();
  /** Longer than the page is high: who has no mouse scrolls it by its focus. */
  readonly read = { content: { tabindex: '0' } };
}
