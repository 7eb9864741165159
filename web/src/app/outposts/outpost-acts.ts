import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Outpost } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { outpostActions, outpostsFeature } from './state';
import { groupsOf } from './outpost-words';

/** How an outpost comes to its certificate: by a ticket, or by its request that is brought here. */
@Component({
  selector: 'hinge-outpost-acts',
  imports: [FileButton],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (outpost().state === 'asks') {
      <p>
        A process asks for the certificate of this outpost. Sign only if the machine shows the same key:<br />
        <code>{{ key() }}</code>
      </p>
    }
    <div class="actions">
      @if (outpost().state === 'asks') {
        <button type="button" class="act main" [disabled]="!mayAct() || !signer()" (click)="open('sign')">
          Sign …
        </button>
        <button type="button" class="act" [disabled]="!mayAct()" (click)="refuse()">Refuse …</button>
        @if (!signer()) {
          <span class="faint">No authority whose key is stored here can sign.</span>
        }
      } @else {
        <button type="button" class="act" [disabled]="!mayAct()" (click)="open('ticket')">Create a ticket …</button>
        @if (hasBundle()) {
          <hinge-file-button
            words="Import its request …"
            accept=".pem,.csr"
            [disabled]="!mayAct()"
            (taken)="bring($event)"
          />
          @if (outpost().thumbprint !== null) {
            <button type="button" class="act" [disabled]="!mayAct()" (click)="fetch()">Export its bundle</button>
          }
        }
      }
      <ng-content />
    </div>
  `,
  styles: `
    p {
      margin: 0 0 0.5rem;
    }
    code {
      font-family: var(--mono);
      font-size: 0.86em;
    }
  `,
})
export class OutpostActs {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly outpost = input.required<Outpost>();
  /** Whether it can be set up by files alone. */
  readonly hasBundle = input(false);
  readonly mayAct = may('engineer');
  readonly signer = this.store.selectSignal(outpostsFeature.selectSigner);
  readonly key = computed(() => groupsOf(this.outpost().asksWithKey ?? ''));

  open(form: 'ticket' | 'sign'): void {
    this.store.dispatch(outpostActions.openForm({ endForm: { outpostId: this.outpost().id, form } }));
  }

  refuse(): void {
    const outpost = this.outpost();
    this.ask.first({
      title: 'Refuse this request?',
      says: `The process that asks for the certificate of ${outpost.name} is told so, and its ticket can’t be used any more.`,
      does: 'Refuse',
      run: () => this.store.dispatch(outpostActions.command({ command: { does: 'refuse', outpost } })),
    });
  }

  fetch(): void {
    this.store.dispatch(outpostActions.command({ command: { does: 'fetch bundle', outpost: this.outpost() } }));
  }

  async bring([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const requestPem = await file.text();
    const outpost = this.outpost();
    this.store.dispatch(outpostActions.command({ command: { does: 'bring request', outpost, requestPem } }));
  }
}
