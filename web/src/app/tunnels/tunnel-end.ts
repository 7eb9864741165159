import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Outpost, TunnelEnd } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { Moment } from '../signs/moment';
import { tunnelActions, tunnelsFeature } from './state';
import { bytesText, groupsOf, holdWords, lineWordsOf, outpostTones, outpostWords, roundTripText } from './tunnel-words';

/** One end of a tunnel: how it stands, and what can be done so that it stands. */
@Component({
  selector: 'hinge-tunnel-end',
  imports: [FileButton, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <header>
        <h2>{{ end().outpost.machine }}</h2>
        <span class="faint">{{ end().side === 'listens' ? 'listens' : 'dials' }}</span>
      </header>
      <dl>
        <dt>Process</dt>
        <dd>
          <strong [class]="tones[end().outpost.state]">{{ words[end().outpost.state] }}</strong>
          @if (end().outpost.state === 'away' && end().outpost.heardAt; as at) {
            <span class="faint"> since <hinge-moment [at]="at" show="near" /></span>
          }
        </dd>
        @if (end().fault; as says) {
          <dt>Fault</dt>
          <dd class="fails">{{ says }}</dd>
        }
        @if (line(); as says) {
          <dt>Line</dt>
          <dd [class]="end().statistics?.state === 'joined' ? 'holds' : 'fails'">{{ says }}</dd>
        }
        <dt>Configuration</dt>
        <dd>{{ holds() }}</dd>
        <dt>Certificate</dt>
        <dd>
          @if (end().outpost.notAfter; as until) {
            valid until <hinge-moment [at]="until" show="day" />
          } @else {
            none yet
          }
        </dd>
        @if (end().statistics; as told) {
          <dt>Streams</dt>
          <dd>{{ told.streams.open }} open, {{ told.streams.total }} since its start</dd>
          <dt>Carried</dt>
          <dd>{{ bytes(told.bytes.sent) }} sent, {{ bytes(told.bytes.received) }} received</dd>
          <dt>Round trip</dt>
          <dd>{{ trip() }}</dd>
          <dt>Joined</dt>
          <dd>{{ told.joins === 1 ? 'once' : told.joins + ' times' }} since its start</dd>
          @if (refusals().length > 0) {
            <dt>Refused</dt>
            <dd>{{ refusals().join(', ') }}</dd>
          }
        }
      </dl>
      @if (end().outpost.state === 'asks') {
        <p>
          A process asks for the certificate of this end. Sign only if the machine shows the same key:<br />
          <code>{{ key() }}</code>
        </p>
      }
      <div class="actions">
        @if (end().outpost.state === 'asks') {
          <button type="button" class="act main" [disabled]="!mayAct() || !signer()" (click)="open('sign')">
            Sign …
          </button>
          <button type="button" class="act" [disabled]="!mayAct()" (click)="refuse(end().outpost)">Refuse …</button>
          @if (!signer()) {
            <span class="faint">No authority whose key is stored here can sign.</span>
          }
        } @else {
          <button type="button" class="act" [disabled]="!mayAct()" (click)="open('ticket')">Create a ticket …</button>
          <hinge-file-button
            words="Import its request …"
            accept=".pem,.csr"
            [disabled]="!mayAct()"
            (taken)="bring($event)"
          />
          @if (end().outpost.thumbprint !== null) {
            <button type="button" class="act" [disabled]="!mayAct()" (click)="fetch(end().outpost)">
              Export its bundle
            </button>
          }
        }
      </div>
    </section>
  `,
  styles: `
    section {
      height: 100%;
      box-sizing: border-box;
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.7rem 1rem;
    }
    header {
      display: flex;
      gap: 0.6rem;
      align-items: baseline;
    }
    dl {
      display: grid;
      grid-template-columns: 8rem minmax(0, 1fr);
      gap: 0.2rem 0.8rem;
      margin: 0.5rem 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
    }
    code {
      font-family: var(--mono);
      font-size: 0.86em;
    }
  `,
})
export class TunnelEndPanel {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly end = input.required<TunnelEnd>();
  readonly mayAct = may('engineer');
  readonly signer = this.store.selectSignal(tunnelsFeature.selectSigner);
  readonly words = outpostWords;
  readonly tones = outpostTones;
  readonly bytes = bytesText;
  readonly line = computed(() => lineWordsOf(this.end()));
  readonly holds = computed(() => holdWords[this.end().holds]);
  readonly trip = computed(() => roundTripText(this.end()));
  readonly key = computed(() => groupsOf(this.end().outpost.asksWithKey ?? ''));
  readonly refusals = computed(() =>
    Object.entries(this.end().statistics?.refused ?? {}).flatMap(([why, times]) =>
      times > 0 ? [`${times} × ${why}`] : [],
    ),
  );

  open(form: 'ticket' | 'sign'): void {
    this.store.dispatch(tunnelActions.openForm({ endForm: { outpostId: this.end().outpost.id, form } }));
  }

  refuse(outpost: Outpost): void {
    this.ask.first({
      title: 'Refuse this request?',
      says: `The process that asks for the certificate of ${outpost.name} is told so, and its ticket can’t be used any more.`,
      does: 'Refuse',
      run: () => this.store.dispatch(tunnelActions.command({ command: { does: 'refuse', outpost } })),
    });
  }

  fetch(outpost: Outpost): void {
    this.store.dispatch(tunnelActions.command({ command: { does: 'fetch bundle', outpost } }));
  }

  async bring([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const requestPem = await file.text();
    const { outpost } = this.end();
    this.store.dispatch(tunnelActions.command({ command: { does: 'bring request', outpost, requestPem } }));
  }
}
