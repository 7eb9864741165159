import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, exhaustMap, map, merge, switchMap, withLatestFrom } from 'rxjs';
import { byNumber } from '@loyal-hinge/core';
import { answered } from '../http/answered';
import type { ShownProblem } from '../http/problem';
import { Server } from '../http/server';
import { kindsHeard } from '../links/kinds-heard';
import { orderActions } from '../orders/state';
import { accountsActions, accountsFeature } from './state';
import type { AccountsCommand, AccountsViewName } from './state';

@Injectable()
export class AccountsEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  /** Whom servers let in hangs on their rules, on links and on checks. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'accounts-changed', 'plant-changed', 'order-changed', 'check-ended').pipe(
      map(() => accountsActions.showAgain()),
    ),
  );

  readonly accounts = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.showAccounts, accountsActions.showAgain),
      withLatestFrom(this.store.select(accountsFeature.selectWish)),
      switchMap(([, wish]) =>
        wish === null
          ? EMPTY
          : this.server
              .ask('accounts', { query: wish })
              .pipe(answered((accounts) => accountsActions.accountsShown({ accounts }), notShown('accounts'))),
      ),
    ),
  );

  readonly access = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.showAccess, accountsActions.showAgain),
      withLatestFrom(this.store.select(accountsFeature.selectServerId)),
      switchMap(([, serverId]) =>
        serverId === null
          ? EMPTY
          : this.server
              .ask('access', { path: { serverId } })
              .pipe(answered((access) => accountsActions.accessShown({ access }), notShown('access'))),
      ),
    ),
  );

  readonly turns = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.draft, accountsActions.dropDraft, accountsActions.accessShown),
      withLatestFrom(this.store.select(accountsFeature.selectAccountsState)),
      switchMap(([, { serverId, drafts }]) =>
        serverId === null || drafts.length === 0
          ? EMPTY
          : this.server
              .ask('accessWhatIf', { path: { serverId }, body: { changes: [...drafts] } })
              .pipe(answered((turns) => accountsActions.turnsShown({ turns }), notShown('turns'))),
      ),
    ),
  );

  readonly certificates = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.showCertificates, accountsActions.showAgain),
      withLatestFrom(this.store.select(accountsFeature.selectLooksAtCertificates)),
      switchMap(([, looks]) =>
        looks
          ? this.server
              .ask('userCertificates')
              .pipe(
                answered(
                  ({ certificates }) => accountsActions.certificatesShown({ certificates }),
                  notShown('certificates'),
                ),
              )
          : EMPTY,
      ),
    ),
  );

  readonly giveCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.giveCertificate),
      exhaustMap(({ name, gift }) =>
        this.server.ask('putUserCertificate', { path: { name }, body: gift }).pipe(
          answered(
            () => [
              accountsActions.done({
                does: 'give certificate',
                says: `The user certificate “${name}” was stored, its key encrypted.`,
              }),
              accountsActions.showAgain(),
            ],
            failed('give certificate'),
          ),
        ),
      ),
    ),
  );

  readonly forgetCertificate = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.forgetCertificate),
      exhaustMap(({ name }) =>
        this.server.ask('forgetUserCertificate', { path: { name } }).pipe(
          answered(
            () => [
              accountsActions.done({
                does: 'forget certificate',
                says: `The user certificate “${name}” and its key were forgotten.`,
              }),
              accountsActions.showAgain(),
            ],
            failed('forget certificate'),
          ),
        ),
      ),
    ),
  );

  /** What a server reports comes by itself while it is listened to. */
  readonly reports = createEffect(() =>
    merge(
      this.actions.pipe(ofType(accountsActions.showAccess, accountsActions.done)),
      kindsHeard(this.actions, 'reports-changed'),
    ).pipe(
      withLatestFrom(this.store.select(accountsFeature.selectServerId)),
      switchMap(([, serverId]) =>
        serverId === null
          ? EMPTY
          : this.server
              .ask('serverReports', { path: { serverId } })
              .pipe(answered((reports) => accountsActions.reportsShown({ reports }), notShown('reports'))),
      ),
    ),
  );

  readonly listen = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.listen),
      exhaustMap(({ serverId, minutes }) =>
        this.server
          .ask('listenToServer', { path: { serverId }, body: { minutes } })
          .pipe(
            answered(() => accountsActions.done({ does: 'listen', says: 'Listening has begun.' }), failed('listen')),
          ),
      ),
    ),
  );

  readonly listenNoMore = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.listenNoMore),
      exhaustMap(({ serverId }) =>
        this.server
          .ask('listenNoMore', { path: { serverId }, body: {} })
          .pipe(answered(() => accountsActions.done({ does: 'listen', says: 'Listening ends.' }), failed('listen'))),
      ),
    ),
  );

  readonly read = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.read),
      exhaustMap(({ serverId }) =>
        this.server
          .ask('readAccess', { path: { serverId }, body: {} })
          .pipe(
            answered(() => accountsActions.done({ does: 'read', says: 'Roles and users were read.' }), failed('read')),
          ),
      ),
    ),
  );

  readonly readAll = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.readAll),
      exhaustMap(() =>
        this.server.ask('readAllAccess', { body: {} }).pipe(
          answered(
            ({ begun }) =>
              accountsActions.done({
                does: 'read all',
                says: byNumber(begun, '# server is being read.', '# servers are being read.'),
              }),
            failed('read all'),
          ),
        ),
      ),
    ),
  );

  readonly addUser = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.addUser),
      exhaustMap(({ serverId, userName, password, settings }) =>
        this.server.ask('sealPassword', { path: { serverId }, body: { userName, password } }).pipe(
          answered(
            ({ secretId }) => [
              accountsActions.draft({
                change: { kind: 'change-user', serverId, userName, before: null, after: settings, secretId },
              }),
              accountsActions.done({ does: 'seal', says: `The password of “${userName}” was stored encrypted.` }),
            ],
            failed('seal'),
          ),
        ),
      ),
    ),
  );

  readonly changePassword = createEffect(() =>
    this.actions.pipe(
      ofType(accountsActions.changePassword),
      exhaustMap(({ account: { serverId, server, userName, links }, password }) =>
        this.server.ask('sealPassword', { path: { serverId }, body: { userName: userName ?? '', password } }).pipe(
          answered(
            ({ secretId }) => [
              accountsActions.done({ does: 'seal', says: 'The new password was stored encrypted.' }),
              orderActions.propose({
                order: {
                  title: `Change the password of ${userName ?? ''} on ${server}`,
                  lines: [
                    {
                      change: { kind: 'change-password', serverId, userName: userName ?? '', secretId },
                      why: 'Asked for on the page Identities.',
                      linkIds: links.map(({ id }) => id),
                    },
                  ],
                },
              }),
            ],
            failed('seal'),
          ),
        ),
      ),
    ),
  );
}

const notShown =
  (view: AccountsViewName) =>
  ({ problem }: { problem: ShownProblem }) =>
    accountsActions.notShown({ view, problem });

const failed =
  (does: AccountsCommand) =>
  ({ problem }: { problem: ShownProblem }) =>
    accountsActions.failed({ does, problem });
