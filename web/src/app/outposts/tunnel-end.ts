import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { TunnelEnd } from '@loyal-hinge/contract';
import { Moment } from '../signs/moment';
import { OutpostActs } from './outpost-acts';
import { bytesText, holdWords, lineWordsOf, outpostTones, outpostWords, roundTripText } from './outpost-words';

/** One end of a tunnel: how it stands, and what can be done so that it stands. */
@Component({
  selector: 'hinge-tunnel-end',
  imports: [Moment, OutpostActs],
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
      <hinge-outpost-acts [outpost]="end().outpost" [hasBundle]="true" />
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
  `,
})
export class TunnelEndPanel {
  readonly end = input.required<TunnelEnd>();
  readonly words = outpostWords;
  readonly tones = outpostTones;
  readonly bytes = bytesText;
  readonly line = computed(() => lineWordsOf(this.end()));
  readonly holds = computed(() => holdWords[this.end().holds]);
  readonly trip = computed(() => roundTripText(this.end()));
  readonly refusals = computed(() =>
    Object.entries(this.end().statistics?.refused ?? {}).flatMap(([why, times]) =>
      times > 0 ? [`${times} × ${why}`] : [],
    ),
  );
}
