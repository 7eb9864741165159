import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { GridCellView } from '@loyal-hinge/contract';

/** What a mark is drawn from. */
export type MarkedCell = Pick<GridCellView, 'standing' | 'status'> & { readonly linkIds: readonly string[] };

/** What a mark tells: how a certificate stands with an application, and whether that is as a link needs it. */
export type TrustTone = 'holds' | 'weak' | 'fails' | 'unknown';

export function toneOfCell({ standing, status, linkIds }: MarkedCell): TrustTone {
  if (standing === 'not known') return 'unknown';
  const needed = linkIds.length > 0;
  if (needed) return status === 'Good' ? 'holds' : 'fails';
  return standing === 'set aside' || (standing === 'directly' && status !== 'Good') ? 'weak' : 'unknown';
}

/** A leaf of a hinge: in place, hanging below another, laid beside its place, or missing from it. Framed where a link needs it. */
@Component({
  selector: 'hinge-trust-mark',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg width="18" height="18" viewBox="0 0 18 18" [class]="tone()" aria-hidden="true">
      @if (cell().linkIds.length > 0) {
        <path class="frame" d="M1 1h16v16H1z" [attr.stroke-dasharray]="tone() === 'fails' ? '3 2.3' : null" />
      }
      @switch (cell().standing) {
        @case ('directly') {
          <path fill="currentColor" d="M5 4h8v10H5z" />
        }
        @case ('through an issuer') {
          <path fill="currentColor" d="M4 3.5h10v2H4zM8.3 5.5h1.4v3H8.3zM6 8.5h6V14H6z" />
        }
        @case ('set aside') {
          <path fill="none" stroke="currentColor" stroke-dasharray="1.6 1.4" d="M4 4h5v7H4z" />
          <path fill="currentColor" d="M10 8h4v6.5h-4z" />
        }
        @case ('not known') {
          <path stroke="currentColor" stroke-width="1.4" d="M6 9h6" />
        }
      }
      @if (cut()) {
        <path class="cut" d="M3 13.5 15 4.5" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: inline-flex;
    }
    .frame {
      fill: none;
      stroke: currentColor;
      stroke-width: 1.5;
    }
    .cut {
      stroke: var(--panel);
      stroke-width: 2;
    }
  `,
})
export class TrustMark {
  readonly cell = input.required<MarkedCell>();
  readonly tone = computed(() => toneOfCell(this.cell()));
  /** It lies where it gives trust, and is refused all the same. */
  readonly cut = computed(() => {
    const { standing, status } = this.cell();
    return (standing === 'directly' || standing === 'through an issuer') && status !== 'Good';
  });
}
