import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, concatMap, debounceTime, map, merge, mergeMap, switchMap, tap, withLatestFrom } from 'rxjs';
import type { Observable } from 'rxjs';
import type { OutpostTicket } from '@loyal-hinge/contract';
import { saveFile } from '../files/save-file';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { whileSeen } from '../http/while-seen';
import { kindsHeard } from '../links/kinds-heard';
import { outpostActions, outpostsFeature } from './state';
import type { OutpostCommand } from './state';

/** What ends tell of themselves is looked at so often while a tunnel is looked at. */
const lookMs = 5_000;
/** Events that come close together are one reason to look. */
const gatherMs = 200;

interface Told {
  readonly says: string;
  readonly ticket?: OutpostTicket;
}

@Injectable()
export class OutpostEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.show),
      switchMap(() =>
        this.server.ask('tunnels').pipe(
          answered(
            (view) => outpostActions.shown({ view }),
            ({ problem }) => outpostActions.notShown({ view: 'list', problem }),
          ),
        ),
      ),
    ),
  );

  readonly showProbes = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.showProbes),
      switchMap(() =>
        this.server.ask('probes').pipe(
          answered(
            (view) => outpostActions.probesShown({ view }),
            ({ problem }) => outpostActions.notShown({ view: 'probes', problem }),
          ),
        ),
      ),
    ),
  );

  readonly look = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.lookAt, outpostActions.lookAgain, outpostActions.leave),
      withLatestFrom(this.store.select(outpostsFeature.selectTunnelId)),
      switchMap(([, tunnelId]) =>
        tunnelId === null
          ? EMPTY
          : this.server.ask('tunnel', { path: { tunnelId } }).pipe(
              answered(
                (view) => outpostActions.oneShown({ view }),
                ({ problem }) => outpostActions.notShown({ view: 'one', problem }),
              ),
            ),
      ),
    ),
  );

  readonly choices = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.lookAt, outpostActions.askForChoices, outpostActions.leave),
      withLatestFrom(this.store.select(outpostsFeature.selectTunnelId)),
      switchMap(([, tunnelId]) =>
        tunnelId === null
          ? EMPTY
          : this.server.ask('tunnelChoices', { path: { tunnelId } }).pipe(
              answered(
                (choices) => outpostActions.choicesShown({ tunnelId, choices }),
                ({ problem }) => outpostActions.notShown({ view: 'choices', problem }),
              ),
            ),
      ),
    ),
  );

  /** Whoever looks at a tunnel sees how it goes. */
  readonly again = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.lookAt, outpostActions.leave),
      switchMap((action) =>
        action.type === outpostActions.leave.type
          ? EMPTY
          : whileSeen(lookMs).pipe(map(() => outpostActions.lookAgain())),
      ),
    ),
  );

  readonly signer = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.lookAt, outpostActions.showProbes, outpostActions.findSigner),
      switchMap(() =>
        this.server.ask('authorities').pipe(
          answered(
            ({ authorities }) => {
              const found = authorities.find(({ isCurrent, keyKept }) => isCurrent && keyKept);
              return outpostActions.signerFound({
                signer: found ? { thumbprint: found.thumbprint, name: found.name } : null,
              });
            },
            ({ problem }) => outpostActions.notShown({ view: 'one', problem }),
          ),
        ),
      ),
    ),
  );

  readonly changed = createEffect(() =>
    merge(
      kindsHeard(this.actions, 'outposts-changed', 'passage-changed', 'plant-changed'),
      this.actions.pipe(ofType(outpostActions.done)),
    ).pipe(
      debounceTime(gatherMs),
      withLatestFrom(
        this.store.select(outpostsFeature.selectTunnelId),
        this.store.select(outpostsFeature.selectShown),
        this.store.select(outpostsFeature.selectProbesShown),
      ),
      mergeMap(([, tunnelId, list, probes]) => [
        ...(probes ? [outpostActions.showProbes()] : []),
        ...(tunnelId === null ? [] : [outpostActions.lookAgain(), outpostActions.askForChoices()]),
        ...(list ? [outpostActions.show()] : []),
      ]),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(outpostActions.command),
      concatMap(({ command }) =>
        this.carryOut(command).pipe(
          answered(
            (told) => outpostActions.done({ command, ...told }),
            ({ problem }) => outpostActions.failed({ command, problem }),
          ),
        ),
      ),
    ),
  );

  private carryOut(command: OutpostCommand): Observable<Told> {
    const { server } = this;
    switch (command.does) {
      case 'save': {
        const { id, wish } = command;
        const told = { says: `${wish.name} was saved.` };
        return id === null
          ? server.ask('addTunnel', { body: wish }).pipe(
              tap((added) => void this.router.navigate(['/passage/tunnels', added.id])),
              map(() => told),
            )
          : server.ask('putTunnel', { path: { tunnelId: id }, body: wish }).pipe(map(() => told));
      }
      case 'save probe': {
        const { id, wish } = command;
        const told = { says: `${wish.name} was saved.` };
        return id === null
          ? server.ask('addProbe', { body: wish }).pipe(map(() => told))
          : server.ask('putProbe', { path: { probeId: id }, body: wish }).pipe(map(() => told));
      }
      case 'remove probe':
        return server
          .ask('removeProbe', { path: { probeId: command.id } })
          .pipe(map(() => ({ says: `${command.name} was removed.` })));
      case 'remove':
        return server.ask('removeTunnel', { path: { tunnelId: command.id } }).pipe(
          tap(() => void this.router.navigate(['/passage/tunnels'])),
          map(() => ({ says: `${command.name} was removed.` })),
        );
      case 'lead':
        return server
          .ask('leadThroughTunnel', { path: { tunnelId: command.id }, body: command.wish })
          .pipe(map(() => ({ says: `${command.link} goes through the tunnel from now on, and is checked.` })));
      case 'lead straight':
        return server
          .ask('leadStraight', { path: { tunnelId: command.id, linkId: command.linkId } })
          .pipe(map(() => ({ says: `${command.link} connects directly again, and is checked.` })));
      case 'propose':
      case 'propose taking down':
        return server
          .ask(command.does === 'propose' ? 'tunnelOrder' : 'takeDownTunnel', { path: { tunnelId: command.id } })
          .pipe(
            tap(({ id }) => void this.router.navigate(['/orders', id])),
            map(({ title }) => ({ says: `Proposed: ${title}.` })),
          );
      case 'make ticket':
        return server
          .ask('makeOutpostTicket', { path: { outpostId: command.outpost.id }, body: command.wish })
          .pipe(map((ticket) => ({ says: 'A ticket was created. It is shown only now.', ticket })));
      case 'bring request':
        return server
          .ask('bringOutpostRequest', {
            path: { outpostId: command.outpost.id },
            body: { requestPem: command.requestPem },
          })
          .pipe(map(() => ({ says: 'The request was imported, and waits to be signed.' })));
      case 'sign':
        return server
          .ask('signOutpost', { path: { outpostId: command.outpost.id }, body: command.wish })
          .pipe(map(({ name }) => ({ says: `The certificate of ${name} was signed.` })));
      case 'refuse':
        return server
          .ask('refuseOutpost', { path: { outpostId: command.outpost.id } })
          .pipe(
            map(({ name }) => ({ says: `The request of ${name} was refused, and its ticket can’t be used any more.` })),
          );
      case 'fetch bundle':
        return server.ask('tunnelEndBundle', { path: { outpostId: command.outpost.id } }).pipe(
          tap((bundle) =>
            saveFile(`${command.outpost.id}.json`, 'application/json', `${JSON.stringify(bundle, null, 2)}\n`),
          ),
          map(() => ({ says: 'The bundle was exported. It holds no key: that stays on the machine.' })),
        );
    }
  }
}
