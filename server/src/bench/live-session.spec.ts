import { LiveSession } from './live-session.js';
import type { OpenSession } from './live-session.js';
import type { BenchSession } from './sessions/bench-session.js';

const times = { pingMs: 5, firstWaitMs: 1, longestWaitMs: 4, patienceMs: 60_000 };

/** A session that is lost when told to be. */
function oneSession(serverTime: () => Promise<string | null> = () => Promise.resolve(null)) {
  let lose: () => void = () => undefined;
  const ended = new Promise<void>((resolve) => (lose = resolve));
  return { session: { ended, serverTime } as unknown as BenchSession, lose: () => lose() };
}
const turnOf = (live: LiveSession): Promise<string> =>
  new Promise((resolve) => {
    const stop = live.onTurn(({ isLost, says }) => {
      stop();
      resolve(isLost ? says : 'there');
    });
  });

describe('a live session', () => {
  it('is opened again where it is lost, however often that fails, and tells so', async () => {
    const [one, two] = [oneSession(), oneSession()];
    const opened = [one, 'Reach: no answer.', 'Reach: no answer.', two];
    const end = new AbortController();
    const live = new LiveSession(end.signal, times);
    const open: OpenSession = async (use) => {
      const next = opened.shift() ?? 'nothing left';
      if (typeof next === 'string') return next;
      await use(next.session);
      return null;
    };
    const held = live.hold(open);
    expect(await live.first).toBeNull();
    expect(live.session).toBe(one.session);
    const ofFirst = live.ended;
    const turns: string[] = [];
    live.onTurn(({ isLost, says }) => turns.push(isLost ? says : 'there'));
    one.lose();
    while (live.session !== two.session) await turnOf(live);
    expect(turns).toEqual(['', 'Reach: no answer.', 'Reach: no answer.', 'there']);
    expect([ofFirst.aborted, live.ended.aborted]).toEqual([true, false]);
    end.abort();
    await held;
    expect(live.session).toBeNull();
  });

  it('has what was begun in it begun in the next one, too, until that is ended', async () => {
    const sessions = [oneSession(), oneSession(), oneSession()];
    const left = [...sessions];
    const end = new AbortController();
    const live = new LiveSession(end.signal, times);
    const held = live.hold(async (use) => {
      const next = left.shift();
      if (!next) return 'It is away.';
      await use(next.session);
      return null;
    });
    const begun: BenchSession[] = [];
    const stopped: BenchSession[] = [];
    const turns: boolean[] = [];
    const stop = await live.inEach(
      (session) => {
        begun.push(session);
        return Promise.resolve(() => void stopped.push(session));
      },
      ({ isLost }) => turns.push(isLost),
    );
    const turn = turnOf(live);
    sessions[0]?.lose();
    await turn;
    while (begun.length < 2) await new Promise((resolve) => setTimeout(resolve, 1));
    stop();
    sessions[1]?.lose();
    while (live.session !== sessions[2]?.session) await new Promise((resolve) => setTimeout(resolve, 1));
    expect(begun).toEqual([sessions[0]?.session, sessions[1]?.session]);
    expect(stopped).toEqual(begun);
    expect(turns).toEqual([false, true, false]);
    end.abort();
    await held;
  });

  it('tells whoever began something in it why that could not begin, and begins it no more', async () => {
    const one = oneSession();
    const end = new AbortController();
    const live = new LiveSession(end.signal, times);
    const held = live.hold(async (use) => {
      await use(one.session);
      return null;
    });
    const turns: boolean[] = [];
    const refusing = live.inEach(
      () => Promise.reject(new Error('BadTooManySubscriptions')),
      ({ isLost }) => turns.push(isLost),
    );
    await expect(refusing).rejects.toThrow('BadTooManySubscriptions');
    end.abort();
    await held;
    expect(turns).toEqual([]);
  });

  it('is lost where the server answers no more, though the line is open', async () => {
    const dumb = oneSession(() => Promise.reject(new Error('BadTimeout')));
    const end = new AbortController();
    const live = new LiveSession(end.signal, times);
    const turn = turnOf(live);
    const held = live.hold(async (use) => {
      await use(dumb.session);
      end.abort();
      return null;
    });
    expect(await turn).toBe('there');
    await held;
    expect(live.state).toMatchObject({ isLost: true, says: '' });
  });

  it('that can’t be opened at first is not tried again', async () => {
    let tries = 0;
    const live = new LiveSession(new AbortController().signal, times);
    await live.hold(() => {
      tries += 1;
      return Promise.resolve('Identity: not let in.');
    });
    expect(await live.first).toBe('Identity: not let in.');
    expect(tries).toBe(1);
  });

  it('is given up after a while', async () => {
    const one = oneSession();
    const live = new LiveSession(new AbortController().signal, { ...times, patienceMs: 10 });
    let wasOpen = false;
    const held = live.hold(async (use) => {
      if (wasOpen) throw new Error('It is away.');
      wasOpen = true;
      await use(one.session);
      return null;
    });
    expect(await live.first).toBeNull();
    one.lose();
    await held;
    expect(live.state).toMatchObject({ isLost: true, says: 'It is away.' });
  });
});
