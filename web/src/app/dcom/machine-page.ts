import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, counted, listed } from '@loyal-hinge/core';
import type { DcomApplicationView, DcomExport, DcomView } from '@loyal-hinge/contract';
import { base64Of } from '../files/base64';
import { FileButton } from '../forms/file-button';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { ExportCommands } from './export-commands';
import { RightsGrid } from './rights-grid';
import { SmallestSettings } from './smallest-settings';
import { dcomActions, dcomFeature } from './state';

const mostOthers = 20;
const fromWords = { own: 'its own', default: 'the machine’s default', none: 'not in the export' } as const;

/** One machine: who may do what with its classic applications, by the exports that were brought from it. */
@Component({
  selector: 'hinge-dcom-machine-page',
  imports: [
    ChoiceField,
    ExportCommands,
    FileButton,
    Moment,
    PagePath,
    ProblemNotice,
    RightsGrid,
    SmallestSettings,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      @if (view(); as known) {
        <hinge-path above="DCOM" way="/dcom" [here]="known.machine" />
        <header class="page-head">
          <h1>{{ headline() }}</h1>
          <div class="actions">
            @if (imports()) {
              <span class="faint" role="status">Reading the files …</span>
            }
            <hinge-file-button
              words="Bring files …"
              about="of {{ known.machine }}"
              accept=".reg,.zip,.csv,.txt"
              [multiple]="true"
              [disabled]="!mayBring() || imports()"
              (taken)="bring($event)"
            />
          </div>
        </header>
        <hinge-problem [problem]="problem()" />
        <hinge-export-commands [open]="known.exports.length === 0" />
        @if (known.exports.length > 0) {
          <p class="exports">
            <hinge-choice
              word="Settings from"
              label="Export"
              [choices]="exportChoices()"
              [chosen]="String(known.shown)"
              (chose)="go({ export: $event })"
            />
            @if (before(); as older) {
              @if (compared(); as told) {
                <button type="button" class="act" (click)="compareNoMore()">Close the comparison</button>
              } @else {
                <button type="button" class="act" (click)="compare(older)">Compare with the export before</button>
              }
            }
          </p>
          @if (compared(); as told) {
            <section>
              <h2>What changed since <hinge-moment [at]="told.before.takenAt" show="near" /></h2>
              <table class="ledger">
                <thead>
                  <tr>
                    <th scope="col">Setting</th>
                    <th scope="col">Before</th>
                    <th scope="col">After</th>
                  </tr>
                </thead>
                <tbody>
                  @for (one of told.differences; track one.what) {
                    <tr>
                      <th scope="row">{{ one.what }}</th>
                      <td class="mono">{{ one.before ?? 'not there' }}</td>
                      <td class="mono">{{ one.after ?? 'not there' }}</td>
                    </tr>
                  } @empty {
                    <tr>
                      <td colspan="3">Nothing.</td>
                    </tr>
                  }
                </tbody>
              </table>
            </section>
          }
          @if (known.faults.length > 0) {
            <details class="faults">
              <summary>{{ faultWords() }}</summary>
              <ul>
                @for (fault of known.faults; track $index) {
                  <li>{{ fault.file }}, line {{ fault.line }}: {{ fault.says }}</li>
                }
              </ul>
            </details>
          }
          @for (application of servers(); track application.appId) {
            <section>
              <h2>{{ application.name }}</h2>
              <p class="faint">{{ aboutOf(application) }}</p>
              @for (fault of application.faults; track fault) {
                <p class="fails">One of its permissions can’t be read: {{ fault }}</p>
              }
              <hinge-rights-grid [rows]="application.rows" />
            </section>
          } @empty {
            <p class="empty">
              None of the applications of this export is a classic server of the plant: a link must name it by a ProgID
              or CLSID that stands in the export.
            </p>
          }
          @if (known.smallest; as smallest) {
            <hinge-smallest-settings [smallest]="smallest" [machineId]="known.machineId" [machine]="known.machine" />
          }
          <section>
            <h2>The whole machine</h2>
            <dl>
              @for (setting of known.settings; track setting.what) {
                <div>
                  <dt>{{ setting.what }}</dt>
                  <dd [class.weak]="setting.isWeak" [class.faint]="setting.value === null">
                    {{ setting.value ?? 'not in the export' }}
                  </dd>
                </div>
              }
              <div>
                <dt>Accounts</dt>
                <dd [class.faint]="known.accounts.length === 0">{{ accountWords() }}</dd>
              </div>
            </dl>
          </section>
          @if (others().length > 0) {
            <details>
              <summary>{{ otherWords() }}</summary>
              @for (application of others().slice(0, mostShown()); track application.appId) {
                <section>
                  <h3>{{ application.name }}</h3>
                  <p class="faint">{{ aboutOf(application) }}</p>
                  <hinge-rights-grid [rows]="application.rows" />
                </section>
              }
              @if (others().length > mostShown()) {
                <button type="button" class="act" (click)="mostShown.set(mostShown() + 20)">Show more</button>
              }
            </details>
          }
        }
      } @else {
        <hinge-problem [problem]="problem()" />
        @if (!problem()) {
          <hinge-waiting />
        }
      }
    </div>
  `,
  styles: `
    section {
      margin: 1.2rem 0;
    }
    .exports {
      display: flex;
      gap: 1rem;
      align-items: center;
      margin: 0.6rem 0;
    }
    dl {
      display: grid;
      gap: 0.25rem;
      margin: 0.4rem 0;
    }
    dl div {
      display: grid;
      grid-template-columns: 24rem 1fr;
    }
    dd {
      margin: 0;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    .fails {
      color: var(--fails);
    }
    summary {
      cursor: pointer;
      margin: 0.6rem 0;
    }
    .mono {
      overflow-wrap: anywhere;
    }
  `,
})
export class DcomMachinePage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly String = String;
  readonly machineId = input.required<string>();
  readonly export = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(dcomFeature.selectShownMachine);
  readonly compared = this.store.selectSignal(dcomFeature.selectShownDifferences);
  readonly problem = this.store.selectSignal(dcomFeature.selectProblem);
  readonly imports = this.store.selectSignal(dcomFeature.selectImports);
  readonly mayBring = may('engineer');
  readonly mostShown = signal(mostOthers);
  readonly servers = computed(() => (this.view()?.applications ?? []).filter(({ servers }) => servers.length > 0));
  readonly others = computed(() => (this.view()?.applications ?? []).filter(({ servers }) => servers.length === 0));
  readonly otherWords = computed(() => `${counted(this.others().length, 'other application')} of this machine`);
  readonly faultWords = computed(() => `${counted(this.view()?.faults.length ?? 0, 'line')} could not be read`);
  readonly accountWords = computed(() => {
    const accounts = this.view()?.accounts ?? [];
    return accounts.length === 0 ? 'none was brought' : listed(accounts.map(({ name, sid }) => name || sid));
  });
  readonly exportChoices = computed(() =>
    (this.view()?.exports ?? []).map(({ id, takenAt, takenBy }) => ({
      key: String(id),
      word: `${momentWords(takenAt)}, by ${takenBy}`,
    })),
  );
  readonly before = computed<DcomExport | null>(() => {
    const { exports = [], shown = null } = this.view() ?? {};
    return exports[exports.findIndex(({ id }) => id === shown) + 1] ?? null;
  });
  readonly headline = computed(() => headlineOf(this.view(), this.servers()));

  constructor() {
    effect(() => {
      const [machineId, exportId] = [this.machineId(), Number(this.export())];
      const look = { machineId, exportId: Number.isInteger(exportId) && exportId > 0 ? exportId : null };
      untracked(() => this.store.dispatch(dcomActions.look({ look })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(dcomActions.leave()));
  }

  async bring(list: readonly File[]): Promise<void> {
    const machineId = this.machineId();
    const files = await Promise.all(list.map(async (file) => ({ name: file.name, base64: await base64Of(file) })));
    this.go({ export: '' });
    this.store.dispatch(dcomActions.import({ machineId, files }));
  }

  compare({ id }: DcomExport): void {
    const after = this.view()?.shown ?? null;
    if (after !== null) this.store.dispatch(dcomActions.compare({ machineId: this.machineId(), before: id, after }));
  }

  compareNoMore(): void {
    this.store.dispatch(dcomActions.compareNoMore());
  }

  aboutOf({ progIds, launchFrom, accessFrom, level, runAs, endpoints }: DcomApplicationView): string {
    const parts = [
      progIds.length > 0 ? listed(progIds) : null,
      `launch permission: ${fromWords[launchFrom]}`,
      `access permission: ${fromWords[accessFrom]}`,
      level === null ? null : `level: ${level}`,
      runAs === null ? null : `runs as ${runAs}`,
      endpoints.length === 0 ? null : `ports: ${endpoints.join(', ')}`,
    ];
    return `${parts.filter((part) => part !== null).join('; ')}.`;
  }
}

const momentWords = (at: string): string =>
  new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

function headlineOf(view: DcomView | null, servers: readonly DcomApplicationView[]): string {
  if (!view) return '';
  if (view.exports.length === 0) return `The settings of ${view.machine} are not known yet.`;
  const cells = servers.flatMap(({ rows }) => rows.flatMap((row) => row.cells));
  const count = (standing: string): number => cells.filter((cell) => cell.standing === standing).length;
  const [missing, wide, excess] = [count('missing'), count('wide'), count('excess')];
  const told = [
    missing > 0 ? byNumber(missing, '1 right is missing', '# rights are missing') : null,
    wide > 0 ? byNumber(wide, '1 is given to nearly everybody', '# are given to nearly everybody') : null,
    excess > 0 ? byNumber(excess, '1 is given and not needed', '# are given and not needed') : null,
  ].filter((part) => part !== null);
  return told.length === 0
    ? `${view.machine}: what its classic servers need is given, and no more.`
    : `${view.machine}: ${told.join('; ')}.`;
}
