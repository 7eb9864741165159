import { ChangeDetectionStrategy, Component, effect, inject, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { plantSettings, usualDevicePauseMs } from '@loyal-hinge/contract';
import type { PlantSettings } from '@loyal-hinge/contract';
import { contractForm, isComplete, tellFaults } from '../forms/contract-form';
import { orEmpty } from '../forms/fits';
import { lines, linesOf } from '../forms/lines';
import { NumberField } from '../forms/number-field';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { may } from '../session/may';
import { isRunning, settingsActions, settingsFeature } from './state';

/** How the plant is dialled, how trust is judged and changed, and how long facts are kept. */
@Component({
  selector: 'hinge-plant-settings',
  imports: [NumberField, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form [formGroup]="form" (ngSubmit)="save($event)">
      <h2>How the plant is dialled</h2>
      <hinge-text label="Name of the plant" [control]="form.controls.plantName" />
      <hinge-text
        label="Address ranges that may be dialled"
        kind="lines"
        [rows]="4"
        [control]="form.controls.declaredRanges"
      >
        <small class="faint">One a line, such as 10.20.0.0/16. Nothing outside them is ever dialled.</small>
      </hinge-text>
      <hinge-text label="Name server of the plant" kind="technical" [control]="form.controls.nameServer">
        <small class="faint">Address and port. If it is empty, this computer resolves the names.</small>
      </hinge-text>
      <hinge-switch label="Dial from the client machine’s own address" [control]="form.controls.dialFromClientAddress">
        <small class="faint">only if this computer has those addresses</small>
      </hinge-switch>
      <hinge-number
        label="Between two requests to a field device"
        unit="ms"
        [step]="10"
        [control]="form.controls.devicePauseMs"
      >
        <small class="faint">More leaves a slow device time for those who need it, and checks take longer.</small>
      </hinge-number>
      <h2>How trust is judged and changed</h2>
      <hinge-switch label="Every authority needs a CRL in force" [control]="form.controls.crlsDemanded">
        <small class="faint">without one, what it signed is refused</small>
      </hinge-switch>
      <hinge-switch label="Work orders are approved by another person" [control]="form.controls.approvedByAnother">
        <small class="faint">than the one who proposed them</small>
      </hinge-switch>
      <h2>How long data is kept</h2>
      <hinge-number label="Checks and their facts are kept for" unit="days" [control]="form.controls.checksKeptDays">
        <small class="faint">Those on which a present verdict is based are kept longer.</small>
      </hinge-number>
      <hinge-number label="Captures and logs are kept for" unit="days" [control]="form.controls.recordsKeptDays">
        <small class="faint">With all attempts that they tell of; what is removed by hand goes at once.</small>
      </hinge-number>
      <hinge-switch label="Keep the files of captures and logs, too" [control]="form.controls.recordedFilesKept">
        <small class="faint">without them no place of a log can be opened, and no clock be set later</small>
      </hinge-switch>
      <h2>Syslog</h2>
      <hinge-text
        label="Take messages of syslog at"
        kind="technical"
        placeholder="10.20.0.5:5140"
        [control]="form.controls.syslogAt"
      >
        An address of this computer and a port, over UDP and TCP; empty: nowhere. Only senders within the declared
        ranges are heard.
      </hinge-text>
      <button type="submit" class="act main" [disabled]="isSaving() || !maySave()">
        {{ isSaving() ? 'Saving …' : 'Save' }}
      </button>
      @if (!maySave()) {
        <span class="faint"> Only administrators can change the settings.</span>
      }
    </form>
  `,
  styles: `
    h2 {
      margin-bottom: 0.7rem;
    }
    hinge-number {
      display: block;
      max-width: 20rem;
    }
  `,
})
export class PlantSettingsForm {
  private readonly store = inject(Store);
  readonly settings = input.required<PlantSettings>();
  readonly maySave = may('administrator');
  readonly isSaving = this.store.selectSignal(isRunning('save'));
  private readonly problem = this.store.selectSignal(settingsFeature.selectProblem);
  readonly form = contractForm(
    {
      ...plantSettings.shape,
      declaredRanges: lines(plantSettings.shape.declaredRanges),
      nameServer: orEmpty(plantSettings.shape.nameServer),
      syslogAt: orEmpty(plantSettings.shape.syslogAt.unwrap()),
    },
    {
      plantName: '',
      declaredRanges: '',
      nameServer: '',
      dialFromClientAddress: false,
      crlsDemanded: false,
      approvedByAnother: false,
      checksKeptDays: 90,
      recordsKeptDays: 365,
      recordedFilesKept: true,
      devicePauseMs: usualDevicePauseMs,
      syslogAt: '',
    },
  );

  constructor() {
    effect(() => {
      const { declaredRanges, nameServer, syslogAt, ...settings } = this.settings();
      // What somebody types stays when something else was saved.
      if (this.form.pristine)
        this.form.reset({
          ...settings,
          declaredRanges: declaredRanges.join('\n'),
          nameServer: nameServer ?? '',
          syslogAt: syslogAt ?? '',
        });
    });
    effect(() => tellFaults(this.form, this.problem()));
  }

  save(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    this.form.markAsPristine();
    const { declaredRanges, nameServer, syslogAt, ...typed } = this.form.getRawValue();
    const settings = {
      ...typed,
      declaredRanges: linesOf(declaredRanges),
      nameServer: nameServer.trim() || null,
      syslogAt: syslogAt.trim() || null,
    };
    this.store.dispatch(settingsActions.save({ settings }));
  }
}
