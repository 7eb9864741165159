import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { Store } from '@ngrx/store';
import { modbusTables, tableShapes } from '@loyal-hinge/core/field';
import type { ModbusTable } from '@loyal-hinge/core/field';
import type { LinkDetail } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { NumberField } from '../forms/number-field';
import { fieldActions, fieldFeature } from './state';

/** Which device, and where in it: the fields that several forms begin with. */
@Component({
  selector: 'hinge-device-fields',
  imports: [Choose, NumberField, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-choose
      label="Device"
      placeholder="a machine of the plant"
      [formControl]="controls().deviceId"
      [choices]="devices()"
      [looksElsewhere]="true"
      (looked)="look($event)"
    />
    <hinge-number label="Port" [control]="controls().port" />
    <hinge-number label="Unit" [control]="controls().unit" />
    <hinge-choose label="Table" [formControl]="controls().table" [choices]="tables" />
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class DeviceFields implements OnInit {
  private readonly store = inject(Store);
  readonly controls = input.required<{
    readonly deviceId: FormControl<string>;
    readonly port: FormControl<number>;
    readonly unit: FormControl<number>;
    readonly table: FormControl<ModbusTable>;
  }>();
  /** The item that it is about, as it is known. */
  readonly known = input<LinkDetail['behind'][number] | null>(null);
  private readonly found = this.store.selectSignal(fieldFeature.selectFound);
  readonly devices = computed(() => {
    const choices = (this.found()?.choices ?? []).map(({ id, name }) => ({ key: id, word: name }));
    const known = this.known();
    // Whichever it is now can be chosen, though it was not among those that were looked for.
    return known?.origin && !choices.some(({ key }) => key === known.origin?.deviceId)
      ? [{ key: known.origin.deviceId, word: known.device ?? known.origin.deviceId }, ...choices]
      : choices;
  });
  readonly tables = modbusTables.map((key) => ({ key, word: tableShapes[key].one }));

  ngOnInit(): void {
    this.look('');
  }

  look(find: string): void {
    this.store.dispatch(fieldActions.lookForDevices({ find }));
  }
}
