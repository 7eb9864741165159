import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import { serviceKinds, usualPorts } from '@loyal-hinge/core';
import type { PlantService, ServiceKind } from '@loyal-hinge/core';
import { serviceWish } from '@loyal-hinge/contract';
import type { PassageView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { ChooseSome } from '../forms/choose-some';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { serviceWords } from './passage-words';
import { passageActions, passageFeature } from './state';

const port = z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.');

/** A service: what it is, where it runs, and which zones use it. */
@Component({
  selector: 'hinge-service-form',
  imports: [Choose, ChooseSome, FieldFault, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a service'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose label="What it is" [formControl]="form.controls.kind" [choices]="kindChoices" />
      <hinge-choose
        label="Runs on"
        placeholder="which machine?"
        [formControl]="form.controls.machineId"
        [choices]="machineChoices()"
      >
        <hinge-field-fault [of]="form.controls.machineId" />
      </hinge-choose>
      @if (form.controls.kind.value !== 'management') {
        <hinge-number label="Port" [control]="form.controls.port" />
      }
      <hinge-choose-some
        [label]="form.controls.kind.value === 'management' ? 'Manages servers in' : 'Used from'"
        placeholder="all zones"
        [control]="form.controls.zoneIds"
        [choices]="zoneChoices()"
      />
    </hinge-form-sheet>
  `,
})
export class ServiceForm implements OnInit {
  private readonly store = inject(Store);
  readonly view = input.required<PassageView>();
  readonly row = input<PlantService | null>(null);
  readonly running = this.store.selectSignal(passageFeature.selectRunning);
  readonly kindChoices = serviceKinds.map((key) => ({ key, word: serviceWords[key] }));
  readonly machineChoices = computed(() => this.view().machines.map(({ id, name }) => ({ key: id, word: name })));
  readonly zoneChoices = computed(() => this.view().zones.map(({ id, name }) => ({ key: id, word: name })));
  readonly form = contractForm(
    { name: serviceWish.shape.name, machineId: chosenOne, port },
    { name: '', kind: 'names' as ServiceKind, machineId: '', port: usualPorts.names ?? 0, zoneIds: [] as string[] },
  );

  constructor() {
    this.form.controls.kind.valueChanges.pipe(takeUntilDestroyed()).subscribe((kind) => {
      const usual = usualPorts[kind];
      if (usual !== null) this.form.controls.port.setValue(usual);
    });
  }

  ngOnInit(): void {
    const row = this.row();
    if (!row) return;
    this.form.reset({ ...row, port: row.port ?? 1, zoneIds: [...row.zoneIds] }, { emitEvent: false });
  }

  save(): void {
    const typed = this.form.getRawValue();
    const wish = { ...typed, port: typed.kind === 'management' ? null : typed.port };
    this.store.dispatch(passageActions.saveService({ id: this.row()?.id ?? null, wish }));
  }

  leave(): void {
    this.store.dispatch(passageActions.editNoMore());
  }
}
