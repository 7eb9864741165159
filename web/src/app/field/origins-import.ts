import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { originsCsv } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FileField } from '../forms/file-field';
import { SwitchField } from '../forms/switch-field';
import { FormSheet } from '../shell/form-sheet';
import { deviceActions, deviceFeature } from './device-state';

/** Origins of a server’s items from CSV; each line that is wrong is told, with what is wrong with it. */
@Component({
  selector: 'hinge-origins-import',
  imports: [Choose, FileField, FormSheet, ReactiveFormsModule, SwitchField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Import origins"
      does="Import"
      [form]="form"
      [busy]="busy()"
      (sent)="take()"
      (left)="left.emit()"
    >
      <p class="faint">
        CSV with a column for each part of an origin: path, device, address and, where they are not the usual, port,
        unit, table, convention, type, order, scale, offset, bits, registers, within. A server’s origins as they are now
        show how it looks.
      </p>
      <hinge-choose
        label="Of the server"
        placeholder="a server of the plant"
        [formControl]="form.controls.serverId"
        [choices]="servers()"
        [looksElsewhere]="true"
        (looked)="look($event)"
      />
      <div>
        <button type="button" class="act" [disabled]="serverId() === ''" (click)="save()">
          Save its origins as CSV
        </button>
      </div>
      <hinge-file label="File" accept=".csv,text/csv" [control]="form.controls.csv" />
      <hinge-switch label="Leave wrong lines out, and keep the others" [control]="form.controls.leaveOutWrong" />
    </hinge-form-sheet>
    @if (taken(); as told) {
      <p role="status">{{ words() }}</p>
      @if (told.faults.length > 0) {
        <ul class="faults">
          @for (fault of told.faults; track $index) {
            <li>Line {{ fault.line }}, {{ fault.says }}</li>
          }
        </ul>
      }
    }
  `,
  styles: `
    .faults {
      max-height: 14rem;
      overflow: auto;
    }
  `,
})
export class OriginsImport {
  private readonly store = inject(Store);
  readonly left = output();
  readonly busy = computed(() => this.running().includes('import'));
  private readonly running = this.store.selectSignal(deviceFeature.selectRunning);
  readonly taken = this.store.selectSignal(deviceFeature.selectTaken);
  private readonly found = this.store.selectSignal(deviceFeature.selectFoundServers);
  readonly servers = computed(() => (this.found()?.choices ?? []).map(({ id, name }) => ({ key: id, word: name })));
  readonly form = contractForm(
    { serverId: chosenOne, csv: originsCsv.shape.csv },
    { serverId: '', csv: '', leaveOutWrong: false },
  );
  readonly serverId = toSignal(this.form.controls.serverId.valueChanges, { initialValue: '' });
  readonly words = computed(() => {
    const told = this.taken();
    if (!told) return '';
    const kept = byNumber(told.kept, '1 origin was kept.', '# origins were kept.');
    const wrong = byNumber(told.faults.length, '1 line is wrong.', '# lines are wrong.');
    if (told.faults.length === 0) return kept;
    return told.kept === 0 ? `Nothing was kept: ${wrong}` : `${kept} ${wrong}`;
  });

  constructor() {
    this.look('');
  }

  save(): void {
    this.store.dispatch(deviceActions.saveOrigins({ serverId: this.form.controls.serverId.value }));
  }

  look(find: string): void {
    this.store.dispatch(deviceActions.lookForServers({ find }));
  }

  take(): void {
    const { serverId, ...wish } = this.form.getRawValue();
    this.store.dispatch(deviceActions.takeOrigins({ serverId, wish }));
  }
}
