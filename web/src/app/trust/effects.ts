import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import {
  NEVER,
  concatMap,
  debounceTime,
  filter,
  groupBy,
  map,
  mergeMap,
  startWith,
  switchMap,
  takeUntil,
  tap,
  timer,
  withLatestFrom,
} from 'rxjs';
import type { HingeEvent } from '@loyal-hinge/contract';
import { counted, dayOf, listed } from '@loyal-hinge/core';
import { saveBlob } from '../files/save-blob';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { linkActions } from '../links/state';
import { gridQuery, trustActions, trustFeature } from './state';
import type { TrustCommand, TrustRequest, TrustShown, TrustYield } from './state';

const gatherMs = 300;
/** Words that are being typed are not looked for yet. */
const typedMs = 100;

/** What is shown, and what stands beside it. */
const beside = (shown: TrustRequest | null): readonly TrustRequest[] =>
  shown === null ? [] : shown.view === 'overview' ? [shown, { view: 'finding' }, { view: 'users' }] : [shown];

/** What depends on words that somebody types. */
const isTyped = ({ view }: TrustRequest): boolean => view === 'overview' || view === 'plans';

/** Whether an event may have changed what is looked at. */
function concerns(event: HingeEvent, looked: TrustRequest): boolean {
  switch (event.kind) {
    case 'plant-changed':
    case 'trust-changed':
      return true;
    case 'check-ended':
      // A check sees certificates, and turns what links need; authorities and tickets know nothing of it.
      return looked.view !== 'authorities' && looked.view !== 'tickets';
    case 'accounts-changed':
      // What servers trust of users stands beside the grid of applications.
      return looked.view === 'overview';
    default:
      return false;
  }
}

@Injectable()
export class TrustEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  /** Views are asked for beside each other; of one view only the newest answer counts. */
  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.show, trustActions.load),
      groupBy(({ request }) => request.view),
      mergeMap((ofOneView) =>
        ofOneView.pipe(
          switchMap(({ type, request }) =>
            timer(type === trustActions.show.type && isTyped(request) ? typedMs : 0).pipe(
              switchMap(() => this.viewed(request)),
              takeUntil(this.forgotten(request)),
            ),
          ),
        ),
      ),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(
          answered(
            ({ says, ...yields }) => trustActions.done({ command, says, yields }),
            ({ problem }) => trustActions.failed({ command, problem }),
          ),
        ),
      ),
    ),
  );

  /** What the page shows is loaded anew when something was done, or when the server tells of a change that concerns it. */
  readonly reload = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.done, linkActions.heard),
      withLatestFrom(this.store.select(trustFeature.selectLooked)),
      filter(([action, looked]) => looked !== null && (!('event' in action) || concerns(action.event, looked))),
      debounceTime(gatherMs),
      withLatestFrom(this.store.select(trustFeature.selectLooked)),
      mergeMap(([, looked]) => beside(looked).map((request) => trustActions.load({ request }))),
    ),
  );

  /** What a change would turn is of no use any more once another change is thought of. */
  private forgotten({ view }: TrustRequest) {
    return view === 'turns' ? this.actions.pipe(ofType(trustActions.forgetTurns)) : NEVER;
  }

  private viewed(request: TrustRequest) {
    const { view } = request;
    return this.fetched(request).pipe(
      answered(
        (loaded) => trustActions.loaded({ loaded }),
        ({ problem }) => trustActions.notLoaded({ view, problem }),
      ),
      startWith(trustActions.asked({ view })),
    );
  }

  private fetched(request: TrustRequest): Observable<TrustShown> {
    const { server } = this;
    const { view } = request;
    switch (view) {
      case 'overview':
        return server.ask('trust', { query: gridQuery(request.wish) }).pipe(map((what) => ({ view, what })));
      case 'finding':
        return server.ask('trustFinding').pipe(map((what) => ({ view, what })));
      case 'users':
        return server.ask('userTrust').pipe(map((what) => ({ view, what })));
      case 'parties':
        return server.ask('trustParties').pipe(map(({ parties }) => ({ view, what: parties })));
      case 'setAside':
        return server.ask('setAside').pipe(map(({ entries }) => ({ view, what: entries })));
      case 'horizon':
        return server.ask('horizon').pipe(map((what) => ({ view, what })));
      case 'plans':
        return server.ask('trustPlans', { query: { find: request.find } }).pipe(map((what) => ({ view, what })));
      case 'authorities':
        return server.ask('authorities').pipe(map(({ authorities }) => ({ view, what: authorities })));
      case 'tickets':
        return server.ask('pullTickets').pipe(map(({ tickets }) => ({ view, what: tickets })));
      case 'holder':
        return server.ask('trustHolder', { path: { id: request.id } }).pipe(map((what) => ({ view, what })));
      case 'certificate':
        return server
          .ask('certificatePage', { path: { thumbprint: request.thumbprint } })
          .pipe(map((what) => ({ view, what })));
      case 'turns':
        return server
          .ask('trustWhatIf', { body: { changes: request.changes } })
          .pipe(map(({ turns }) => ({ view, what: turns })));
    }
  }

  private carryOut(command: TrustCommand): Observable<{ says: string } & TrustYield> {
    const { server } = this;
    switch (command.does) {
      case 'read all':
        return server.ask('readAllTrust').pipe(
          map(({ applicationIds }) => ({
            says: `The lists of ${counted(applicationIds.length, 'server')} are being read; each shows when it is done.`,
            reading: applicationIds,
          })),
        );
      case 'read':
        return server.ask('readTrust', { path: { id: command.id } }).pipe(map(({ says }) => ({ says })));
      case 'set way':
        return server
          .ask('setTrustWay', { path: { id: command.id }, body: command.body })
          .pipe(map(() => ({ says: 'The way to these lists was saved.' })));
      case 'release password':
        return server
          .ask('releasePushPassword', { path: { id: command.id }, body: command.move })
          .pipe(map(() => ({ says: 'The stored password goes to the new target from now on.' })));
      case 'step back':
        return server.ask('stepBack', { path: { id: command.id, entry: command.entry } }).pipe(
          tap(({ id }) => void this.router.navigate(['/orders', id])),
          map(({ title }) => ({ says: `Proposed: ${title}.` })),
        );
      case 'fetch bundle':
        return server.file('exportBundle', { path: { id: command.id } }).pipe(
          tap((zip) => saveBlob(`${command.id}.zip`, zip)),
          map(() => ({ says: 'The bundle was exported; its read-me says what to do with it.' })),
        );
      case 'import bundle':
        return server.ask('importBundle', { path: { id: command.id }, body: command.body }).pipe(
          map(({ lists, passedOver }) => ({
            says: `Imported: ${listed(lists.map(({ list, count }) => `${count} ${list}`))}. ${passedOver.length > 0 ? `Not imported: ${passedOver.map(({ path, says }) => `${path} (${says})`).join(' ')}` : ''}`,
          })),
        );
      case 'recognise':
        return server.ask('recognise', { body: { files: command.files } }).pipe(
          map(({ files }) => ({
            says: 'Certificates and revocation lists among them were saved, so that they can be used.',
            recognised: files,
          })),
        );
      case 'dismiss':
        return server
          .ask('dismissSetAside', {
            body: { holderId: command.holderId, thumbprint: command.thumbprint, dismissed: command.dismissed },
          })
          .pipe(map(() => ({ says: command.dismissed ? 'It was postponed.' : 'It is waiting for review again.' })));
      case 'create authority':
        return server
          .ask('createAuthority', { body: command.body })
          .pipe(map(({ name }) => ({ says: `${name} was created, with its first CRL.` })));
      case 'import authority':
        return server
          .ask('importAuthority', { body: command.body })
          .pipe(map(({ name }) => ({ says: `${name} was imported.` })));
      case 'renew authority':
        return server.ask('renewAuthority', { path: { thumbprint: command.authority }, body: command.body }).pipe(
          map(({ name }) => ({
            says: `${name} was renewed. Both are valid side by side until everything has moved to the new one.`,
          })),
        );
      case 'waive':
        return server.ask('giveWaiver', { body: command.body }).pipe(
          map(({ waiver }) => ({
            says: waiver
              ? `${waiver.holder} skips “${waiver.step}” until ${dayOf(waiver.until)}; the links are checked again.`
              : 'Another person must accept this: it waits under Work orders.',
          })),
        );
      case 'take waiver back':
        return server
          .ask('takeBackWaiver', { path: { id: command.id } })
          .pipe(
            map(({ holder, step }) => ({ says: `${holder} no longer skips “${step}”; the links are checked again.` })),
          );
      case 'issue':
        return server
          .ask('issueCertificate', { path: { thumbprint: command.authority }, body: command.body })
          .pipe(map((issued) => ({ says: `Signed: ${issued.thumbprint}.`, issued })));
      case 'make request':
        return server
          .ask('requestCertificate', {
            path: { thumbprint: command.authority },
            body: { applicationId: command.applicationId },
          })
          .pipe(map(({ application }) => ({ says: `${application} created a request. Save it, and have it signed.` })));
      case 'bring certificate':
        return server
          .ask('bringCertificate', { path: { id: command.id }, body: { certificatePem: command.certificatePem } })
          .pipe(
            tap(({ id }) => void this.router.navigate(['/orders', id])),
            map(({ title }) => ({ says: `Proposed: ${title}.` })),
          );
      case 'drop request':
        return server
          .ask('dropRequest', { path: { id: command.id } })
          .pipe(map(() => ({ says: 'The request was withdrawn.' })));
      case 'make ticket':
        return server
          .ask('makePullTicket', { body: command.body })
          .pipe(map((madeTicket) => ({ says: 'The ticket was created.', madeTicket })));
      case 'sign ticket':
        return server
          .ask('signPullTicket', { path: { id: command.id }, body: command.body })
          .pipe(map(({ application }) => ({ says: `Signed; ${application} can fetch it now.` })));
      case 'revoke':
        return server.ask('revokeCertificate', { path: { thumbprint: command.authority }, body: command.body }).pipe(
          map(({ crl }) => ({
            says: `Revoked. CRL number ${crl?.number ?? 0} names it; bring the CRL to all lists.`,
          })),
        );
      case 'issue CRL':
        return server
          .ask('issueCrl', { path: { thumbprint: command.authority }, body: { passphrase: command.passphrase } })
          .pipe(map(({ crl }) => ({ says: `CRL number ${crl?.number ?? 0} was issued.` })));
    }
  }
}
