import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { startWith } from 'rxjs';
import * as z from 'zod';
import { isBadStatus, relayed, relayTypes } from '@loyal-hinge/core';
import { relayWish } from '@loyal-hinge/contract';
import type { GatewayItemsView, GatewaySource, GatewayView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, tellFaults } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import type { ShownProblem } from '../http/problem';
import { FormSheet } from '../shell/form-sheet';
import { plainText, statusText, valueText } from './gateway-words';
import { asRelay, beginning, numberText, ofScale, scaleFields, wishIn, writtenOf } from './relay-written';
import { gatewayActions, gatewaysFeature } from './state';
import type { RelayEnd } from './state';

type Item = GatewayItemsView['items'][number];
type RelayOfView = GatewayView['relays'][number];

/** A relay, from the need outwards: which item needs a value, where it comes from, what becomes of it on the way, and what that gives now. */
@Component({
  selector: 'hinge-relay-form',
  imports: [Choose, FieldFault, FormSheet, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change what ' + row()?.to?.path + ' gets' : 'Give an item a value'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save relay')"
      (sent)="save()"
      (left)="leave()"
    >
      <p class="result" role="status">
        @if (now(); as told) {
          <span class="faint">Now:</span> {{ told.says }}
          @if (told.fault; as fault) {
            <span class="fails">{{ fault }}</span>
          }
        } @else {
          <span class="faint">Choose both items, and what would be written now stands here.</span>
        }
      </p>
      <hinge-choose
        label="The item that needs a value is at"
        [formControl]="form.controls.toLink"
        [choices]="links()"
        placeholder="Choose a server"
      >
        <hinge-field-fault [of]="form.controls.toLink" />
      </hinge-choose>
      <div class="wide">
        <hinge-text label="Its path" kind="technical" [control]="form.controls.toPath" />
        <div class="like">
          @for (item of like('to'); track item.path) {
            <button type="button" class="plain" (click)="take('to', item)">{{ item.path }}</button>
          }
        </div>
      </div>
      <hinge-choose
        label="Its value comes from"
        [formControl]="form.controls.fromLink"
        [choices]="links()"
        placeholder="Choose a server"
      >
        <hinge-field-fault [of]="form.controls.fromLink" />
      </hinge-choose>
      <div class="wide">
        <hinge-text label="The path there" kind="technical" [control]="form.controls.fromPath" />
        <div class="like">
          @for (item of like('from'); track item.path) {
            <button type="button" class="plain" (click)="take('from', item)">
              {{ item.path }} <span class="faint">{{ value(item.shown) }}</span>
            </button>
          }
        </div>
      </div>
      <hinge-choose label="On the way" [formControl]="form.controls.scale" [choices]="scales" />
      @switch (form.controls.scale.value) {
        @case ('linear') {
          <hinge-text label="Times" kind="technical" [control]="form.controls.factor" />
          <hinge-text label="Plus" kind="technical" [control]="form.controls.offset" />
        }
        @case ('ranges') {
          <div class="pair">
            <hinge-text label="From" kind="technical" [control]="form.controls.fromLow" />
            <hinge-text label="to" kind="technical" [control]="form.controls.fromHigh" />
          </div>
          <div class="pair">
            <hinge-text label="Becomes" kind="technical" [control]="form.controls.toLow" />
            <hinge-text label="to" kind="technical" [control]="form.controls.toHigh" />
          </div>
          <hinge-switch label="Never beyond these ends" [control]="form.controls.clamps" />
        }
      }
      <hinge-choose label="Written as" [formControl]="form.controls.as" [choices]="types" />
      <hinge-choose label="While its value is bad" [formControl]="form.controls.onBad" [choices]="onBads" />
      @if (form.controls.onBad.value === 'value') {
        <hinge-text label="The value that is written then" kind="technical" [control]="form.controls.badValue" />
      }
      <hinge-text label="Write only changes from" kind="technical" [control]="form.controls.bandBy" placeholder="any" />
      <hinge-choose label="Counted" [formControl]="form.controls.bandKind" [choices]="bands" />
    </hinge-form-sheet>
  `,
  styles: `
    .wide {
      grid-column: span 2;
    }
    .pair {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 0.6rem;
    }
    .like {
      display: flex;
      flex-wrap: wrap;
      gap: 0.2rem 0.9rem;
      margin: -0.4rem 0 0.6rem;
    }
    .result {
      border-left: 4px solid var(--line);
      padding-left: 0.7rem;
      font-variant-numeric: tabular-nums;
    }
  `,
})
export class RelayForm implements OnInit {
  private readonly store = inject(Store);
  private readonly destroyed = inject(DestroyRef);
  readonly gatewayId = input.required<string>();
  readonly sources = input.required<readonly GatewaySource[]>();
  /** The one that is changed; null: a new one. */
  readonly row = input.required<RelayOfView | null>();
  readonly running = this.store.selectSignal(gatewaysFeature.selectRunning);
  private readonly refused = this.store.selectSignal(gatewaysFeature.selectRefused);
  private readonly sought = this.store.selectSignal(gatewaysFeature.selectSought);
  readonly value = valueText;
  readonly links = computed(() => this.sources().map(({ linkId, server }) => ({ key: linkId, word: server })));
  readonly scales = [
    { key: 'none', word: 'as it is' },
    { key: 'linear', word: 'times and plus' },
    { key: 'ranges', word: 'one range becomes another' },
  ];
  readonly types = [
    { key: 'same', word: 'the type that it has' },
    ...relayTypes.map((type) => ({ key: type, word: type })),
  ];
  readonly onBads = [
    { key: 'hold', word: 'nothing is written' },
    { key: 'value', word: 'a fixed value is written' },
  ];
  readonly bands = [
    { key: 'absolute', word: 'as a number' },
    { key: 'percent', word: 'in percent of the last value' },
  ];
  readonly form = contractForm(
    {
      toLink: chosenOne,
      fromLink: chosenOne,
      toPath: relayWish.shape.to.shape.path,
      fromPath: relayWish.shape.from.shape.path,
      ...Object.fromEntries(scaleFields.map((field) => [field, numberText])),
      bandBy: numberText.or(z.literal('')),
    },
    beginning,
  );
  private readonly written = toSignal(this.form.valueChanges.pipe(startWith(null)));

  /** What the relay makes of the value that is there now: computed as the gateway computes it. */
  readonly now = computed(() => {
    this.written();
    const { fromLink, fromPath, toPath } = this.form.getRawValue();
    const item = this.sought().from.find(({ linkId, path }) => linkId === fromLink && path === fromPath);
    const wish = wishIn(this.form.getRawValue());
    if (!item || toPath === '' || !wish) return null;
    const made = relayed(asRelay(wish), item.shown, null);
    const there = `${item.path} is ${valueText(item.shown)}${item.shown.type === null ? '' : ` (${item.shown.type})`}`;
    const why = isBadStatus(item.shown.status) ? `; ${statusText(item.shown) ?? ''}` : '';
    return made.does === 'write'
      ? { says: `${there}${why}, and ${toPath} would get ${plainText(made.value)} (${made.type}).`, fault: null }
      : made.does === 'refuse'
        ? { says: `${there}${why}.`, fault: made.says }
        : { says: `${there}${why}, and nothing would be written.`, fault: null };
  });

  constructor() {
    effect(() => tellFaults(this.form, placedHere(this.refused())));
    const { toLink, toPath, fromLink, fromPath } = this.form.controls;
    for (const [end, controls] of [
      ['to', [toLink, toPath]],
      ['from', [fromLink, fromPath]],
    ] as const)
      for (const control of controls)
        control.valueChanges
          .pipe(takeUntilDestroyed())
          .subscribe(() => this.store.dispatch(gatewayActions.seek({ end, find: controls[1].value })));
  }

  ngOnInit(): void {
    const row = this.row();
    if (row) this.form.reset(writtenOf(row));
    // What is not shown any more must not keep the form from being sent.
    this.form.controls.scale.valueChanges.pipe(takeUntilDestroyed(this.destroyed)).subscribe((scale) => {
      for (const field of scaleFields)
        if (!ofScale[scale]?.includes(field) && this.form.controls[field].invalid)
          this.form.controls[field].setValue(beginning[field]);
    });
  }

  /** Items of the chosen server that are like what is written, and are not yet it. */
  like(end: RelayEnd): readonly Item[] {
    const { toLink, toPath, fromLink, fromPath } = this.form.getRawValue();
    const [link, path] = end === 'to' ? [toLink, toPath] : [fromLink, fromPath];
    return this.sought()
      [end].filter((item) => item.linkId === link && item.path !== path)
      .slice(0, 5);
  }

  take(end: RelayEnd, { path }: Item): void {
    const { toPath, fromPath } = this.form.controls;
    (end === 'to' ? toPath : fromPath).setValue(path);
  }

  save(): void {
    const wish = wishIn(this.form.getRawValue());
    if (!wish) return;
    const relayId = this.row()?.id ?? null;
    this.store.dispatch(
      gatewayActions.command({ command: { does: 'save relay', id: this.gatewayId(), relayId, wish } }),
    );
  }

  leave(): void {
    this.store.dispatch(gatewayActions.editRelay({ relayId: null }));
  }
}

/** What the server found wrong, at the fields of this form. */
function placedHere(problem: ShownProblem | null): ShownProblem | null {
  const fields: Readonly<Record<string, string>> = {
    'to.linkId': 'toLink',
    'to.path': 'toPath',
    'from.linkId': 'fromLink',
    'from.path': 'fromPath',
  };
  return (
    problem && {
      ...problem,
      faults: (problem.faults ?? []).map(({ place, says }) => ({ place: fields[place] ?? place, says })),
    }
  );
}
