import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { BenchReading } from '@loyal-hinge/contract';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';

/** The value of a node as it was read last, and what the session may do with it. */
@Component({
  selector: 'hinge-node-reading',
  imports: [CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>{{ name() }}</h2>
    <p class="value" [class.long]="(read().value ?? '').length > 24">
      {{ read().value ?? 'no value' }} {{ read().unit }}
    </p>
    <dl class="facts">
      <dt>Status</dt>
      <dd>{{ read().status }}</dd>
      <dt>Type</dt>
      <dd>{{ read().dataType ?? 'none' }}</dd>
      <dt>Source time</dt>
      <dd>
        @if (read().sourceTimestamp; as at) {
          <hinge-moment [at]="at" />
        } @else {
          none
        }
      </dd>
      <dt>Server time</dt>
      <dd>
        @if (read().serverTimestamp; as at) {
          <hinge-moment [at]="at" />
        } @else {
          none
        }
      </dd>
      <dt>You may</dt>
      <dd>{{ read().userAccessLevel.join(', ') || 'nothing' }}</dd>
      <dt>Node id</dt>
      <dd><hinge-copy [text]="read().nodeId" /></dd>
    </dl>
    <div class="actions">
      <button type="button" class="act" (click)="readAgain.emit()">Read again</button
      ><button type="button" class="act main" (click)="watch.emit()">Watch</button
      ><button
        type="button"
        class="act"
        [disabled]="!read().userAccessLevel.includes('CurrentWrite')"
        (click)="write.emit()"
      >
        Write …</button
      ><button
        type="button"
        class="act"
        [disabled]="!read().userAccessLevel.includes('HistoryRead')"
        (click)="lookBack.emit()"
      >
        History …</button
      ><button type="button" class="plain" (click)="describe.emit()">Attributes and references</button>
    </div>
  `,
  styles: `
    :host {
      padding: 0.8rem 1.1rem;
      flex: 1 0 20rem;
      width: 20rem;
      overflow-y: auto;
    }
    .value {
      font: 600 1.6rem/1.2 var(--mono);
      margin: 0.3rem 0;
      overflow-wrap: anywhere;
    }
    .value.long {
      font-size: 0.92rem;
      font-weight: 400;
    }
  `,
})
export class NodeReading {
  readonly read = input.required<BenchReading>();
  readonly name = input.required<string>();
  readonly readAgain = output();
  readonly watch = output();
  readonly write = output();
  readonly describe = output();
  readonly lookBack = output();
}
