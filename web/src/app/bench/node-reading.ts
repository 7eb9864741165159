import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { ToggleSwitch } from 'primeng/toggleswitch';
import { byNumber } from '@loyal-hinge/core';
import type { BenchReading } from '@loyal-hinge/contract';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';

/** The value of a node as it was read last, and what the session may do with it. */
@Component({
  selector: 'hinge-node-reading',
  imports: [CopyText, FormsModule, Moment, ToggleSwitch],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>{{ name() }}</h2>
    @switch (read().shape.kind) {
      @case ('switch') {
        <p class="value">
          <p-toggleswitch [ngModel]="isOn()" [disabled]="true" [ariaLabel]="name()" /> {{ isOn() ? 'true' : 'false' }}
        </p>
      }
      @case ('list') {
        <p class="value long">{{ countWords() }}</p>
        <ol class="mono" start="0">
          @for (element of elements(); track $index) {
            <li>{{ element }}</li>
          }
        </ol>
      }
      @case ('structure') {
        <dl class="facts">
          @for (field of fields(); track field.name) {
            <dt>{{ field.name }}</dt>
            <dd class="mono">{{ field.value }}</dd>
          }
        </dl>
      }
      @default {
        <p class="value" [class.long]="(read().value ?? '').length > 24">{{ plain() }} {{ read().unit }}</p>
      }
    }
    <dl class="facts">
      <dt>{{ isClassic() ? 'Quality' : 'Status' }}</dt>
      <dd>{{ read().status }}</dd>
      <dt>Type</dt>
      <dd>{{ read().dataType ?? 'none' }}</dd>
      <dt>{{ isClassic() ? 'Time' : 'Source time' }}</dt>
      <dd>
        @if (read().sourceTimestamp; as at) {
          <hinge-moment [at]="at" />
        } @else {
          none
        }
      </dd>
      @if (!isClassic()) {
        <dt>Server time</dt>
        <dd>
          @if (read().serverTimestamp; as at) {
            <hinge-moment [at]="at" />
          } @else {
            none
          }
        </dd>
      }
      <dt>You may</dt>
      <dd>{{ read().may.join(', ') || 'nothing' }}</dd>
      <dt>{{ isClassic() ? 'Item id' : 'Node id' }}</dt>
      <dd><hinge-copy [text]="read().nodeId" /></dd>
    </dl>
    <div class="actions">
      <button type="button" class="act" (click)="readAgain.emit()">Read again</button
      ><button type="button" class="act main" (click)="watch.emit()">Watch</button
      ><button type="button" class="act" [disabled]="!read().mayWrite" (click)="write.emit()">Write …</button>
      @if (!isClassic()) {
        <button type="button" class="act" [disabled]="!read().mayLookBack" (click)="lookBack.emit()">History …</button>
      }
      <button type="button" class="plain" (click)="describe.emit()">
        {{ isClassic() ? 'Properties' : 'Attributes and references' }}
      </button>
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
    ol {
      max-height: 9rem;
      overflow-y: auto;
      margin: 0 0 0.6rem;
      padding-left: 3rem;
      font-size: 0.9rem;
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
  /** Of classic Data Access: there is one time, and no history. */
  readonly isClassic = input(false);
  readonly isOn = computed(() => {
    const { shape } = this.read();
    return shape.kind === 'switch' && shape.isOn;
  });
  readonly elements = computed(() => {
    const { shape } = this.read();
    return shape.kind === 'list' ? shape.elements : [];
  });
  readonly fields = computed(() => {
    const { shape } = this.read();
    return shape.kind === 'structure' ? shape.fields : [];
  });
  readonly countWords = computed(() => {
    const { shape } = this.read();
    if (shape.kind !== 'list') return '';
    const more = shape.count - shape.elements.length;
    return `${byNumber(shape.count, '# element', '# elements')}${more > 0 ? `, the first ${shape.elements.length}` : ''}`;
  });
  /** A name of an enumeration, with its number; or the value as it is. */
  readonly plain = computed(() => {
    const { shape, value } = this.read();
    return shape.kind === 'named' ? `${shape.name} (${value ?? ''})` : (value ?? 'no value');
  });
  readonly readAgain = output();
  readonly watch = output();
  readonly write = output();
  readonly describe = output();
  readonly lookBack = output();
}
