import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { debounceTime, merge } from 'rxjs';
import { byNumber } from '@loyal-hinge/core';
import { readingRuleWish } from '@loyal-hinge/contract';
import type { ReadingRuleRow, ReadingRuleWish } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { casebookActions, casebookFeature } from './state';

const meanings = [
  { key: 'failed', word: 'it failed, unless a code says otherwise' },
  { key: 'worked', word: 'it worked, unless a code says otherwise' },
] as const;
const waitMs = 300;
const mostSample = 20_000;

/** A reading rule, with what it makes of a sample while it is being written. */
@Component({
  selector: 'hinge-rule-form',
  imports: [Choose, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="row() ? 'Change ' + row()?.name : 'Add a reading rule'"
      does="Save"
      [form]="form"
      [busy]="running().includes('rule')"
      (sent)="save()"
      (left)="left.emit()"
    >
      <p class="faint">
        What stands between names must stand in the line, and a name takes what lies up to it. Names that count:
        <span class="mono">{{ names }}</span>. <span class="mono">{{ anything }}</span> takes anything.
      </p>
      <hinge-text label="Name" [control]="form.controls.name" />
      <hinge-text label="Written by the machine" [control]="form.controls.machine">
        Where lines don’t name it themselves; may stay empty.
      </hinge-text>
      <hinge-choose label="A line that fits means" [formControl]="form.controls.means" [choices]="meanings" />
      <hinge-text
        class="wide"
        label="Pattern"
        kind="technical"
        [placeholder]="example"
        [control]="form.controls.pattern"
      />
      <hinge-text class="wide" label="Some lines of such a log, to try it" kind="lines" [rows]="5" [control]="sample">
        They are read while you write, and not kept.
      </hinge-text>
      <div class="wide" aria-live="polite">
        @if (told(); as trial) {
          @if (trial.fault; as fault) {
            <p class="fails">At letter {{ fault.at + 1 }}: {{ fault.says }}</p>
          } @else if (trial.lines.length > 0) {
            <p>{{ fitting() }}</p>
            <table class="tried">
              <thead>
                <tr>
                  @for (name of parts(); track name) {
                    <th scope="col">{{ name }}</th>
                  }
                </tr>
              </thead>
              <tbody>
                @for (line of trial.lines; track $index) {
                  <tr>
                    @if (line.parts; as found) {
                      @for (name of parts(); track name) {
                        <td>{{ found[name] }}</td>
                      }
                    } @else {
                      <td class="fails" [attr.colspan]="parts().length">does not fit: {{ line.text }}</td>
                    }
                  </tr>
                }
              </tbody>
            </table>
          }
        }
      </div>
    </hinge-form-sheet>
  `,
  styles: `
    .wide {
      grid-column: 1 / -1;
    }
    .fails {
      color: var(--fails);
    }
    .tried {
      border-collapse: collapse;
      font-size: 0.88rem;
      margin-bottom: 0.6rem;
    }
    th,
    td {
      text-align: left;
      padding: 0.15rem 1rem 0.15rem 0;
      overflow-wrap: anywhere;
      vertical-align: top;
    }
    th {
      color: var(--faint);
      font-weight: 600;
    }
  `,
})
export class RuleForm implements OnInit {
  private readonly store = inject(Store);
  readonly row = input.required<ReadingRuleRow | null>();
  readonly left = output();
  readonly running = this.store.selectSignal(casebookFeature.selectRunning);
  private readonly trial = this.store.selectSignal(casebookFeature.selectShownTrial);
  readonly form = contractForm(readingRuleWish.shape, {
    name: '',
    pattern: '',
    machine: '',
    means: 'failed' as ReadingRuleWish['means'],
  });
  readonly sample = new FormControl('', { nonNullable: true });
  private readonly typed = toSignal(
    merge(this.form.controls.pattern.valueChanges, this.sample.valueChanges).pipe(debounceTime(waitMs)),
  );
  private readonly isTried = signal(false);
  readonly told = computed(() => (this.isTried() ? this.trial() : null));
  readonly parts = computed(() => {
    const names = new Set((this.told()?.lines ?? []).flatMap(({ parts }) => Object.keys(parts ?? {})));
    return names.size > 0 ? [...names] : ['line'];
  });
  readonly fitting = computed(() => {
    const lines = this.told()?.lines ?? [];
    const fit = lines.filter(({ parts }) => parts !== null).length;
    return `${fit} of ${byNumber(lines.length, '1 line fits', '# lines fit')}.`;
  });
  readonly meanings = meanings;
  readonly names = '{time} {from} {to} {port} {who} {code} {text}';
  readonly anything = '{}';
  readonly example = '{time} {} login of {who} from {from} failed: {text}';

  constructor() {
    effect(() => {
      this.typed();
      untracked(() => this.attempt());
    });
  }

  ngOnInit(): void {
    const row = this.row();
    if (row) this.form.reset({ name: row.name, pattern: row.pattern, machine: row.machine, means: row.means });
  }

  private attempt(): void {
    const pattern = this.form.controls.pattern.value;
    const sample = this.sample.value.slice(0, mostSample);
    if (pattern === '' || sample.trim() === '') return this.isTried.set(false);
    this.isTried.set(true);
    this.store.dispatch(casebookActions.tryRule({ wish: { pattern, zone: 'UTC', sample } }));
  }

  save(): void {
    this.store.dispatch(casebookActions.saveRule({ id: this.row()?.id ?? null, wish: this.form.getRawValue() }));
    this.left.emit();
  }
}
