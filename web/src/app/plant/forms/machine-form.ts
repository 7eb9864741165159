import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { machine } from '@loyal-hinge/contract';
import type { Machine, Zone } from '@loyal-hinge/core';
import { Choose } from '../../forms/choose';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FieldFault } from '../../forms/field-fault';
import { lines, linesOf } from '../../forms/lines';
import { TextField } from '../../forms/text-field';
import { PartSheet } from './part-sheet';
import { RowForm } from './row-form';
import { followName } from './typed';

@Component({
  selector: 'hinge-machine-form',
  imports: [Choose, FieldFault, PartSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet [of]="this" (complete)="save()">
      <hinge-choose
        label="Zone"
        placeholder="which zone?"
        [formControl]="form.controls.zoneId"
        [choices]="zoneChoices()"
      >
        <hinge-field-fault [of]="form.controls.zoneId" />
      </hinge-choose>
      <hinge-text label="Description" [control]="form.controls.description" />
      <hinge-text label="Host names" kind="lines" [rows]="2" [control]="form.controls.hostNames">
        <small class="faint">One a line.</small>
      </hinge-text>
      <hinge-text label="Addresses" kind="lines" [rows]="2" [control]="form.controls.addresses">
        <small class="faint">One a line; the first is the one from which it connects.</small>
      </hinge-text>
    </hinge-part-sheet>
  `,
})
export class MachineForm extends RowForm<Machine> implements OnInit {
  readonly zones = input.required<readonly Zone[]>();
  readonly zoneChoices = computed(() => this.zones().map(({ id, name }) => ({ key: id, word: name })));
  override readonly form = contractForm(
    {
      ...machine.shape,
      zoneId: chosenOne,
      hostNames: lines(machine.shape.hostNames),
      addresses: lines(machine.shape.addresses),
    },
    { id: '', name: '', zoneId: '', description: '', hostNames: '', addresses: '' },
  );

  ngOnInit(): void {
    const row = this.row();
    const [only, another] = this.zones();
    this.form.reset(
      row
        ? { ...row, hostNames: row.hostNames.join('\n'), addresses: row.addresses.join('\n') }
        : { zoneId: another ? '' : (only?.id ?? '') },
    );
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  save(): void {
    const { hostNames, addresses, ...typed } = this.form.getRawValue();
    this.saved.emit({ ...typed, hostNames: linesOf(hostNames), addresses: linesOf(addresses) });
  }
}
