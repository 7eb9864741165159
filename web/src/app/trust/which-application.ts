import { ChangeDetectionStrategy, Component, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { TrustPartyRow } from '@loyal-hinge/contract';

/** For which application something is to be done; nobody is chosen before somebody chooses. */
@Component({
  selector: 'hinge-which-application',
  imports: [FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label class="field"
      >For
      <select name="applicationId" [(ngModel)]="chosen" [ngModelOptions]="{ standalone: true }">
        <option value="" disabled>which application?</option>
        @for (party of parties(); track party.applicationId) {
          <option [value]="party.applicationId">{{ party.name }}</option>
        }
      </select></label
    >
  `,
})
export class WhichApplication {
  readonly parties = input.required<readonly TrustPartyRow[]>();
  /** Its id; empty before one is chosen. */
  readonly chosen = model.required<string>();
}
