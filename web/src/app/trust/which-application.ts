import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import type { TrustPartyRow } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { FieldFault } from '../forms/field-fault';

/** For which application something is to be done; nobody is chosen before somebody chooses. */
@Component({
  selector: 'hinge-which-application',
  imports: [Choose, FieldFault, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-choose label="For" placeholder="which application?" [formControl]="control()" [choices]="choices()">
      <hinge-field-fault [of]="control()" />
    </hinge-choose>
  `,
})
export class WhichApplication {
  readonly parties = input.required<readonly TrustPartyRow[]>();
  /** Holds the id of the application. */
  readonly control = input.required<FormControl<string>>();
  readonly choices = computed(() =>
    this.parties().map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
}
