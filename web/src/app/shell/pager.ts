import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';

/** Says which rows of many are shown, and leads to those before and after; nothing where all are. */
@Component({
  selector: 'hinge-pager',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (from() > 0 || shown() < fitting()) {
      <p role="status">
        {{ what() }} {{ from() + 1 }} to {{ end() }} of {{ fitting() }}
        <button type="button" class="act" [disabled]="from() === 0" (click)="go.emit(before())">Previous</button>
        <button type="button" class="act" [disabled]="end() >= fitting()" (click)="go.emit('' + end())">Next</button>
      </p>
    }
  `,
  styles: `
    p {
      display: flex;
      gap: 0.6rem;
      align-items: center;
      margin-top: 0.6rem;
    }
  `,
})
export class Pager {
  /** What the rows are, such as `Servers`. */
  readonly what = input.required<string>();
  /** The place of the first row that is shown, from 0. */
  readonly from = input.required<number>();
  readonly shown = input.required<number>();
  readonly fitting = input.required<number>();
  /** So many are shown at a time. */
  readonly size = input.required<number>();
  /** Where the wished rows begin, as the address has it; empty: at the first. */
  readonly go = output<string>();
  readonly end = computed(() => this.from() + this.shown());
  readonly before = computed(() => String(Math.max(0, this.from() - this.size()) || ''));
}
