import { ChangeDetectionStrategy, Component, input, signal } from '@angular/core';
import type { FormControl } from '@angular/forms';
import { FieldFault } from './field-fault';
import { FileButton } from './file-button';

let fields = 0;

/** A file with its label above it. The form holds what `read` makes of it, such as its text; empty: none was chosen. */
@Component({
  selector: 'hinge-file',
  imports: [FieldFault, FileButton],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field" role="group" [attr.aria-labelledby]="fieldId">
      <span class="label" [id]="fieldId">{{ label() }}</span>
      <hinge-file-button words="Choose a file …" [about]="label()" [accept]="accept()" (taken)="take($event)" />
      <div class="told">
        <small [class.faint]="chosen() === ''">{{ chosen() || given() || 'No file is chosen.' }}</small>
        <hinge-field-fault [of]="control()" />
        <ng-content />
      </div>
    </div>
  `,
})
export class FileField {
  readonly label = input.required<string>();
  readonly control = input.required<FormControl<string>>();
  /** Endings of the files that are offered, such as `.pem,.crt`. */
  readonly accept = input('');
  /** What the form holds already, in words. */
  readonly given = input('');
  readonly read = input<(file: File) => Promise<string>>((file) => file.text());
  readonly fieldId = `file-${(fields += 1)}`;
  /** The name of the file that was chosen. */
  readonly chosen = signal('');

  async take([file]: readonly File[]): Promise<void> {
    if (!file) return;
    this.chosen.set(file.name);
    this.control().setValue(await this.read()(file));
    this.control().markAsTouched();
  }
}
