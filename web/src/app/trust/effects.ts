import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { concatMap, debounceTime, filter, map, merge, mergeMap, switchMap, tap, timer, withLatestFrom } from 'rxjs';
import { counted, dayOf, listed } from '@loyal-hinge/core';
import { saveBlob } from '../files/save-blob';
import { answered } from '../http/answered';
import { linkActions } from '../links/state';
import { TrustApi } from './api';
import { trustActions, trustFeature } from './state';
import type { TrustCommand, TrustRequest, TrustViews } from './state';

const gatherMs = 300;
/** Words that are being typed are not looked for yet. */
const typedMs = 100;

/** What is shown, and what stands beside it. */
const beside = (shown: TrustRequest | null): readonly TrustRequest[] =>
  shown === null ? [] : shown.view === 'overview' ? [shown, { view: 'finding' }] : [shown];

@Injectable()
export class TrustEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(TrustApi);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.show),
      switchMap(({ request }) =>
        timer(request.view === 'overview' || request.view === 'plans' ? typedMs : 0).pipe(
          switchMap(() => this.viewed(request)),
        ),
      ),
    ),
  );

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.load),
      mergeMap(({ request }) => this.viewed(request)),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(answered((told) => trustActions.done(told), trustActions.failed)),
      ),
    ),
  );

  /** What the page shows is loaded anew when something was done, or when the server tells of a change. */
  readonly reload = createEffect(() =>
    this.actions.pipe(
      ofType(trustActions.done, linkActions.heard),
      filter((action) => !('event' in action) || changesTrust.includes(action.event.kind)),
      debounceTime(gatherMs),
      withLatestFrom(this.store.select(trustFeature.selectShown)),
      mergeMap(([, shown]) => merge(...beside(shown).map((request) => this.viewed(request)))),
    ),
  );

  private viewed(request: TrustRequest) {
    return this.fetched(request).pipe(answered((views) => trustActions.loaded({ views }), trustActions.failed));
  }

  private fetched(request: TrustRequest): Observable<Partial<TrustViews>> {
    switch (request.view) {
      case 'overview':
        return this.api.overview(request.wish).pipe(map((overview) => ({ overview })));
      case 'finding':
        return this.api.finding().pipe(map((finding) => ({ finding })));
      case 'parties':
        return this.api.parties().pipe(map(({ parties }) => ({ parties })));
      case 'setAside':
        return this.api.setAside().pipe(map(({ entries }) => ({ setAside: entries })));
      case 'horizon':
        return this.api.horizon().pipe(map((horizon) => ({ horizon })));
      case 'plans':
        return this.api.plans(request.find).pipe(map((plans) => ({ plans })));
      case 'authorities':
        return this.api.authorities().pipe(map(({ authorities }) => ({ authorities })));
      case 'tickets':
        return this.api.tickets().pipe(map(({ tickets }) => ({ tickets })));
      case 'holder':
        return this.api.holder(request.id).pipe(map((holder) => ({ holder })));
      case 'certificate':
        return this.api.certificate(request.thumbprint).pipe(map((certificate) => ({ certificate })));
      case 'turns':
        return this.api.whatIf(request.changes).pipe(map(({ turns }) => ({ turns })));
    }
  }

  private carryOut(
    command: TrustCommand,
  ): Observable<{ says: string; views?: Partial<TrustViews>; reading?: readonly string[] }> {
    const { api } = this;
    switch (command.does) {
      case 'read all':
        return api.readAll().pipe(
          map(({ applicationIds }) => ({
            says: `The lists of ${counted(applicationIds.length, 'server')} are being read; each shows when it is done.`,
            reading: applicationIds,
          })),
        );
      case 'read':
        return api.read(command.id).pipe(map(({ says }) => ({ says })));
      case 'set way':
        return api.setWay(command.id, command.body).pipe(map(() => ({ says: 'It was saved.' })));
      case 'release password':
        return api
          .releasePassword(command.id, command.move)
          .pipe(map(() => ({ says: 'The kept password goes to the new target from now on.' })));
      case 'step back':
        return api.stepBack(command.id, command.entry).pipe(
          tap(({ id }) => void this.router.navigate(['/orders', id])),
          map(({ title }) => ({ says: `Proposed: ${title}.` })),
        );
      case 'fetch bundle':
        return api.bundle(command.id).pipe(
          tap((zip) => saveBlob(`${command.id}.zip`, zip)),
          map(() => ({ says: 'The bundle is fetched; its read-me says what to do with it.' })),
        );
      case 'import bundle':
        return api.importBundle(command.id, command.body).pipe(
          map(({ lists, passedOver }) => ({
            says: `Taken over: ${listed(lists.map(({ list, count }) => `${count} ${list}`))}. ${passedOver.length > 0 ? `Passed over: ${passedOver.map(({ path, says }) => `${path} (${says})`).join(' ')}` : ''}`,
          })),
        );
      case 'recognise':
        return api.recognise(command.files).pipe(
          map(({ files }) => ({
            says: 'Certificates and revocation lists among them are kept, so that they can be used.',
            views: { recognised: files },
          })),
        );
      case 'dismiss':
        return api
          .dismiss(command.holderId, command.thumbprint, command.dismissed)
          .pipe(map(() => ({ says: command.dismissed ? 'It was postponed.' : 'It is waiting for review again.' })));
      case 'create authority':
        return api
          .createAuthority(command.body)
          .pipe(map(({ name }) => ({ says: `${name} is made, with its first CRL.` })));
      case 'import authority':
        return api.importAuthority(command.body).pipe(map(({ name }) => ({ says: `${name} is taken over.` })));
      case 'renew authority':
        return api.renewAuthority(command.authority, command.body).pipe(
          map(({ name }) => ({
            says: `${name} is renewed. Both stand beside each other until everything has moved over.`,
          })),
        );
      case 'waive':
        return api.waive(command.body).pipe(
          map(({ waiver }) => ({
            says: waiver
              ? `${waiver.holder} passes over “${waiver.step}” until ${dayOf(waiver.until)}; the links are checked again.`
              : 'Another person must accept this: it waits under Work orders.',
          })),
        );
      case 'take waiver back':
        return api
          .takeWaiverBack(command.id)
          .pipe(map(({ holder, step }) => ({ says: `${holder} looks at “${step}” again; the links are checked.` })));
      case 'issue':
        return api
          .issue(command.authority, command.body)
          .pipe(map((issued) => ({ says: `Signed: ${issued.thumbprint}.`, views: { issued } })));
      case 'make request':
        return api
          .makeRequest(command.authority, command.applicationId)
          .pipe(map(({ application }) => ({ says: `${application} made a request. Save it, and have it signed.` })));
      case 'bring certificate':
        return api.bringCertificate(command.id, command.certificatePem).pipe(
          tap(({ id }) => void this.router.navigate(['/orders', id])),
          map(({ title }) => ({ says: `Proposed: ${title}.` })),
        );
      case 'drop request':
        return api.dropRequest(command.id).pipe(map(() => ({ says: 'Nobody waits for it any more.' })));
      case 'make ticket':
        return api
          .makeTicket(command.body)
          .pipe(map((madeTicket) => ({ says: 'The ticket is made.', views: { madeTicket } })));
      case 'sign ticket':
        return api
          .signTicket(command.id, command.body)
          .pipe(map(({ application }) => ({ says: `Signed; ${application} can fetch it now.` })));
      case 'revoke':
        return api
          .revoke(command.authority, command.body)
          .pipe(map(({ crl }) => ({ says: `Revoked. CRL number ${crl?.number ?? 0} says so; give it to all lists.` })));
      case 'issue CRL':
        return api
          .issueCrl(command.authority, command.passphrase)
          .pipe(map(({ crl }) => ({ says: `CRL number ${crl?.number ?? 0} is issued.` })));
    }
  }
}

const changesTrust: readonly string[] = ['trust-changed', 'check-ended', 'plant-changed'];
