import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { toCsv } from '@loyal-hinge/core';
import type { ConversationMessage } from '@loyal-hinge/contract';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { saveFile } from '../files/save-file';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { CasebookHead } from './casebook-head';
import { ConversationMessageRow } from './conversation-message';
import { ConversationStrip } from './conversation-strip';
import { messageTitle, passedWords, protocolWords } from './conversation-words';
import { casebookActions, casebookFeature } from './state';

const choices = [
  { key: 'all', word: 'everything' },
  { key: 'message', word: 'what was said' },
  { key: 'badly', word: 'what failed' },
] as const;

/** What two machines said to each other on one connection: a story, message by message. */
@Component({
  selector: 'hinge-conversation-page',
  imports: [
    CasebookHead,
    ChoiceField,
    ConversationMessageRow,
    ConversationStrip,
    FilterLine,
    Moment,
    RouterLink,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()">
        @if (known()?.linkId; as linkId) {
          <a class="act" [routerLink]="['/links', linkId]">To the link</a>
        }
      </hinge-casebook-head>
      @if (known(); as story) {
        <p>
          {{ protocolWords[story.protocol] }}{{ story.user ? ', signed in as ' + story.user : '' }}:
          <hinge-moment [at]="story.start" />, within {{ lasted() }}.
          @if (story.linkName) {
            It belongs to <a [routerLink]="['/links', story.linkId]">{{ story.linkName }}</a>.
          } @else {
            It belongs to no link of the plant.
          }
          <span class="faint">{{ story.file }}, byte {{ story.position }}.</span>
        </p>
        @for (note of story.notes; track note) {
          <p class="note">{{ note }}</p>
        }
        <hinge-conversation-strip
          [messages]="shown()"
          [client]="names().client"
          [server]="names().server"
          [chosen]="chosen()"
          (choose)="open($event)"
        />
        <hinge-filter-line
          what="any message, name, words"
          [find]="find()"
          (findChange)="go({ find: $event })"
          (save)="save()"
        >
          <hinge-choice
            word="of"
            label="Which messages"
            [choices]="choices"
            [chosen]="only() || 'all'"
            (chose)="go({ only: $event === 'all' ? '' : $event })"
          />
          <span end class="faint">{{ shown().length }} of {{ story.messages.length }}</span>
        </hinge-filter-line>
        <ol class="story">
          @for (message of shown(); track message.index) {
            <li [class]="message.from">
              <span class="passed mono">{{ passed(message) }}</span>
              <hinge-conversation-message
                [message]="message"
                [who]="nameOf(message)"
                [isOpen]="chosen() === message.index"
                [bytes]="bytes()"
                (toggled)="open(message.index)"
                (wanted)="showBytes(message.index)"
              />
            </li>
          } @empty {
            <li class="faint">There is no such message.</li>
          }
        </ol>
        @if (story.leftOut > 0) {
          <p class="faint">{{ story.leftOut }} more messages are not shown.</p>
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    hinge-conversation-strip {
      display: block;
      margin: 0.8rem 0 1rem;
    }
    .note {
      margin: 0.2rem 0;
    }
    .story {
      list-style: none;
      padding: 0;
      margin: 0.6rem 0;
    }
    li {
      display: grid;
      grid-template-columns: 5.5rem minmax(0, 34rem);
      gap: 0.8rem;
      padding: 0.18rem 0;
    }
    li.server {
      grid-template-columns: 5.5rem minmax(0, 34rem);
      padding-left: 26rem;
    }
    li.network {
      padding-left: 13rem;
    }
    .passed {
      color: var(--faint);
      font-size: 0.85rem;
      text-align: right;
      padding-top: 0.2rem;
    }
    @media (max-width: 70rem) {
      li.server,
      li.network {
        padding-left: 2rem;
      }
    }
  `,
})
export class ConversationPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly evidenceId = input.required<string>();
  readonly position = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  readonly known = this.store.selectSignal(casebookFeature.selectShownConversation);
  readonly bytes = this.store.selectSignal(casebookFeature.selectShownBytes);
  readonly problem = this.store.selectSignal(casebookFeature.selectProblem);
  readonly chosen = signal<number | null>(null);
  readonly names = computed(() => {
    const story = this.known();
    const nameOf = (end: { name: string | null; address: string } | undefined): string =>
      end?.name ?? end?.address ?? '';
    return { client: nameOf(story?.client), server: nameOf(story?.server) };
  });
  readonly headline = computed(() => {
    const story = this.known();
    if (!story) return 'Conversation';
    return `${this.names().client} to ${this.names().server}, port ${story.server.port}: ${story.says}`;
  });
  readonly lasted = computed(() => {
    const story = this.known();
    return story ? passedWords(Date.parse(story.end) - Date.parse(story.start)) : '';
  });
  readonly shown = computed(() => {
    const [only, words] = [this.only(), this.find().toLowerCase()];
    return (this.known()?.messages ?? []).filter((message) => {
      if (only === 'message' && message.layer !== 'message') return false;
      if (only === 'badly' && message.outcome !== 'badly') return false;
      if (words === '') return true;
      const text = [
        this.nameOf(message),
        messageTitle(message),
        message.says,
        ...message.details.map(({ value }) => value),
      ];
      return text.join(' ').toLowerCase().includes(words);
    });
  });
  readonly choices = choices;
  readonly protocolWords = protocolWords;

  constructor() {
    effect(() => {
      const wanted = { evidenceId: this.evidenceId(), position: this.position() };
      untracked(() => {
        this.chosen.set(null);
        this.store.dispatch(casebookActions.listen(wanted));
      });
    });
  }

  nameOf({ from }: ConversationMessage): string {
    return from === 'network' ? 'The network' : this.names()[from];
  }

  passed({ at, index }: ConversationMessage): string {
    const first = this.known()?.messages[0]?.at ?? at;
    return index === 0 ? 'at first' : passedWords(at - first);
  }

  open(index: number): void {
    this.chosen.update((chosen) => (chosen === index ? null : index));
  }

  showBytes(index: number): void {
    const [evidenceId, position] = [this.evidenceId(), this.position()];
    this.store.dispatch(casebookActions.lookAtBytes({ evidenceId, position, index }));
  }

  save(): void {
    const rows = this.shown().map((message) => [
      new Date(message.at).toISOString(),
      this.nameOf(message),
      messageTitle(message),
      message.says,
      message.details.map(({ name, value }) => `${name}: ${value}`).join('; '),
      String(message.size),
    ]);
    const head = ['When', 'Who', 'What', 'In words', 'Details', 'Bytes'];
    saveFile('conversation.csv', 'text/csv', toCsv(head, rows));
  }
}
