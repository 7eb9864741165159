import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { modbusTables, placeOf, sayUnits, tableShapes } from '@loyal-hinge/core/field';
import type { ModbusTable } from '@loyal-hinge/core/field';
import { deviceReadingWish, deviceUnitsWish } from '@loyal-hinge/contract';
import type { DeviceView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm, isComplete, tellFaults } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { may } from '../session/may';
import { deviceActions, deviceFeature } from './device-state';
import { ReadBy, readBy, theServer } from './read-by';

/** So many places before the first item’s are read with it: who counts otherwise is off by a few. */
const before = 4;

/** Reads some registers of a device now, or finds out which units answer. Both only read. */
@Component({
  selector: 'hinge-device-ask',
  imports: [Choose, NumberField, ReactiveFormsModule, ReadBy],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Ask it now</h2>
    <hinge-read-by [deviceId]="device().id" [control]="reader" [inline]="true" />
    <form [formGroup]="form" (ngSubmit)="read($event)">
      <div class="fields">
        <hinge-number label="Port" [control]="form.controls.port" />
        <hinge-number label="Unit" [control]="form.controls.unit" />
        <hinge-choose label="Table" [formControl]="form.controls.table" [choices]="tables" />
        <hinge-number label="From place" [control]="form.controls.first">Counted from 0, as on the wire.</hinge-number>
        <hinge-number label="Places" [control]="form.controls.count" />
      </div>
      <div class="actions">
        <button type="submit" class="act" [disabled]="!mayAsk() || isBusy()">
          {{ running().includes('read') ? 'Reading …' : 'Read' }}
        </button>
        <span class="faint">Nothing is written.</span>
      </div>
    </form>
    <form class="units" [formGroup]="units" (ngSubmit)="askUnits($event)">
      <hinge-number label="Units, from 1 to" [control]="units.controls.last" />
      <div class="actions">
        @if (isAskingUnits()) {
          <button type="button" class="act" (click)="stop()">Stop</button>
        } @else {
          <button type="submit" class="act" [disabled]="!mayAsk() || isBusy()">Which units answer</button>
        }
        <span class="faint">At the same port, one after another: a second for each that nobody has.</span>
      </div>
    </form>
    <p role="status">{{ said() ?? unitsSaid() }}</p>
    @if (reading(); as told) {
      <div class="words mono">
        @for (word of told.words; track word.at) {
          <span [class.faint]="word.value === null">{{ word.at }}: {{ word.value ?? '–' }}</span>
        }
      </div>
    }
  `,
  styles: `
    h2 {
      margin: 1.4rem 0 0.5rem;
    }
    .fields {
      margin-top: 0.6rem;
      display: grid;
      grid-template-columns: repeat(5, minmax(0, 1fr));
      gap: 0.2rem 1rem;
      align-items: start;
    }
    .units {
      margin-top: 0.8rem;
      display: grid;
      grid-template-columns: repeat(5, minmax(0, 1fr));
      gap: 0.2rem 1rem;
      align-items: end;
    }
    .units .actions {
      grid-column: span 4;
      /* Beside the field itself: below it there is room for what is wrong with it. */
      margin-bottom: 0.95rem;
    }
    [role='status'] {
      margin-top: 0.5rem;
    }
    .words {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(9rem, 1fr));
      gap: 0.15rem 1rem;
      margin-top: 0.5rem;
    }
    .actions {
      display: flex;
      align-items: center;
      gap: 0.7rem;
    }
  `,
})
export class DeviceAsk implements OnInit {
  private readonly store = inject(Store);
  readonly device = input.required<DeviceView>();
  readonly mayAsk = may('engineer');
  readonly tables = modbusTables.map((key) => ({ key, word: tableShapes[key].one }));
  readonly running = this.store.selectSignal(deviceFeature.selectRunning);
  readonly isBusy = computed(() => this.running().length > 0);
  readonly isAskingUnits = computed(() => this.running().includes('units'));
  readonly said = this.store.selectSignal(deviceFeature.selectSaid);
  private readonly unitsAsked = this.store.selectSignal(deviceFeature.selectUnits);
  readonly unitsSaid = computed(() => {
    const told = this.unitsAsked();
    if (!told) return '';
    const { asked, of, answering } = told;
    const found = asked > 0 ? sayUnits(this.device().name, answering, asked) : '';
    if (asked === of) return found;
    return `${this.isAskingUnits() ? 'Asked' : 'Stopped after'} ${asked} of ${of} units. ${found}`;
  });
  private readonly answer = this.store.selectSignal(deviceFeature.selectReading);
  private readonly problem = this.store.selectSignal(deviceFeature.selectProblem);
  readonly reading = computed(() => {
    const told = this.answer();
    // Where nothing was read, its sentence says why.
    if (!told?.places.some((value) => value !== null)) return null;
    return { words: told.places.map((value, index) => ({ at: told.first + index, value })) };
  });
  readonly form = contractForm(
    { ...deviceReadingWish.shape },
    { port: 502, unit: 1, table: 'holding' as ModbusTable, first: 0, count: 20 },
  );
  readonly reader = new FormControl<string>(theServer, { nonNullable: true });
  readonly units = contractForm({ last: deviceUnitsWish.shape.to.min(1, 'At least 1.') }, { last: 32 });

  constructor() {
    effect(() => tellFaults(this.form, this.problem()));
  }

  ngOnInit(): void {
    const [item] = this.device().items;
    if (!item) return;
    const { port, unit, table } = item.origin;
    this.form.patchValue({ port, unit, table, first: Math.max(0, placeOf(item.origin) - before) });
  }

  read(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const wish = { ...this.form.getRawValue(), ...readBy(this.reader.value) };
    const [issue] = deviceReadingWish.safeParse(wish).error?.issues ?? [];
    if (issue) {
      this.form.controls.count.setErrors({ fits: issue.message });
      return this.form.controls.count.markAsTouched();
    }
    this.store.dispatch(deviceActions.read({ deviceId: this.device().id, wish }));
  }

  askUnits(sent: Event): void {
    const { port } = this.form.controls;
    port.markAsTouched();
    if (!isComplete(this.units, sent) || port.invalid) return;
    const { last } = this.units.getRawValue();
    const by = readBy(this.reader.value);
    this.store.dispatch(deviceActions.askUnits({ deviceId: this.device().id, port: port.value, last, by }));
  }

  stop(): void {
    this.store.dispatch(deviceActions.stopUnits());
  }
}
