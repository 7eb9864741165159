import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, wayWords } from '@loyal-hinge/core';
import { base64Of } from '../files/base64';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { HolderHistory } from './holder-history';
import { HolderLists } from './holder-lists';
import { isRunning, trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { WayForm } from './way-form';
import { Waiting } from '../shell/waiting';
import { Message } from 'primeng/message';

/** The lists of one application: what is in them, how they are reached, and what changed when. */
@Component({
  selector: 'hinge-holder-page',
  imports: [Message, Waiting, FileButton, HolderHistory, HolderLists, TrustHead, WayForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()">
        @if (holder(); as told) {
          @if (told.party.way === 'push') {
            <button type="button" class="act main" [disabled]="!mayAct() || isReading()" (click)="read()">
              {{ isReading() ? 'Reading …' : 'Read the lists' }}
            </button>
          }
          <button type="button" class="act" [disabled]="!mayAct()" (click)="fetchBundle()">Export as a bundle</button>
          <hinge-file-button
            words="Import a PKI folder (zip) …"
            accept=".zip"
            [disabled]="!mayAct() || isImporting()"
            (taken)="takeBundle($event)"
          />
        }
      </hinge-trust-head>
      @if (holder(); as told) {
        @if (told.party.fault; as fault) {
          <p-message severity="error"><strong>The last attempt to read them failed.</strong> {{ fault }}</p-message>
        }
        @if (told.unreadable.length > 0) {
          <p-message severity="warn">
            <strong>Some entries of the lists can’t be read and are ignored.</strong>
            <ul>
              @for (says of told.unreadable; track $index) {
                <li>{{ says }}</li>
              }
            </ul>
          </p-message>
        }
        <div class="leaves wide-left">
          <div>
            <hinge-holder-lists [told]="told" />
          </div>
          <div>
            <h2>How they are changed</h2>
            @if (told.party.way === 'held') {
              <p>By Loyal Hinge, which holds the key and the lists of this client.</p>
            } @else {
              <hinge-way-form [told]="told" />
            }
            <hinge-holder-history [told]="told" />
          </div>
        </div>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class HolderPage {
  private readonly store = inject(Store);
  /** From the address. */
  readonly id = input.required<string>();
  readonly holder = this.store.selectSignal(trustFeature.selectHolder);
  readonly problem = this.store.selectSignal(trustFeature.selectProblem);
  readonly isReading = this.store.selectSignal(isRunning('read'));
  readonly isImporting = this.store.selectSignal(isRunning('import bundle'));
  readonly mayAct = may('engineer');
  readonly headline = computed(() => {
    const party = this.holder()?.party;
    if (!party) return 'Lists';
    const known = party.readAt !== null || party.way === 'held';
    if (!known) return `The lists of ${party.name} have not been read yet.`;
    const trusts = byNumber(party.trusted, `${party.name} trusts # certificate`, `${party.name} trusts # certificates`);
    const aside = party.rejected === 0 ? '' : ` and has set ${party.rejected} aside`;
    return `${trusts}${aside}; its lists are changed ${wayWords[party.way]}.`;
  });

  constructor() {
    this.store.dispatch(trustActions.load({ request: { view: 'parties' } }));
    effect(() => this.store.dispatch(trustActions.show({ request: { view: 'holder', id: this.id() } })));
  }

  read(): void {
    this.store.dispatch(trustActions.command({ command: { does: 'read', id: this.id() } }));
  }

  fetchBundle(): void {
    this.store.dispatch(trustActions.command({ command: { does: 'fetch bundle', id: this.id() } }));
  }

  async takeBundle([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const body = {
      file: { name: file.name, base64: await base64Of(file) },
      copiedAt: new Date(file.lastModified).toISOString(),
    };
    this.store.dispatch(trustActions.command({ command: { does: 'import bundle', id: this.id(), body } }));
  }
}
