import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { encode } from 'uqr';

/** A QR code (ISO/IEC 18004), drawn dark on light in both themes: cameras want it so. */
@Component({
  selector: 'hinge-qr-code',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg role="img" [attr.aria-label]="says()" [attr.viewBox]="'0 0 ' + size() + ' ' + size()">
      <rect width="100%" height="100%" fill="#fff" />
      <path [attr.d]="path()" fill="#000" shape-rendering="crispEdges" />
    </svg>
  `,
  styles: `
    svg {
      display: block;
      width: 13rem;
      height: 13rem;
    }
  `,
})
export class QrCode {
  readonly text = input.required<string>();
  readonly says = input.required<string>();
  private readonly code = computed(() => encode(this.text(), { ecc: 'M', border: 3 }));
  readonly size = computed(() => this.code().size);
  readonly path = computed(() =>
    this.code()
      .data.flatMap((row, y) => row.map((isDark, x) => (isDark ? `M${x} ${y}h1v1h-1z` : '')))
      .join(''),
  );
}
