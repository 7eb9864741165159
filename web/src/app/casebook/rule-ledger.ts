import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { readingRulesFile, readingRulesFormat } from '@loyal-hinge/contract';
import type { ReadingRuleRow } from '@loyal-hinge/contract';
import { saveFile } from '../files/save-file';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { RuleForm } from './rule-form';
import { casebookActions, casebookFeature } from './state';

const columns: readonly Column<ReadingRuleRow>[] = [
  { key: 'name', title: 'Rule', text: ({ name }) => name },
  { key: 'pattern', title: 'Pattern', text: ({ pattern }) => pattern },
  { key: 'machine', title: 'Written by', text: ({ machine }) => machine },
  { key: 'means', title: 'Means', text: ({ means }) => (means === 'failed' ? 'it failed' : 'it worked'), short: true },
  { key: 'by', title: 'Changed by', text: ({ changedBy }) => changedBy, short: true },
];
const mostFileBytes = 1 << 20;

/** Rules by which lines are read that have no form that is known. */
@Component({
  selector: 'hinge-rule-ledger',
  imports: [FileButton, Ledger, LedgerCell, RuleForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Reading rules</h2>
    @if (mayAct()) {
      <p>
        <button type="button" class="act" (click)="changed.set('new')">Add a rule …</button>&ngsp;
        <hinge-file-button
          words="Take rules from a file"
          accept=".json"
          [mostBytes]="mostFileBytes"
          (taken)="take($event)"
        />&ngsp;
        @if ((rules() ?? []).length > 0) {
          <button type="button" class="act" (click)="save()">Save rules as a file</button>
        }
      </p>
      @if (fault()) {
        <p class="fails" role="alert">{{ fault() }}</p>
      }
    }
    @if (changed() === 'new') {
      <hinge-rule-form [row]="null" (left)="changed.set(null)" />
    } @else if (changedRow(); as row) {
      <hinge-rule-form [row]="row" (left)="changed.set(null)" />
    }
    @if (rules(); as known) {
      <hinge-ledger
        [columns]="columns"
        [rows]="known"
        [idOf]="idOf"
        [(find)]="find"
        what="any rule"
        fileName="reading-rules"
      >
        <span empty>
          Logs of Windows, of firewalls, tables and JSON are read as they are. For lines of any other form a rule says
          what stands where; choose it at the file, under <em>How it is read</em>.
        </span>
        <ng-template hingeCell="pattern" [hingeCellOf]="known" let-row
          ><span class="mono">{{ row.pattern }}</span></ng-template
        >
        <ng-template hingeCell="acts" [hingeCellOf]="known" let-row>
          @if (mayAct()) {
            <button type="button" class="act" (click)="changed.set(row.id)" [attr.aria-label]="'Change ' + row.name">
              Change …
            </button>
            <button type="button" class="act" (click)="remove(row)" [attr.aria-label]="'Remove ' + row.name">
              Remove …
            </button>
          }
        </ng-template>
      </hinge-ledger>
    }
  `,
  styles: `
    h2 {
      margin: 1.6rem 0 0.5rem;
    }
    .fails {
      color: var(--fails);
    }
  `,
})
export class RuleLedger {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly rules = this.store.selectSignal(casebookFeature.selectShownRules);
  readonly mayAct = may('engineer');
  /** The rule that is being changed, or `new`; null: none. */
  readonly changed = signal<string | null>(null);
  readonly changedRow = computed(() => (this.rules() ?? []).find(({ id }) => id === this.changed()) ?? null);
  readonly find = signal('');
  readonly fault = signal('');
  readonly columns = columns;
  readonly mostFileBytes = mostFileBytes;
  readonly idOf = ({ id }: ReadingRuleRow): string => id;

  constructor() {
    this.store.dispatch(casebookActions.showRules());
  }

  save(): void {
    const rules = (this.rules() ?? []).map(({ name, pattern, machine, means }) => ({ name, pattern, machine, means }));
    const file = { format: readingRulesFormat, version: 1, rules };
    saveFile('reading-rules.json', 'application/json', JSON.stringify(file, null, 2));
  }

  /** What is wrong with a file is told before anything is sent. */
  async take([file]: readonly File[]): Promise<void> {
    this.fault.set('');
    const read = readingRulesFile.safeParse(parsed((await file?.text()) ?? ''));
    if (read.success) this.store.dispatch(casebookActions.takeRules({ file: read.data }));
    else this.fault.set(`${file?.name ?? 'The file'} can’t be taken. ${read.error.issues[0]?.message ?? ''}`);
  }

  remove({ id, name }: ReadingRuleRow): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'Files that are read by it are read again without a rule. To go back, add it again.',
      does: 'Remove',
      run: () => this.store.dispatch(casebookActions.removeRule({ id, name })),
    });
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
