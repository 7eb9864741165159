import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Dialog } from 'primeng/dialog';
import { judgeEndpointUrl } from '@loyal-hinge/core';
import type { Choosable } from '@loyal-hinge/contract';
import { FirstField } from '../forms/first-field';
import { Choose } from '../forms/choose';
import type { ShownProblem } from '../http/problem';
import { ProblemNotice } from '../http/problem-notice';
import { draftOf, fieldsOf, idOf, rowOf } from './fields';
import type { Draft, Field, Offered } from './fields';
import type { Editing, PlantRow } from './state';

const titles = { links: 'link', applications: 'application', machines: 'machine', zones: 'zone' } as const;

/** Adds or changes one part of the plant. What was typed stays until it is kept or left on purpose. */
@Component({
  selector: 'hinge-part-form',
  imports: [Choose, Dialog, FormsModule, FirstField, ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="title()"
      [visible]="true"
      (visibleChange)="$event || left.emit()"
      [modal]="true"
      [focusOnShow]="false"
      [style]="{ width: '38rem' }"
      [breakpoints]="{ '700px': '96vw' }"
    >
      <form hingeFirstField (ngSubmit)="keep()">
        <hinge-problem [problem]="problem()" />
        @for (field of fields(); track field.key) {
          @if (field.kind === 'some of') {
            <fieldset>
              <legend>{{ field.label }}</legend>
              @for (option of field.options; track option.key) {
                <label
                  ><input
                    type="checkbox"
                    [checked]="has(field.key, option.key)"
                    (change)="toggle(field.key, option.key)"
                  />
                  {{ option.word }}</label
                >
              }
            </fieldset>
          } @else if (field.kind === 'one of') {
            <hinge-choose
              [label]="field.label"
              [name]="field.key"
              [disabled]="field.fixed ?? false"
              [ngModel]="draft()[field.key]"
              (ngModelChange)="set(field.key, $event)"
              [choices]="field.options ?? []"
              [looksElsewhere]="field.many !== undefined"
              (looked)="field.many && lookFor.emit({ of: field.many, find: $event })"
            >
              @if (field.hint) {
                <small class="faint">{{ field.hint }}</small>
              }
            </hinge-choose>
          } @else {
            <label class="field" [for]="field.key"
              >{{ field.label }}
              @switch (field.kind) {
                @case ('lines') {
                  <textarea
                    class="mono"
                    rows="3"
                    [id]="field.key"
                    [name]="field.key"
                    [ngModel]="draft()[field.key]"
                    (ngModelChange)="set(field.key, $event)"
                  ></textarea>
                }
                @default {
                  <input
                    [id]="field.key"
                    [name]="field.key"
                    [readonly]="field.fixed ?? false"
                    [ngModel]="draft()[field.key]"
                    (ngModelChange)="set(field.key, $event)"
                  />
                }
              }
              @if (field.hint) {
                <small class="faint">{{ field.hint }}</small>
              }
            </label>
            @if (field.key === 'endpointUrl' && flaws(); as told) {
              <div class="notice">
                <p>{{ told.says }}</p>
                @if (told.cleaned) {
                  <p>
                    As it should be: <code>{{ told.cleaned }}</code>
                    <button type="button" class="act" (click)="set('endpointUrl', told.cleaned)">Use this</button>
                  </p>
                }
              </div>
            }
          }
        }
        <div class="actions">
          <button type="submit" class="act main" [disabled]="isSaving()">
            {{ isSaving() ? 'Saving …' : 'Save' }}
          </button>
          <button type="button" class="act" (click)="left.emit()">Cancel</button>
        </div>
      </form>
    </p-dialog>
  `,
  styles: `
    fieldset {
      border: 1px solid var(--line);
      margin: 0 0 0.75rem;
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 0.2rem;
    }
    legend {
      font-weight: 600;
    }
    small {
      font-size: 0.84rem;
    }
  `,
})
export class PartForm {
  readonly editing = input.required<Editing>();
  readonly isSaving = input(false);
  /** Why it could not be saved. */
  readonly problem = input<ShownProblem | null>(null);
  readonly offered = input.required<Offered>();
  readonly lookFor = output<{ of: Choosable; find: string }>();
  readonly left = output();
  readonly kept = output<PlantRow>();
  readonly draft = signal<Draft>({});
  readonly title = computed(() =>
    `${this.editing().row ? 'Change' : 'Add'} a ${titles[this.editing().part]}`.replace(
      'a application',
      'an application',
    ),
  );
  readonly fields = computed(() =>
    fieldsOf(this.editing().part, this.offered(), this.editing().row === null).filter((field) => this.isShown(field)),
  );
  readonly flaws = computed(() => {
    const url = this.draft()['endpointUrl'];
    if (typeof url !== 'string' || url === 'opc.tcp://') return null;
    const server = this.offered().choices.servers?.choices.find(({ id }) => id === this.draft()['serverId']);
    const judged = judgeEndpointUrl(url, server?.port ?? undefined);
    return judged.flaws.length === 0
      ? null
      : { says: judged.flaws.map((flaw) => flaw.says).join(' '), cleaned: judged.cleaned };
  });
  private subject: PlantRow | null | undefined;

  constructor() {
    effect(() => {
      const { part, row } = this.editing();
      if (this.subject === row) return;
      this.subject = row;
      this.draft.set(draftOf(part, row, untracked(this.offered)));
    });
    // What is offered first comes after the form is there: the first of it is chosen where nothing is yet.
    effect(() => {
      const { part, row } = this.editing();
      const first = draftOf(part, row, this.offered());
      untracked(() => {
        const draft = this.draft();
        const empty = ['machineId', 'clientId', 'serverId'].filter((key) => draft[key] === '' && first[key]);
        if (empty.length > 0)
          this.draft.set({ ...draft, ...Object.fromEntries(empty.map((key) => [key, first[key] ?? ''])) });
      });
    });
  }

  set(key: string, value: string): void {
    const before = this.draft();
    const follows =
      key === 'name' && this.editing().row === null && before['id'] === idOf(String(before['name'] ?? ''));
    this.draft.set({ ...before, [key]: value, ...(follows ? { id: idOf(value) } : {}) });
  }

  has(key: string, value: string): boolean {
    const chosen = this.draft()[key];
    return Array.isArray(chosen) && chosen.includes(value);
  }

  toggle(key: string, value: string): void {
    const chosen = this.draft()[key];
    const list = Array.isArray(chosen) ? (chosen as readonly string[]) : [];
    this.draft.set({
      ...this.draft(),
      [key]: list.includes(value) ? list.filter((other) => other !== value) : [...list, value],
    });
  }

  keep(): void {
    this.kept.emit(rowOf(this.editing().part, this.draft(), this.editing().row));
  }

  private isShown({ when }: Field): boolean {
    return !when || this.draft()[when.key] === when.is;
  }
}
