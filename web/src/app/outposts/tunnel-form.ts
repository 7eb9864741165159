import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { tunnelWish } from '@loyal-hinge/contract';
import type { Tunnel, TunnelMachine } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, tellFaults } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { outpostActions, outpostsFeature } from './state';
import { endOf } from './outpost-words';
import { proposeAddress } from './propose-address';

const usualPort = 4850;

/** A tunnel: on which machines its ends stand, where they meet, and what it may carry. */
@Component({
  selector: 'hinge-tunnel-form',
  imports: [Choose, FieldFault, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a tunnel'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <p class="faint">
        One end listens and the other dials it, so only that direction needs an opening. Streams go both ways, whichever
        end dials.
      </p>
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose
        label="Listens"
        [formControl]="form.controls.listeningMachineId"
        [choices]="choices()"
        placeholder="Choose a machine"
      >
        <hinge-field-fault [of]="form.controls.listeningMachineId" />
      </hinge-choose>
      <hinge-choose
        label="Dials"
        [formControl]="form.controls.diallingMachineId"
        [choices]="choices()"
        placeholder="Choose a machine"
      >
        <hinge-field-fault [of]="form.controls.diallingMachineId" />
      </hinge-choose>
      <hinge-text label="Address at which they meet" [control]="form.controls.address" />
      <hinge-number label="Port at which they meet" [control]="form.controls.port" />
      <hinge-number label="Streams at once, at most" [control]="form.controls.streams" />
      <hinge-number
        label="Of one stream, at most"
        unit="kB per second"
        [step]="100"
        [control]="form.controls.streamRate"
      >
        0: as much as there is.
      </hinge-number>
      <hinge-number label="Of all together, at most" unit="kB per second" [step]="100" [control]="form.controls.rate">
        0: as much as there is.
      </hinge-number>
      <hinge-number label="End a stream that is idle for" unit="minutes" [control]="form.controls.idle">
        0: never.
      </hinge-number>
    </hinge-form-sheet>
  `,
})
export class TunnelForm implements OnInit {
  private readonly store = inject(Store);
  /** The one that is changed; null: a new one. */
  readonly row = input.required<Tunnel | null>();
  private readonly list = this.store.selectSignal(outpostsFeature.selectShown);
  private readonly forOne = this.store.selectSignal(outpostsFeature.selectChoicesShown);
  private readonly machines = computed<readonly TunnelMachine[]>(
    () => this.forOne()?.machines ?? this.list()?.machines ?? [],
  );
  readonly running = this.store.selectSignal(outpostsFeature.selectRunning);
  private readonly refused = this.store.selectSignal(outpostsFeature.selectRefused);
  readonly choices = computed(() => this.machines().map(({ id, name }) => ({ key: id, word: name })));
  readonly form = contractForm(
    {
      name: tunnelWish.shape.name,
      listeningMachineId: chosenOne,
      diallingMachineId: chosenOne,
      address: tunnelWish.shape.address,
      port: tunnelWish.shape.port,
      streams: tunnelWish.shape.limits.shape.streams,
    },
    {
      name: '',
      listeningMachineId: '',
      diallingMachineId: '',
      address: '',
      port: usualPort,
      streams: 512,
      streamRate: 0,
      rate: 0,
      idle: 0,
    },
  );

  constructor() {
    effect(() => tellFaults(this.form, this.refused()));
    this.form.controls.listeningMachineId.valueChanges
      .pipe(takeUntilDestroyed())
      .subscribe((id) => proposeAddress(this.form.controls.address, id, this.machines()));
  }

  ngOnInit(): void {
    const row = this.row();
    if (!row) return;
    const { streams, streamBytesPerSecond, bytesPerSecond, idleMs } = row.limits;
    this.form.reset({
      name: row.name,
      listeningMachineId: endOf(row, 'listens')?.outpost.machineId ?? '',
      diallingMachineId: endOf(row, 'dials')?.outpost.machineId ?? '',
      address: row.address,
      port: row.port,
      streams,
      streamRate: (streamBytesPerSecond ?? 0) / 1000,
      rate: (bytesPerSecond ?? 0) / 1000,
      idle: (idleMs ?? 0) / 60_000,
    });
  }

  save(): void {
    const { streams, streamRate, rate, idle, ...wish } = this.form.getRawValue();
    const some = (value: number, times: number): number | null => (value > 0 ? value * times : null);
    const limits = {
      streams,
      streamBytesPerSecond: some(streamRate, 1000),
      bytesPerSecond: some(rate, 1000),
      idleMs: some(idle, 60_000),
    };
    const id = this.row()?.id ?? null;
    this.store.dispatch(outpostActions.command({ command: { does: 'save', id, wish: { ...wish, limits } } }));
  }

  leave(): void {
    this.store.dispatch(outpostActions.edit({ id: null }));
  }
}
