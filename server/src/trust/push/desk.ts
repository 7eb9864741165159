import type { AdministratorSessions, Errand } from '../../administration/administrator-sessions.js';
import type { PushManagement } from '../../ua/push-management.js';

const errand: Errand = {
  what: 'Push management',
  ifRefused:
    'Check whether the user may change trust lists there, and whether it offers this. The lists are as they were.',
  lookAgain: 'read its lists again to see what holds now',
  elseDo: 'change the lists at the machine',
};

/** The desk from which the lists of running servers are read and changed, over push management. */
export class PushDesk {
  constructor(private readonly sessions: Pick<AdministratorSessions, 'with' | 'withinTurn'>) {}

  /** Hands push management of a server over, when it is its turn. */
  with<Result>(
    serverId: string,
    use: (push: PushManagement) => Promise<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    return this.sessions.with(serverId, errand, (session) => use(session.pushManagement()), signal);
  }

  /** The same without waiting for a turn: for a check, which has it already. */
  withinTurn<Result>(
    serverId: string,
    use: (push: PushManagement) => Promise<Result>,
    signal?: AbortSignal,
  ): Promise<Result> {
    return this.sessions.withinTurn(serverId, errand, (session) => use(session.pushManagement()), signal);
  }
}
