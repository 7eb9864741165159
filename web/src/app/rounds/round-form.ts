import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { roundIntervals } from '@loyal-hinge/core/casebook';
import type { RoundInterval } from '@loyal-hinge/core/casebook';
import { roundWish } from '@loyal-hinge/contract';
import type { RoundRow, RoundScope, RoundsView, RoundWish } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { ChooseSome } from '../forms/choose-some';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { noQuiet, quietOf, QuietFields, quietShape, quietValues } from './quiet-fields';
import { roundsActions, roundsFeature } from './state';

const plantKey = 'the plant';
const linksKey = 'some links';
const zoneKey = (id: string): string => `zone ${id}`;
const intervalWord = (minutes: number): string =>
  minutes < 60 ? `${minutes} minutes` : minutes === 60 ? 'hour' : minutes === 1440 ? 'day' : `${minutes / 60} hours`;

/** A round: which links, how often, and when not. */
@Component({
  selector: 'hinge-round-form',
  imports: [Choose, ChooseSome, FormSheet, NumberField, QuietFields, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a round'"
      does="Save"
      [form]="form"
      [busy]="running().includes('save')"
      (sent)="save()"
      (left)="leave()"
    >
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-choose label="Checks" [formControl]="form.controls.scope" [choices]="scopes()" />
      @if (typed().scope === linksKey) {
        <hinge-choose-some
          label="Which links"
          placeholder="at least one"
          [control]="form.controls.linkIds"
          [choices]="linkChoices()"
        />
      }
      <hinge-choose label="Every" [formControl]="form.controls.every" [choices]="intervals" />
      <hinge-text label="One of them begins at" [control]="form.controls.at">
        A time of day such as 06:00; the others follow from it.
      </hinge-text>
      <hinge-text label="By the clock of" [control]="form.controls.zone">
        UTC, +01:00, or a name such as Europe/Berlin.
      </hinge-text>
      <hinge-number label="Links in a minute, at most" [control]="form.controls.perMinute">
        One machine is never dialled twice at once, whatever stands here.
      </hinge-number>
      <hinge-quiet-fields [controls]="form.controls" [isQuiet]="typed().isQuiet ?? false">
        in which none begins
      </hinge-quiet-fields>
      <hinge-switch label="Paused" [control]="form.controls.isPaused" />
    </hinge-form-sheet>
  `,
})
export class RoundForm implements OnInit {
  private readonly store = inject(Store);
  readonly view = input.required<RoundsView>();
  readonly row = input<RoundRow | null>(null);
  readonly running = this.store.selectSignal(roundsFeature.selectRunning);
  readonly scopes = computed(() => [
    { key: plantKey, word: 'the whole plant' },
    ...this.view().zones.map(({ id, name }) => ({ key: zoneKey(id), word: `links of the zone ${name}` })),
    { key: linksKey, word: 'links that I choose' },
  ]);
  readonly linkChoices = computed(() => this.view().links.map(({ id, name }) => ({ key: id, word: name })));
  readonly intervals = roundIntervals.map((minutes) => ({ key: String(minutes), word: intervalWord(minutes) }));
  readonly linksKey = linksKey;
  readonly form = contractForm(
    {
      name: roundWish.shape.name,
      at: roundWish.shape.at,
      zone: roundWish.shape.zone,
      perMinute: roundWish.shape.perMinute,
      ...quietShape,
    },
    {
      name: '',
      scope: plantKey,
      linkIds: [] as string[],
      every: '60',
      at: '00:00',
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      perMinute: 60,
      ...noQuiet('06:00', '07:00'),
      isPaused: false,
    },
  );
  readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });

  ngOnInit(): void {
    const row = this.row();
    if (!row) return;
    const { scope, quiet } = row;
    this.form.patchValue({
      ...row,
      scope: scope.kind === 'plant' ? plantKey : scope.kind === 'zone' ? zoneKey(scope.zoneId) : linksKey,
      linkIds: scope.kind === 'links' ? [...scope.linkIds] : [],
      every: String(row.everyMinutes),
      ...quietValues(quiet),
    });
  }

  save(): void {
    const typed = this.form.getRawValue();
    const { name, at, zone, perMinute, isPaused, linkIds, every, scope } = typed;
    if (scope === linksKey && linkIds.length === 0) return this.want('linkIds', 'Choose at least one link.');
    if (typed.isQuiet && typed.quietDays.length === 0) return this.want('quietDays', 'Choose at least one day.');
    const wish: RoundWish = {
      name,
      at,
      zone,
      perMinute,
      isPaused,
      scope: scopeOf(scope, linkIds),
      everyMinutes: Number(every) as RoundInterval,
      quiet: quietOf(typed),
    };
    const [never] = roundWish.safeParse(wish).error?.issues ?? [];
    if (never) return this.want('quietTo', never.message);
    this.store.dispatch(roundsActions.save({ id: this.row()?.id ?? null, wish }));
  }

  leave(): void {
    this.store.dispatch(roundsActions.editNoMore());
  }

  private want(field: 'linkIds' | 'quietDays' | 'quietTo', says: string): void {
    this.form.controls[field].setErrors({ fits: says });
    this.form.controls[field].markAsTouched();
  }
}

function scopeOf(key: string, linkIds: readonly string[]): RoundScope {
  if (key === plantKey) return { kind: 'plant' };
  return key === linksKey
    ? { kind: 'links', linkIds: [...linkIds] }
    : { kind: 'zone', zoneId: key.slice(zoneKey('').length) };
}
