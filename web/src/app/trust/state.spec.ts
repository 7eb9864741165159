import type { Action } from '@ngrx/store';
import type { HolderDetail, TrustFinding } from '@loyal-hinge/contract';
import { isRunning, trustActions, trustFeature } from './state';
import type { TrustState } from './state';

const { reducer } = trustFeature;
const of = (...actions: readonly Action[]): TrustState =>
  actions.reduce<TrustState>((state, action) => reducer(state, action), reducer(undefined, { type: 'begin' }));
const problem = { title: 'Not now', detail: 'It runs.', remedy: 'Wait.', faults: [] };
const finding = { links: 3 } as unknown as TrustFinding;
const holder = { party: { applicationId: 'scada' } } as unknown as HolderDetail;
const read = { does: 'read', id: 'scada' } as const;

describe('what the place of trust knows', () => {
  it('loads each view by itself, and keeps what was shown until there is an answer', () => {
    const state = of(
      trustActions.loaded({ loaded: { view: 'finding', what: finding } }),
      trustActions.asked({ view: 'finding' }),
      trustActions.asked({ view: 'horizon' }),
    );
    expect(state.views.finding).toEqual({ shown: finding, isLoading: true, problem: null });
    expect(state.views.horizon).toEqual({ shown: null, isLoading: true, problem: null });
  });

  it('shows the problem of the view that is looked at, and no other’s', () => {
    const failed = trustActions.notLoaded({ view: 'tickets', problem });
    const horizon = trustActions.show({ request: { view: 'horizon' } });
    const tickets = trustActions.show({ request: { view: 'tickets' } });
    expect(
      trustFeature.selectProblem.projector(of(horizon, failed).commands, of(horizon, failed).views, of(horizon).looked),
    ).toBeNull();
    expect(
      trustFeature.selectProblem.projector(of(tickets, failed).commands, of(tickets, failed).views, of(tickets).looked),
    ).toBe(problem);
  });

  it('does not show another application while one is loaded', () => {
    const loaded = trustActions.loaded({ loaded: { view: 'holder', what: holder } });
    const look = (id: string) => of(loaded, trustActions.show({ request: { view: 'holder', id } })).views.holder.shown;
    expect([look('scada'), look('historian')]).toEqual([holder, null]);
  });

  it('runs commands beside each other', () => {
    const running = (...actions: readonly Action[]) => isRunning('read').projector(of(...actions).commands.running);
    const begun = trustActions.command({ command: read });
    expect([running(), running(begun), running(trustActions.command({ command: { does: 'read all' } }))]).toEqual([
      false,
      true,
      false,
    ]);
    expect(running(begun, trustActions.failed({ command: read, problem }))).toBe(false);
  });

  it('forgets a token that was shown once when the page is left', () => {
    const made = { token: 'once' } as never;
    const command = { does: 'make ticket', body: {} as never } as const;
    const state = of(
      trustActions.command({ command }),
      trustActions.done({ command, says: 'Made.', yields: { madeTicket: made } }),
    );
    expect(state.madeTicket).toBe(made);
    expect(reducer(state, trustActions.show({ request: { view: 'horizon' } })).madeTicket).toBeNull();
  });
});
