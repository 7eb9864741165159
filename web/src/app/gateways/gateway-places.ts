import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { placeOfGateway } from '@loyal-hinge/contract';
import type { GatewayView, PlaceOfGateway } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { NumberField } from '../forms/number-field';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { may } from '../session/may';
import { FormSheet } from '../shell/form-sheet';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { gatewayActions, gatewaysFeature } from './state';

type Numbered = PlaceOfGateway & { readonly place: number };

/** Where a gateway shows items: by patterns, the first that fits. */
@Component({
  selector: 'hinge-gateway-places',
  imports: [
    Choose,
    FieldFault,
    FormSheet,
    Ledger,
    LedgerCell,
    NumberField,
    ReactiveFormsModule,
    SwitchField,
    TextField,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="part-head">
      <h2>Where items are shown</h2>
      <button type="button" class="act" [disabled]="!mayChange() || view().sources.length === 0" (click)="edit('new')">
        Add a place …
      </button>
    </header>
    @if (editing() !== null) {
      <hinge-form-sheet
        [heading]="editing() === 'new' ? 'Show items somewhere' : 'Change where items are shown'"
        does="Save"
        [form]="form"
        [busy]="running().includes('save places')"
        (sent)="save()"
        (left)="edit(null)"
      >
        <p class="faint">
          A pattern such as <code>Furnace/**</code> stands for all items below Furnace. Once a server has a place here,
          only what fits one of its places is shown.
        </p>
        <hinge-choose
          label="Items of"
          [formControl]="form.controls.linkId"
          [choices]="links()"
          placeholder="Choose a server"
        >
          <hinge-field-fault [of]="form.controls.linkId" />
        </hinge-choose>
        <hinge-text label="That fit" kind="technical" [control]="form.controls.items" />
        <hinge-text label="Are shown under" [control]="form.controls.domain" />
        <hinge-number label="Without the first parts of their paths" [control]="form.controls.withoutFirst" />
        <hinge-switch label="May be written by readers whose links need it" [control]="form.controls.isWritable" />
      </hinge-form-sheet>
    }
    <hinge-ledger
      [columns]="columns"
      [rows]="places()"
      [idOf]="idOf"
      [plain]="places().length < 12"
      what="any place"
      fileName="gateway-places"
    >
      <span empty>What its links need is shown under the names of its servers.</span>
      <ng-template hingeCell="acts" [hingeCellOf]="places()" let-row>
        <button type="button" class="act" [disabled]="!mayChange() || row.place === 0" (click)="earlier(row)">
          Earlier
        </button>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit(row.place)">Change …</button>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="remove(row)">Remove</button>
      </ng-template>
    </hinge-ledger>
  `,
})
export class GatewayPlaces {
  private readonly store = inject(Store);
  readonly view = input.required<GatewayView>();
  readonly editing = this.store.selectSignal(gatewaysFeature.selectPlace);
  readonly running = this.store.selectSignal(gatewaysFeature.selectRunning);
  readonly mayChange = may('engineer');
  readonly links = computed(() => this.view().sources.map(({ linkId, server }) => ({ key: linkId, word: server })));
  readonly places = computed<readonly Numbered[]>(() => this.view().places.map((each, place) => ({ ...each, place })));
  readonly idOf = ({ place }: Numbered): string => String(place);
  readonly columns: readonly Column<Numbered>[] = [
    { key: 'order', title: 'Asked', text: ({ place }) => String(place + 1), order: ({ place }) => place },
    {
      key: 'server',
      title: 'Items of',
      text: ({ linkId }) => this.view().sources.find((source) => source.linkId === linkId)?.server ?? linkId,
    },
    { key: 'items', title: 'That fit', text: ({ items }) => items, mono: true },
    { key: 'domain', title: 'Are shown under', text: ({ domain }) => domain },
    { key: 'without', title: 'First parts left out', text: ({ withoutFirst }) => String(withoutFirst) },
    { key: 'writes', title: 'May be written', text: ({ isWritable }) => (isWritable ? 'yes' : 'no') },
  ];
  readonly form = contractForm(
    { ...placeOfGateway.shape, linkId: chosenOne },
    { linkId: '', items: '**', domain: '', withoutFirst: 0, isWritable: false },
  );

  constructor() {
    effect(() => {
      const place = this.editing();
      const known = typeof place === 'number' ? untracked(this.places)[place] : undefined;
      this.form.reset(known ?? { linkId: '', items: '**', domain: '', withoutFirst: 0, isWritable: false });
    });
  }

  edit(place: number | 'new' | null): void {
    this.store.dispatch(gatewayActions.editPlace({ place }));
  }

  save(): void {
    const place = this.editing();
    const wish = this.form.getRawValue();
    const before = this.view().places;
    this.send(place === 'new' ? [...before, wish] : before.map((each, index) => (index === place ? wish : each)));
  }

  earlier({ place }: Numbered): void {
    const before = [...this.view().places];
    const [moved] = before.splice(place, 1);
    if (moved) this.send([...before.slice(0, place - 1), moved, ...before.slice(place - 1)]);
  }

  remove({ place }: Numbered): void {
    this.send(this.view().places.filter((_, index) => index !== place));
  }

  private send(places: readonly PlaceOfGateway[]): void {
    const { id } = this.view().gateway.outpost;
    this.store.dispatch(gatewayActions.command({ command: { does: 'save places', id, places } }));
  }
}
