import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { AuthorityView, SigningRequestView } from '@loyal-hinge/contract';
import { chosenText } from '../../files/chosen-text';
import { saveFile } from '../../files/save-file';
import { may } from '../../session/may';
import { Moment } from '../../signs/moment';
import { isRunning, trustActions } from '../state';

/** Requests that wait for their certificate from where the authority’s key is kept. */
@Component({
  selector: 'hinge-open-requests',
  imports: [Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (authority().requests.length > 0) {
      <table class="ledger">
        <caption class="unseen">
          Requests that wait for their certificate
        </caption>
        <thead>
          <tr>
            <th scope="col">Request for</th>
            <th scope="col">Made</th>
            <th scope="col">The signed certificate (PEM)</th>
            <th scope="col"><span class="unseen">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          @for (request of authority().requests; track request.id) {
            <tr>
              <td>{{ request.application }}</td>
              <td>{{ request.madeBy }}, <hinge-moment [at]="request.madeAt" /></td>
              <td>
                <input
                  type="file"
                  accept=".pem,.crt,.cer"
                  [attr.aria-label]="'The signed certificate for ' + request.application"
                  [disabled]="!mayAct() || busy()"
                  (change)="bring(request.id, $event)"
                />
              </td>
              <td class="acts">
                <button type="button" class="plain" (click)="save(request)">Save the request</button>
                <button type="button" class="plain" [disabled]="!mayAct() || busy()" (click)="drop(request.id)">
                  Withdraw the request
                </button>
              </td>
            </tr>
          }
        </tbody>
      </table>
    }
  `,
})
export class OpenRequests {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly busy = this.store.selectSignal(isRunning('bring certificate', 'drop request'));
  readonly mayAct = may('engineer');

  async bring(id: string, event: Event): Promise<void> {
    const certificatePem = await chosenText(event);
    if (certificatePem !== '')
      this.store.dispatch(trustActions.command({ command: { does: 'bring certificate', id, certificatePem } }));
  }

  save({ application, requestPem }: SigningRequestView): void {
    const name = application.toLowerCase().replace(/[^a-z0-9]+/g, '-');
    saveFile(`${name}.csr.pem`, 'application/pkcs10', requestPem);
  }

  drop(id: string): void {
    this.store.dispatch(trustActions.command({ command: { does: 'drop request', id } }));
  }
}
