import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { AuthorityView, SigningRequestView } from '@loyal-hinge/contract';
import { saveFile } from '../../files/save-file';
import { FileButton } from '../../forms/file-button';
import { may } from '../../session/may';
import { Moment } from '../../signs/moment';
import { isRunning, trustActions } from '../state';
import { LedgerCell } from '../../shell/ledger/cell';
import { Ledger } from '../../shell/ledger/ledger';
import type { Column } from '../../shell/ledger/ledger';

const columns: readonly Column<SigningRequestView>[] = [
  { key: 'application', title: 'Request for', text: ({ application }) => application },
  { key: 'madeAt', title: 'Created', text: ({ madeAt }) => madeAt },
  { key: 'certificate', title: 'Signed certificate (PEM)', text: () => '' },
];

/** Requests that wait for their certificate from where the authority’s key is kept. */
@Component({
  selector: 'hinge-open-requests',
  imports: [FileButton, Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (authority().requests.length > 0) {
      <h3>Requests that wait for their certificate</h3>
      <hinge-ledger [columns]="columns" [rows]="authority().requests" [plain]="true">
        <ng-template hingeCell="madeAt" [hingeCellOf]="authority().requests" let-request>
          {{ request.madeBy }}, <hinge-moment [at]="request.madeAt" />
        </ng-template>
        <ng-template hingeCell="certificate" [hingeCellOf]="authority().requests" let-request>
          <hinge-file-button
            words="Bring the certificate …"
            [about]="'for ' + request.application"
            accept=".pem,.crt,.cer"
            [disabled]="!mayAct() || busy()"
            (taken)="bring(request.id, $event)"
          />
        </ng-template>
        <ng-template hingeCell="acts" [hingeCellOf]="authority().requests" let-request>
          <button type="button" class="plain" (click)="save(request)">Save the request</button>
          <button type="button" class="plain" [disabled]="!mayAct() || busy()" (click)="drop(request.id)">
            Withdraw the request
          </button>
        </ng-template>
      </hinge-ledger>
    }
  `,
})
export class OpenRequests {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly busy = this.store.selectSignal(isRunning('bring certificate', 'drop request'));
  readonly columns = columns;
  readonly mayAct = may('engineer');

  async bring(id: string, [file]: readonly File[]): Promise<void> {
    if (!file) return;
    const certificatePem = await file.text();
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
