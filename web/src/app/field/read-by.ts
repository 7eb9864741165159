import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { DeviceReadingWish } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { readersActions, readersFeature } from './readers-state';

/** No probe has such an id. */
export const theServer = '(server)';

/** What a wish says of who reads. @param key a probe’s id, or the server’s */
export const readBy = (key: string): Pick<DeviceReadingWish, 'reader'> => (key === theServer ? {} : { reader: key });

/** Who reads a device: the server, or a probe that may stand nearer to it. Where there is no probe, nobody is asked. */
@Component({
  selector: 'hinge-read-by',
  imports: [Choose, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (choices().length > 1) {
      <hinge-choose label="Read by" [formControl]="control()" [choices]="choices()" [inline]="inline()" />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class ReadBy {
  private readonly store = inject(Store);
  /** '': no device is chosen yet. */
  readonly deviceId = input.required<string>();
  readonly control = input.required<FormControl<string>>();
  readonly inline = input(false);
  private readonly readers = this.store.selectSignal(readersFeature.selectShown);
  readonly choices = computed(() => [
    { key: theServer, word: 'the server' },
    ...(this.readers()?.probes ?? []).map(({ id, name, machine, isConnected }) => ({
      key: id,
      word: `${name}${isConnected ? (machine === null ? '' : `, on ${machine}`) : ' (not connected)'}`,
    })),
  ]);

  constructor() {
    effect(() => {
      const deviceId = this.deviceId();
      if (deviceId !== '') this.store.dispatch(readersActions.show({ deviceId }));
    });
    effect(() => {
      const readers = this.readers();
      const control = this.control();
      if (!readers) return;
      const isThere = control.value === theServer || readers.probes.some(({ id }) => id === control.value);
      // What somebody has chosen stays, where it still can be.
      if (control.pristine || !isThere) control.setValue(readers.nearest ?? theServer);
    });
  }
}
