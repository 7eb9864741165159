import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { snapshotWish } from '@loyal-hinge/contract';
import { contractForm } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { rightsActions } from './state';

/** Asks of which nodes a snapshot of rights is to be. */
@Component({
  selector: 'hinge-snapshot-form',
  imports: [FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Take a snapshot of ' + server()"
      does="Take snapshot"
      [form]="form"
      (sent)="send()"
      (left)="left.emit()"
    >
      <p class="faint">
        It signs in as {{ identities() }}, and walks through the nodes, one request at a time. Nothing is written.
        Checks of its machine wait meanwhile. A snapshot of a part is laid over what is known of all nodes.
      </p>
      <hinge-text
        label="Of a part alone"
        kind="technical"
        placeholder="all nodes, or a pattern: Lehr/**"
        [control]="form.controls.part"
      />
    </hinge-form-sheet>
  `,
})
export class SnapshotForm {
  private readonly store = inject(Store);
  readonly serverId = input.required<string>();
  readonly server = input.required<string>();
  /** Who signs in, in words. */
  readonly identities = input.required<string>();
  readonly left = output();
  readonly form = contractForm(snapshotWish.shape, { part: '' });

  send(): void {
    const part = this.form.getRawValue().part.trim();
    this.store.dispatch(rightsActions.takeSnapshot({ serverId: this.serverId(), part }));
    this.left.emit();
  }
}
