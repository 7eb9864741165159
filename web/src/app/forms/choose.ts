import { ChangeDetectionStrategy, Component, computed, forwardRef, input, output, signal } from '@angular/core';
import { FormsModule, NG_VALUE_ACCESSOR } from '@angular/forms';
import type { ControlValueAccessor } from '@angular/forms';
import { Select } from 'primeng/select';

/** One of several: a key for the program, a word for the eye. */
export interface Choice<Key extends string = string> {
  readonly key: Key;
  readonly word: string;
}

/** Of more one is found by typing. */
export const few = 10;
let fields = 0;

/** A field that lets one of several be chosen, with its label above it, or beside it within a sentence. */
@Component({
  selector: 'hinge-choose',
  imports: [FormsModule, Select],
  providers: [{ provide: NG_VALUE_ACCESSOR, useExisting: forwardRef(() => Choose), multi: true }],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[class.inline]': 'inline()' },
  template: `
    <span class="label" [id]="labelId">{{ label() }}</span>
    <p-select
      [options]="offered()"
      optionLabel="word"
      optionValue="key"
      [ngModel]="value()"
      (ngModelChange)="choose($event)"
      (onBlur)="touched()"
      [ngModelOptions]="{ standalone: true }"
      [disabled]="off() || disabled()"
      [filter]="choices().length > few || looksElsewhere()"
      [filterBy]="looksElsewhere() ? 'fits' : 'word'"
      (onFilter)="look($event.filter)"
      filterPlaceholder="Words of its name"
      [placeholder]="placeholder()"
      [ariaLabelledBy]="labelId"
      [size]="inline() ? 'small' : undefined"
      [fluid]="!inline()"
      appendTo="body"
    />
    <ng-content />
  `,
  styles: `
    :host {
      display: grid;
      gap: 0.2rem;
      margin-bottom: 0.75rem;
    }
    :host(.inline) {
      display: inline-flex;
      align-items: center;
      gap: 0.4rem;
      margin: 0;
      white-space: nowrap;
    }
    .label {
      font-weight: 600;
    }
    :host(.inline) .label {
      font-weight: inherit;
    }
  `,
})
export class Choose<Key extends string = string> implements ControlValueAccessor {
  readonly label = input.required<string>();
  readonly choices = input.required<readonly Choice<Key>[]>();
  /** Shown while nothing is chosen. */
  readonly placeholder = input('');
  /** There are more than are here: they are looked for by words where they come from. */
  readonly looksElsewhere = input(false);
  readonly looked = output<string>();
  /** Within a sentence, such as the filter line. */
  readonly inline = input(false);
  readonly disabled = input(false);
  readonly few = few;
  readonly labelId = `choose-${(fields += 1)}`;
  readonly value = signal<Key | null>(null);
  readonly off = signal(false);
  /** The part wants to be able to write into the list that it is given. */
  readonly offered = computed(() => this.choices().map((choice) => ({ ...choice, fits: this.typed() })));
  /** What was looked for elsewhere fits as it is. */
  private readonly typed = signal('');
  private tell: (value: Key) => void = () => undefined;
  touched: () => void = () => undefined;

  choose(value: Key): void {
    this.value.set(value);
    this.tell(value);
  }

  look(typed: string): void {
    if (!this.looksElsewhere()) return;
    this.typed.set(typed);
    this.looked.emit(typed);
  }

  writeValue(value: Key | null): void {
    this.value.set(value);
  }

  registerOnChange(tell: (value: Key) => void): void {
    this.tell = tell;
  }

  registerOnTouched(touched: () => void): void {
    this.touched = touched;
  }

  setDisabledState(isDisabled: boolean): void {
    this.off.set(isDisabled);
  }
}

/** Words that are their own keys. */
export const asChoices = <Key extends string>(words: readonly Key[]): readonly Choice<Key>[] =>
  words.map((word) => ({ key: word, word }));
