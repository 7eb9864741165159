import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { byNumber } from '@loyal-hinge/core';
import type { GatewayView } from '@loyal-hinge/contract';
import { OutpostActs } from '../outposts/outpost-acts';
import { outpostTones, outpostWords } from '../outposts/outpost-words';
import { Moment } from '../signs/moment';

/** The process of a gateway: how it stands, and what can be done so that it stands. */
@Component({
  selector: 'hinge-gateway-process',
  imports: [Moment, OutpostActs, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <dl>
        <dt>Runs on</dt>
        <dd>{{ outpost().machine }}</dd>
        <dt>Process</dt>
        <dd>
          <strong [class]="tones[outpost().state]">{{ words[outpost().state] }}</strong>
          @if (outpost().state === 'away' && outpost().heardAt; as at) {
            <span class="faint"> since <hinge-moment [at]="at" show="near" /></span>
          }
        </dd>
        <dt>Clients dial</dt>
        <dd>
          opc.tcp://{{ view().gateway.address }}:{{ view().gateway.port }}
          @if (view().gateway.classic; as classic) {
            <br />classic://{{ view().gateway.address }}:{{ classic.mapperPort }}/{{ classic.program }}
          }
        </dd>
        <dt>Its line to here</dt>
        <dd>
          @if (outpost().notAfter; as until) {
            certificate valid until <hinge-moment [at]="until" show="day" />
          } @else {
            no certificate yet
          }
        </dd>
        <dt>In the plant</dt>
        <dd>
          <a routerLink="/plant" [queryParams]="{ part: 'links', find: view().gateway.outpost.name }">its links</a>,
          <a routerLink="/settings">its OPC UA certificate</a>
        </dd>
        @if (view().statistics; as told) {
          <dt>Since its start</dt>
          <dd>{{ counted() }}</dd>
        }
      </dl>
      <hinge-outpost-acts [outpost]="outpost()" />
    </section>
  `,
  styles: `
    section {
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.7rem 1rem;
    }
    dl {
      display: grid;
      grid-template-columns: repeat(2, 9rem minmax(0, 1fr));
      gap: 0.2rem 0.8rem;
      margin: 0 0 0.8rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
    }
  `,
})
export class GatewayProcess {
  readonly view = input.required<GatewayView>();
  readonly outpost = computed(() => this.view().gateway.outpost);
  readonly words = outpostWords;
  readonly tones = outpostTones;
  readonly counted = computed(() => {
    const told = this.view().statistics;
    if (!told) return '';
    const { shown, withheld, writes } = told;
    return [
      byNumber(shown, '1 change shown', '# changes shown'),
      byNumber(writes.done, '1 write by a reader', '# writes by readers'),
      ...(writes.refused > 0 ? [byNumber(writes.refused, '1 write refused', '# writes refused')] : []),
      ...(withheld > 0 ? [byNumber(withheld, '1 older value withheld', '# older values withheld')] : []),
    ].join(', ');
  });
}
