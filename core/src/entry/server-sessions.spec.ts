import { sayServerSessions, weaknessesOfSession } from './server-sessions.js';
import type { ServerSession, SessionCounts } from './server-sessions.js';

const session = (differs: Partial<ServerSession> = {}): ServerSession => ({
  id: 'i=1',
  name: 'Session 1',
  applicationUri: 'urn:display',
  applicationName: 'Display',
  user: 'display',
  mechanism: 'UserName',
  mode: 'SignAndEncrypt',
  policyUri: '',
  connectedAt: null,
  lastContactAt: null,
  subscriptions: 1,
  items: 4,
  unauthorized: 0,
  isOwn: false,
  ...differs,
});
const counts: SessionCounts = { now: 3, ever: 12, refused: 4, refusedForSecurity: 2, timedOut: 1, aborted: 0 };
const known = new Set(['urn:display']);
const own = session({ isOwn: true, mode: 'None', applicationUri: 'urn:ours' });

describe('sessions on a server', () => {
  it('tell apart that nobody is connected, that all are secured, and that some are not', () => {
    const say = (sessions: readonly ServerSession[] | null, told: SessionCounts | null = null) =>
      sayServerSessions({ isCounting: true, counts: told, sessions });
    expect(say([own])).toBe('Nobody else is connected.');
    expect(say([own, session()])).toBe('1 session beside our own, secured.');
    expect(say([session(), session()])).toBe('2 sessions beside our own, all secured.');
    expect(say([session(), session({ mode: 'None' })])).toBe('2 sessions beside our own, 1 without security.');
    expect(say([session({ mode: null })])).toBe('1 session beside our own.');
    expect(say([own, session()], counts)).toBe(
      '1 session beside our own, secured; 12 since the server was started; 4 refused, 2 of them for security.',
    );
  });

  it('are counted where the server tells no more, and nothing is made up where it tells nothing', () => {
    const bare = { ...counts, refused: 0, refusedForSecurity: 0 };
    expect(sayServerSessions({ isCounting: true, counts: bare, sessions: null })).toBe(
      '2 sessions beside our own; 12 since the server was started.',
    );
    expect(sayServerSessions({ isCounting: false, counts: null, sessions: null })).toBe(
      'The server counts no sessions.',
    );
    expect(sayServerSessions({ isCounting: null, counts: null, sessions: null })).toMatch(/does not tell/);
  });

  it.each<[Partial<ServerSession>, readonly string[]]>([
    [{}, []],
    [{ mode: 'None' }, ['Nothing secures its channel.']],
    [{ mechanism: 'Anonymous', user: null }, ['It signed in without a name.']],
    [{ applicationUri: 'urn:laptop' }, ['The plant does not know this application.']],
    [{ mode: 'None', applicationUri: 'urn:ours', isOwn: true }, []],
  ])('%j is weak so: %j', (differs, says) => {
    expect(weaknessesOfSession(session(differs), known).map((said) => said.says)).toEqual(says);
  });
});
