import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { Drawer } from 'primeng/drawer';

/** Slides in from the right and explains; the page beside it stays in use. */
@Component({
  selector: 'hinge-side-sheet',
  imports: [Drawer],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-drawer
      [visible]="open()"
      (visibleChange)="$event || closed.emit()"
      position="right"
      [modal]="false"
      [style]="{ width: '31rem' }"
      [header]="heading()"
    >
      <ng-content />
    </p-drawer>
  `,
})
export class SideSheet {
  readonly open = input.required<boolean>();
  readonly heading = input.required<string>();
  readonly closed = output();
}
