import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { tunnelledLinkWish } from '@loyal-hinge/contract';
import type { TunnelChoices } from '@loyal-hinge/contract';
import { contractForm, tellFaults } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { outpostActions, outpostsFeature } from './state';

/** Where the client of a link dials, so that it goes through a tunnel. */
@Component({
  selector: 'hinge-lead-form',
  imports: [FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Lead ' + other().link + ' through the tunnel'"
      does="Save"
      [form]="form"
      [busy]="running().includes('lead')"
      (sent)="save()"
      (left)="left.emit()"
    >
      <p class="faint">
        The end at the client’s side opens this entrance at once, and the link is checked through it. Its client must
        dial there: the work order of the tunnel says how.
      </p>
      <hinge-text label="Its client dials the address" [control]="form.controls.entranceAddress" />
      <hinge-number label="Port" [control]="form.controls.entrancePort" />
    </hinge-form-sheet>
  `,
})
export class LeadForm {
  private readonly store = inject(Store);
  readonly tunnelId = input.required<string>();
  readonly other = input.required<TunnelChoices['otherLinks'][number]>();
  private readonly linkId = computed(() => this.other().linkId);
  readonly left = output();
  readonly running = this.store.selectSignal(outpostsFeature.selectRunning);
  private readonly refused = this.store.selectSignal(outpostsFeature.selectRefused);
  readonly form = contractForm(
    { entranceAddress: tunnelledLinkWish.shape.entranceAddress, entrancePort: tunnelledLinkWish.shape.entrancePort },
    { entranceAddress: '', entrancePort: 4840 },
  );

  constructor() {
    // The page is looked at again and again: only another link has other values to begin with.
    effect(() => {
      this.linkId();
      const { entranceAddress, entrancePort } = untracked(this.other);
      this.form.reset({ entranceAddress, entrancePort });
    });
    effect(() => tellFaults(this.form, this.refused()));
  }

  save(): void {
    const { linkId, link } = this.other();
    const wish = { linkId, ...this.form.getRawValue() };
    this.store.dispatch(outpostActions.command({ command: { does: 'lead', id: this.tunnelId(), link, wish } }));
  }
}
