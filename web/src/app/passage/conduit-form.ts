import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { conduitWish } from '@loyal-hinge/contract';
import type { Conduit, PassageView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { ChooseSome } from '../forms/choose-some';
import { levelChoices, levelKey, levelOf } from '../forms/security-level';
import type { LevelKey } from '../forms/security-level';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { passageActions, passageFeature } from './state';

/** A conduit: from which zone connections may be opened to which, and over which firewalls. */
@Component({
  selector: 'hinge-conduit-form',
  imports: [Choose, ChooseSome, FieldFault, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a conduit'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose
        label="From zone"
        placeholder="which zone?"
        [formControl]="form.controls.fromZoneId"
        [choices]="zoneChoices()"
      >
        <hinge-field-fault [of]="form.controls.fromZoneId" />
      </hinge-choose>
      <hinge-choose
        label="To zone"
        placeholder="which zone?"
        [formControl]="form.controls.toZoneId"
        [choices]="zoneChoices()"
      >
        <hinge-field-fault [of]="form.controls.toZoneId" />
      </hinge-choose>
      <hinge-choose-some
        label="Over firewalls"
        placeholder="whichever join the two"
        [control]="form.controls.firewallIds"
        [choices]="firewallChoices()"
      />
      <hinge-choose label="Target security level" [formControl]="form.controls.targetLevel" [choices]="levelChoices" />
    </hinge-form-sheet>
  `,
})
export class ConduitForm implements OnInit {
  private readonly store = inject(Store);
  readonly view = input.required<PassageView>();
  readonly row = input<Conduit | null>(null);
  readonly running = this.store.selectSignal(passageFeature.selectRunning);
  readonly zoneChoices = computed(() => this.view().zones.map(({ id, name }) => ({ key: id, word: name })));
  readonly firewallChoices = computed(() =>
    this.view()
      .firewalls.filter(({ machineId }) => machineId === null)
      .map(({ id, name }) => ({ key: id, word: name })),
  );
  readonly levelChoices = levelChoices;
  readonly form = contractForm(
    { name: conduitWish.shape.name, fromZoneId: chosenOne, toZoneId: chosenOne },
    { name: '', fromZoneId: '', toZoneId: '', firewallIds: [] as string[], targetLevel: 'none' as LevelKey },
  );

  ngOnInit(): void {
    const row = this.row();
    if (row)
      this.form.reset({
        ...row,
        firewallIds: [...row.firewallIds],
        targetLevel: levelKey(row.targetLevel),
      });
  }

  save(): void {
    const { targetLevel, ...typed } = this.form.getRawValue();
    const wish = { ...typed, targetLevel: levelOf(targetLevel) };
    this.store.dispatch(passageActions.saveConduit({ id: this.row()?.id ?? null, wish }));
  }

  leave(): void {
    this.store.dispatch(passageActions.editNoMore());
  }
}
