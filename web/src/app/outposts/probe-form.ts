import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { probeWish } from '@loyal-hinge/contract';
import type { Probe } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { ChooseSome } from '../forms/choose-some';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, tellFaults } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { outpostActions, outpostsFeature } from './state';

/** A probe: where it runs, and for which machines it stands. */
@Component({
  selector: 'hinge-probe-form',
  imports: [Choose, ChooseSome, FieldFault, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.outpost?.name : 'Add a probe'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save probe')"
      (sent)="save()"
      (left)="leave()"
    >
      <p class="faint">
        Links whose clients are on these machines are checked by the probe, from where it stands. It gets their keys and
        passwords for each check, and keeps none.
      </p>
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose
        label="Runs on"
        [formControl]="form.controls.machineId"
        [choices]="choices()"
        placeholder="Choose a machine"
      >
        <hinge-field-fault [of]="form.controls.machineId" />
      </hinge-choose>
      <hinge-choose-some
        label="Checks the links of clients on"
        placeholder="Choose machines"
        [control]="form.controls.machineIds"
        [choices]="choices()"
      />
    </hinge-form-sheet>
  `,
})
export class ProbeForm implements OnInit {
  private readonly store = inject(Store);
  /** The one that is changed; null: a new one. */
  readonly row = input.required<Probe | null>();
  private readonly view = this.store.selectSignal(outpostsFeature.selectProbesShown);
  readonly running = this.store.selectSignal(outpostsFeature.selectRunning);
  private readonly refused = this.store.selectSignal(outpostsFeature.selectRefused);
  readonly choices = computed(() => (this.view()?.machines ?? []).map(({ id, name }) => ({ key: id, word: name })));
  readonly form = contractForm(
    { name: probeWish.shape.name, machineId: chosenOne, machineIds: probeWish.shape.machineIds },
    { name: '', machineId: '', machineIds: [] as string[] },
  );

  constructor() {
    effect(() => tellFaults(this.form, this.refused()));
  }

  ngOnInit(): void {
    const row = this.row();
    if (!row) return;
    const { name, machineId } = row.outpost;
    this.form.reset({ name, machineId, machineIds: row.machines.map(({ id }) => id) });
  }

  save(): void {
    const { name, machineId, machineIds } = this.form.getRawValue();
    const wish = { name, machineId, machineIds: [...machineIds] };
    const id = this.row()?.outpost.id ?? null;
    this.store.dispatch(outpostActions.command({ command: { does: 'save probe', id, wish } }));
  }

  leave(): void {
    this.store.dispatch(outpostActions.edit({ id: null }));
  }
}
