import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { byNumber, usualCalls } from '@loyal-hinge/core';
import type { LinkDetail } from '@loyal-hinge/contract';
import { CopyText } from '../signs/copy-text';

const passwordWords = { none: 'missing', kept: 'stored', 'for another target': 'stored for another target' } as const;
const floorWords = { any: 'nothing in particular', signed: 'signed', encrypted: 'encrypted' } as const;

/** The two sides of a link, with what stands between them. */
@Component({
  selector: 'hinge-link-leaves',
  imports: [CopyText, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="leaf">
      <h2>{{ told().client.application }}</h2>
      <p class="faint">client on {{ told().client.machine }}, {{ told().client.zone }}</p>
      <hinge-copy [text]="told().client.addresses[0] ?? ''" />
      <p class="faint">{{ identityWords() }}; {{ secured() }}</p>
    </section>
    <ng-content />
    <section class="leaf">
      <h2>{{ told().server.application }}</h2>
      <p class="faint">server on {{ told().server.machine }}, {{ told().server.zone }}</p>
      <hinge-copy [text]="told().link.endpointUrl" />
      @if (told().link.pinnedAddress; as pinned) {
        <p class="faint">
          pinned to <span class="mono">{{ pinned }}</span>
        </p>
      }
      @if (told().tunnel; as tunnel) {
        <p class="faint">
          through <a [routerLink]="['/passage/tunnels', tunnel.id]">{{ tunnel.name }}</a>: its client dials
          <span class="mono">{{ tunnel.address }}</span> port
          <span class="mono">{{ tunnel.port }}</span>
        </p>
      }
      <p class="faint">{{ needs() }}</p>
    </section>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 14.5rem minmax(0, 1fr) 14.5rem;
      border: 1px solid var(--line);
      background: var(--panel);
      margin-bottom: 1.1rem;
    }
    .leaf {
      padding: 0.8rem 0.9rem;
      background: var(--wash);
      min-width: 0;
    }
    .leaf p {
      margin: 0.1rem 0 0.3rem;
      font-size: 0.9rem;
    }
  `,
})
export class LinkLeaves {
  readonly told = input.required<LinkDetail>();
  readonly identityWords = computed(() => {
    const { link, passwordState } = this.told();
    switch (link.identity.kind) {
      case 'user':
        return `as “${link.identity.userName}”, password ${passwordWords[passwordState]}`;
      case 'certificate':
        return `with the user certificate “${link.identity.certificate}”`;
      case 'anonymous':
        return 'anonymous';
    }
  });
  readonly needs = computed(() => byNumber(this.told().link.needs.length, 'needs # item', 'needs # items'));
  /** How a classic client calls, or what a link of OPC UA must be. */
  readonly secured = computed(() => {
    const { link } = this.told();
    if (link.kind === 'classic') return `calls at level ${(link.classic ?? usualCalls).level}`;
    return `must be ${floorWords[link.floor]}`;
  });
}
