import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import type { AuthorityView } from '@loyal-hinge/contract';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions, trustFeature } from '../state';
import { WhichApplication } from '../which-application';

/** Has an application create a request, which somebody takes to where the authority’s key is kept. */
@Component({
  selector: 'hinge-make-request',
  imports: [FormSheet, WhichApplication],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Create a request"
      does="Create"
      [form]="form"
      [busy]="busy()"
      (sent)="make()"
      (left)="left.emit()"
    >
      <p class="faint">
        The application keeps its key. The request waits below: save it, have it signed where the key of
        {{ authority().name }} is kept, and bring the certificate back.
      </p>
      <hinge-which-application [parties]="parties()" [control]="form.controls.applicationId" />
    </hinge-form-sheet>
  `,
})
export class MakeRequest {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('make request'));
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  /** Whoever can be asked for a request from here. */
  readonly parties = computed(() => (this.known() ?? []).filter(({ way }) => way === 'held' || way === 'push'));
  readonly form = contractForm({ applicationId: chosenOne }, { applicationId: '' });

  make(): void {
    const { applicationId } = this.form.getRawValue();
    const { thumbprint } = this.authority();
    this.store.dispatch(
      trustActions.command({ command: { does: 'make request', authority: thumbprint, applicationId } }),
    );
  }
}
