import { ChangeDetectionStrategy, Component, computed, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { TrustPartyRow } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';

/** For which application something is to be done; nobody is chosen before somebody chooses. */
@Component({
  selector: 'hinge-which-application',
  imports: [Choose, FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-choose
      label="For"
      placeholder="which application?"
      [(ngModel)]="chosen"
      [ngModelOptions]="{ standalone: true }"
      [choices]="choices()"
    />
  `,
})
export class WhichApplication {
  readonly parties = input.required<readonly TrustPartyRow[]>();
  readonly choices = computed(() =>
    this.parties().map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  /** Its id; empty before one is chosen. */
  readonly chosen = model.required<string>();
}
