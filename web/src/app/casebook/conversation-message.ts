import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { ConversationMessage, MessageBytes } from '@loyal-hinge/contract';
import { sizeWords } from '../files/size-words';
import { byteLines, messageTitle } from './conversation-words';

/** One message of a conversation: who said what, and below it, once it is opened, what it holds. */
@Component({
  selector: 'hinge-conversation-message',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[class.server]': "message().from === 'server'", '[class.badly]': "message().outcome === 'badly'" },
  template: `
    <div class="said">
      <button type="button" class="head" [attr.aria-expanded]="isOpen()" (click)="toggled.emit()">
        <span class="who">{{ who() }}</span>&ngsp;
        <span class="what">{{ title() }}</span>
        @if (message().outcome === 'badly' && message().layer === 'message') {
          <span class="bad">failed</span>
        }
      </button>
      @if (message().says && message().layer === 'message') {
        <div>{{ message().says }}</div>
      }
      @if (isOpen()) {
        <dl>
          @for (detail of message().details; track $index) {
            <dt>{{ detail.name }}</dt>
            <dd>{{ detail.value }}</dd>
          }
          @if (message().size > 0) {
            <dt>Size</dt>
            <dd>{{ size() }}</dd>
          }
        </dl>
        @if (message().layer === 'message') {
          @if (message().withheld; as why) {
            <p class="faint">{{ why }}</p>
          } @else if (bytes()?.index === message().index) {
            <pre class="bytes">
@for (line of lines(); track line.at) {<span class="faint">{{ line.at.padStart(5) }}</span>  {{ line.values.padEnd(47) }}  {{ line.letters }}
}</pre>
          } @else {
            <button type="button" class="act" (click)="wanted.emit()">Show the bytes</button>
          }
        }
      }
    </div>
  `,
  styles: `
    .said {
      border-left: 3px solid var(--lake);
      padding-left: 0.7rem;
    }
    :host(.server) .said {
      border-left-color: var(--unknown);
    }
    :host(.badly) .said {
      border-left-color: var(--fails);
    }
    .head {
      all: unset;
      cursor: pointer;
    }
    .head:focus-visible {
      outline: 2px solid currentColor;
    }
    .who {
      color: var(--faint);
      font-size: 0.88rem;
      margin-right: 0.5rem;
    }
    .what {
      font-weight: 600;
    }
    .bad {
      color: var(--fails);
      margin-left: 0.5rem;
    }
    dl {
      display: grid;
      grid-template-columns: max-content minmax(0, 1fr);
      gap: 0.1rem 0.8rem;
      margin: 0.3rem 0;
      font-size: 0.9rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .bytes {
      font-size: 0.78rem;
      max-height: 20rem;
      overflow: auto;
      margin: 0.3rem 0;
    }
  `,
})
export class ConversationMessageRow {
  readonly message = input.required<ConversationMessage>();
  readonly who = input.required<string>();
  readonly isOpen = input(false);
  /** Those that were asked for last, of whichever message. */
  readonly bytes = input<MessageBytes | null>(null);
  readonly toggled = output();
  /** The bytes are asked for. */
  readonly wanted = output();
  readonly title = computed(() => messageTitle(this.message()));
  readonly size = computed(() => sizeWords(this.message().size));
  readonly lines = computed(() => byteLines(this.bytes()?.content ?? ''));
}
