import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import { gatewayWish } from '@loyal-hinge/contract';
import type { Gateway, TunnelMachine } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, tellFaults } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { proposeAddress } from '../outposts/propose-address';
import { FormSheet } from '../shell/form-sheet';
import { gatewayActions, gatewaysFeature } from './state';

const usualPort = 4860;

/** A gateway: where it runs, and where its clients dial it. */
@Component({
  selector: 'hinge-gateway-form',
  imports: [Choose, FieldFault, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.outpost?.name : 'Add a gateway'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <p class="faint">
        In the plant it is a client, which reads, and a server, which shows. Links to and from both say what it reads,
        who reads from it, and as whom.
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
      <hinge-text label="Clients dial the address" [control]="form.controls.address" />
      <hinge-number label="Port" [control]="form.controls.port" />
      <hinge-number label="Port of its mapper, for classic OPC" [control]="form.controls.mapperPort">
        0: it speaks no classic OPC. Usually 135.
      </hinge-number>
    </hinge-form-sheet>
  `,
})
export class GatewayForm implements OnInit {
  private readonly store = inject(Store);
  /** The one that is changed; null: a new one. */
  readonly row = input.required<Gateway | null>();
  readonly machines = input.required<readonly TunnelMachine[]>();
  readonly running = this.store.selectSignal(gatewaysFeature.selectRunning);
  private readonly refused = this.store.selectSignal(gatewaysFeature.selectRefused);
  readonly choices = computed(() => this.machines().map(({ id, name }) => ({ key: id, word: name })));
  readonly form = contractForm(
    {
      name: gatewayWish.shape.name,
      machineId: chosenOne,
      address: gatewayWish.shape.address,
      port: gatewayWish.shape.port,
      mapperPort: z.int().min(0).max(65_535, 'A port is at most 65535.'),
    },
    { name: '', machineId: '', address: '', port: usualPort, mapperPort: 0 },
  );

  constructor() {
    effect(() => tellFaults(this.form, this.refused()));
    this.form.controls.machineId.valueChanges
      .pipe(takeUntilDestroyed())
      .subscribe((id) => proposeAddress(this.form.controls.address, id, this.machines()));
  }

  ngOnInit(): void {
    const row = this.row();
    if (row)
      this.form.reset({
        name: row.outpost.name,
        machineId: row.outpost.machineId,
        address: row.address,
        port: row.port,
        mapperPort: row.classic?.mapperPort ?? 0,
      });
  }

  save(): void {
    const id = this.row()?.outpost.id ?? null;
    const { mapperPort, ...rest } = this.form.getRawValue();
    const wish = { ...rest, mapperPort: mapperPort === 0 ? null : mapperPort };
    this.store.dispatch(gatewayActions.command({ command: { does: 'save', id, wish } }));
  }

  leave(): void {
    this.store.dispatch(gatewayActions.edit({ id: null }));
  }
}
