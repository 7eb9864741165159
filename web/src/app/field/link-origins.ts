import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { MappingChange } from '@loyal-hinge/core';
import { conventionWords, sayForm, tableShapes } from '@loyal-hinge/core/field';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { LinkDetail } from '@loyal-hinge/contract';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { OriginForm } from './origin-form';
import { PatternForm } from './pattern-form';
import { fieldActions, fieldFeature } from './state';

/** Behind the server: where the values of a link’s items come from, and what the device says beside what the server gives. */
@Component({
  selector: 'hinge-link-origins',
  imports: [OriginForm, PatternForm, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Behind the server</h2>
    <table>
      <thead>
        <tr>
          <th scope="col">Item</th>
          <th scope="col">At the server</th>
          <th scope="col">At the device</th>
          <th scope="col">Comes from</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        @for (row of told().behind; track row.path) {
          <tr [class.apart]="row.agrees === false">
            <th scope="row" class="mono">{{ row.path }}</th>
            <td class="mono value">{{ row.served ?? '–' }}</td>
            <td class="mono value">{{ row.atDevice ?? '–' }}</td>
            <td>
              @if (row.origin; as origin) {
                @if (row.device) {
                  <a [routerLink]="['/plant/devices', origin.deviceId]">{{ row.device }}</a>, {{ placeOf(origin) }}
                } @else {
                  a machine that the plant does not have, {{ placeOf(origin) }}
                }
                <div class="faint">{{ sayForm(origin.form) }}</div>
                @if (row.agrees === false) {
                  <div class="differs">The two differ.</div>
                  @if (row.mapping; as change) {
                    <button type="button" class="act" [disabled]="!mayChange()" (click)="propose(change)">
                      Propose a work order
                    </button>
                  }
                }
              } @else {
                <span class="faint">not stated</span>
              }
            </td>
            <td>
              <div class="acts">
                <button type="button" class="act" [disabled]="!mayChange()" (click)="edit(row.path)">
                  {{ row.origin ? 'Change …' : 'State …' }}
                </button>
                <a class="act" [routerLink]="['/links', told().link.id, 'register']" [queryParams]="{ path: row.path }"
                  >Find …</a
                >
                @if (row.origin) {
                  <button type="button" class="act" [disabled]="!mayChange()" (click)="like.set(row)">
                    Many alike …
                  </button>
                  <button type="button" class="act" [disabled]="!mayChange() || busy()" (click)="remove(row.path)">
                    Remove
                  </button>
                }
              </div>
            </td>
          </tr>
        }
      </tbody>
    </table>
    @if (like(); as row) {
      <hinge-pattern-form [told]="told()" [like]="row" (left)="like.set(null)" />
    }
    @if (editing(); as path) {
      <hinge-origin-form [told]="told()" [path]="path" />
    }
  `,
  styles: `
    :host {
      display: block;
      margin: 1.4rem 0 1.2rem;
    }
    h2 {
      margin-bottom: 0.4rem;
    }
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th,
    td {
      text-align: left;
      vertical-align: top;
      padding: 0.35rem 0.7rem 0.35rem 0;
      border-bottom: 1px solid var(--line);
      font-weight: normal;
    }
    thead th {
      font-weight: 600;
    }
    .value {
      white-space: nowrap;
    }
    .apart .value,
    .differs {
      color: var(--fails);
    }
    .acts {
      display: flex;
      justify-content: flex-end;
      gap: 0.5rem;
      white-space: nowrap;
    }
    td:last-child {
      padding-right: 0;
    }
  `,
})
export class LinkOrigins {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly told = input.required<LinkDetail>();
  readonly mayChange = may('engineer');
  /** The item like which others are stated. */
  readonly like = signal<LinkDetail['behind'][number] | null>(null);
  readonly editing = this.store.selectSignal(fieldFeature.selectEditing);
  readonly busy = this.store.selectSignal(fieldFeature.selectBusy);
  readonly sayForm = sayForm;

  placeOf({ port, unit, table, address, convention }: ItemOrigin): string {
    const counted = convention.endsWith('digit') ? '' : ` (${conventionWords[convention]})`;
    return `port ${port}, unit ${unit}, ${tableShapes[table].one} ${address}${counted}`;
  }

  edit(path: string): void {
    this.store.dispatch(fieldActions.edit({ path }));
  }

  /** Whoever may set what the server reads does it by the work order; the next check proves it. */
  propose(change: MappingChange): void {
    const { link, server } = this.told();
    const why = `${change.path} is another value at ${server.application} than at its device: the server reads ${change.before}.`;
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Set the register of ${change.path} at ${server.application}`,
          lines: [{ change, why, linkIds: [link.id] }],
        },
      }),
    );
  }

  remove(path: string): void {
    const { link } = this.told();
    this.ask.first({
      title: 'Remove the origin',
      says: `The plant then no longer states where ${path} comes from, and checks end at the server.`,
      does: 'Remove',
      run: () => this.store.dispatch(fieldActions.remove({ linkId: link.id, serverId: link.serverId, path })),
    });
  }
}
