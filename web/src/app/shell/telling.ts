import { Directive, inject } from '@angular/core';
import { Tooltip } from 'primeng/tooltip';

/** Explains whatever has the pointer or the focus, and tells it to screen readers, too. Empty: nothing. */
@Directive({
  selector: '[hingeTelling]',
  hostDirectives: [{ directive: Tooltip, inputs: ['pTooltip: hingeTelling', 'tooltipPosition'] }],
  host: { '[attr.aria-description]': 'tooltip.content || null' },
})
export class Telling {
  readonly tooltip = inject(Tooltip);
}
