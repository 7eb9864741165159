import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Checkbox } from 'primeng/checkbox';

let ticks = 0;

/** Something to tick within a sentence, such as the filter line. */
@Component({
  selector: 'hinge-tick',
  imports: [Checkbox, FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-checkbox
      [binary]="true"
      [inputId]="tickId"
      [disabled]="disabled()"
      [ngModel]="on()"
      (ngModelChange)="turned.emit($event)"
      size="small"
    />
    <label [for]="tickId" [class.unseen]="quiet()">{{ words() }}</label>
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 0.4rem;
      white-space: nowrap;
    }
  `,
})
export class Tick {
  readonly words = input.required<string>();
  readonly on = input.required<boolean>();
  /** What stands beside it says enough: the words are for those who don’t see it. */
  readonly quiet = input(false);
  readonly disabled = input(false);
  readonly turned = output<boolean>();
  readonly tickId = `tick-${(ticks += 1)}`;
}
