import type { Fact, FactBody, LinkInPlant } from '@loyal-hinge/core';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { facts, subject } from '../../../core/src/testing/builders.js';
import type { Database } from '../database/database.js';
import type { OutpostLines } from '../outposts/lines.js';
import type { CheckLog, CheckMeans } from '../probe/means.js';
import type { AtDevice } from '../probe/field/means.js';
import { ProbeFault, RemoteWalks } from './remote-walks';

const probe = { id: 'dmz', name: 'DMZ probe', kind: 'probe', machineId: null };
const db = { select: () => ({ from: () => ({ where: () => Promise.resolve([probe]) }) }) } as unknown as Database;
const link: LinkInPlant = subject();
const soon = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

/** What a walk came to: its facts, its steps, and what the probe was told. */
function walking(means: Partial<CheckMeans> = {}, isConnected = true) {
  const said: FromServer[] = [];
  const steps: string[] = [];
  const noted: FactBody[] = [];
  const kept: number[] = [];
  const lines = {
    say: (_: string, message: FromServer) => {
      said.push(message);
      return isConnected;
    },
    has: () => isConnected,
  } as unknown as OutpostLines;
  const log = {
    begin: (step: string) => steps.push(step),
    note: (body: FactBody, source: Fact['source'], at: string) => {
      noted.push(body);
      return { ...body, id: `fact-${noted.length}`, source, at };
    },
    keep: (bytes: Uint8Array) => kept.push(bytes.length),
  } as unknown as CheckLog;
  const walks = new RemoteWalks(db, lines, { hear: () => undefined, gone: () => undefined });
  const stop = new AbortController();
  let end: string | null = null;
  const begin = async (): Promise<void> => {
    void walks.walk(probe, 'check', link, given(means), log, stop.signal).then(
      () => (end = 'walked'),
      (error: unknown) => (end = error instanceof ProbeFault ? error.message : `unexpected: ${String(error)}`),
    );
    await soon();
  };
  const tell = async (message: object, from = 'dmz'): Promise<void> => {
    walks.quickly(from, { checkId: 'check', ...message } as FromOutpost);
    await soon();
  };
  const answers = () => said.filter((message) => message.kind === 'answer');
  return { walks, begin, tell, stop, said, answers, steps, noted, kept, end: () => end };
}

const given = (means: Partial<CheckMeans>): CheckMeans =>
  ({
    origins: [],
    dialFromClientAddress: true,
    signIns: { whyPaused: () => Promise.resolve(null) },
    ...means,
  }) as unknown as CheckMeans;

const { id: _, source: _source, at: _at, ...resolved } = facts.resolved(['10.0.0.1']);

describe('a walk that a probe makes', () => {
  it('writes down what the probe saw once its step is over, and ends when it says so', async () => {
    const walk = walking();
    await walk.begin();
    expect(walk.said).toMatchObject([{ kind: 'walk', checkId: 'check', link: link.link.kind }]);
    await walk.tell({ kind: 'step', step: 'name' });
    await walk.tell({ kind: 'fact', body: resolved, source: 'tried' });
    expect([walk.steps, walk.noted]).toEqual([['name'], []]);
    await walk.tell({ kind: 'bytes', der: Buffer.from([1, 2, 3]).toString('base64') });
    await walk.tell({ kind: 'walked', says: null });
    expect([walk.noted, walk.kept, walk.end()]).toEqual([[resolved], [3], 'walked']);
  });

  it('never dials from a client’s address that is another machine’s', async () => {
    const walk = walking();
    await walk.begin();
    expect(JSON.stringify(walk.said[0])).toContain('"dialFromClientAddress":false');
  });

  it('fails in the probe’s own words', async () => {
    const walk = walking();
    await walk.begin();
    await walk.tell({ kind: 'walked', says: 'Its disk is full.' });
    expect(walk.end()).toBe('Its disk is full.');
  });

  it.each([
    ['a step that there is none of', { kind: 'step', step: 'rob' }],
    ['what is no fact', { kind: 'fact', body: { kind: 'name-resolution' }, source: 'tried' }],
    ['what nobody knows', { kind: 'fact', body: { kind: 'weather', is: 'fine' }, source: 'tried' }],
  ])('is ended where it tells %s, and nothing of it is written down', async (_name, message) => {
    const walk = walking();
    await walk.begin();
    await walk.tell(message);
    await walk.tell({ kind: 'walked', says: null });
    expect([walk.noted, walk.end()]).toEqual([[], 'The probe told what can’t be: the check was ended.']);
  });

  it('hears no other probe, and nothing of a walk that is over', async () => {
    const walk = walking();
    await walk.begin();
    await walk.tell({ kind: 'fact', body: resolved, source: 'tried' }, 'stranger');
    await walk.tell({ kind: 'walked', says: null }, 'stranger');
    expect(walk.end()).toBeNull();
    await walk.tell({ kind: 'walked', says: null });
    await walk.tell({ kind: 'fact', body: resolved, source: 'tried' });
    expect([walk.noted, walk.end()]).toEqual([[], 'walked']);
  });

  it('ends with the probe: gone before, or in its middle', async () => {
    const away = walking({}, false);
    await away.begin();
    expect(away.end()).toMatch(/^The probe DMZ probe is not connected any more/);
    const walk = walking();
    walk.walks.here('dmz');
    await walk.begin();
    walk.walks.gone('dmz');
    await soon();
    expect(walk.end()).toBe('The probe vanished in the middle of the check.');
  });

  it('is called off at the probe where somebody cancels it', async () => {
    const walk = walking();
    await walk.begin();
    walk.stop.abort();
    expect(walk.said.at(-1)).toEqual({ kind: 'cancel', checkId: 'check' });
    expect(walk.end()).toBeNull();
    await walk.tell({ kind: 'walked', says: null });
    expect(walk.end()).toBe('walked');
  });

  it('says when the first probe comes and when the last one goes', () => {
    const { walks } = walking();
    const heard: boolean[] = [];
    walks.whenAny((isAny) => heard.push(isAny));
    walks.here('dmz');
    walks.here('office');
    walks.gone('dmz');
    walks.gone('dmz');
    walks.gone('office');
    expect(heard).toEqual([true, false]);
  });
});

/** A device at which one is at a time. */
function device() {
  const log: string[] = [];
  let turn: Promise<unknown> = Promise.resolve();
  const atDevice: AtDevice = (id, run) => {
    const mine = turn.then(async () => {
      log.push(`at ${id}`);
      const result = await run();
      log.push(`left ${id}`);
      return result;
    });
    turn = mine.catch(() => undefined);
    return mine;
  };
  const origins = ['scale', 'panel'].map((deviceId) => ({ origin: { deviceId } })) as unknown as CheckMeans['origins'];
  return { log, means: { atDevice, origins } };
}

describe('what a probe asks during its walk', () => {
  it('is its turn at a device, until it says that it has left', async () => {
    const { log, means } = device();
    const walk = walking(means);
    await walk.begin();
    await walk.tell({ kind: 'ask', askId: 1, what: 'at-device', about: 'scale' });
    expect([log, walk.answers()]).toEqual([['at scale'], [{ kind: 'answer', askId: 1, value: null, says: null }]]);
    await walk.tell({ kind: 'ask', askId: 2, what: 'left-device', about: null });
    expect(log).toEqual(['at scale', 'left scale']);
  });

  it('leaves one device before it goes to the next', async () => {
    const { log, means } = device();
    const walk = walking(means);
    await walk.begin();
    await walk.tell({ kind: 'ask', askId: 1, what: 'at-device', about: 'scale' });
    await walk.tell({ kind: 'ask', askId: 2, what: 'at-device', about: 'panel' });
    expect(log).toEqual(['at scale', 'left scale', 'at panel']);
  });

  it('is a turn that is given back when the walk ends, whatever its end', async () => {
    for (const end of ['walked', 'gone'] as const) {
      const { log, means } = device();
      const walk = walking(means);
      await walk.begin();
      await walk.tell({ kind: 'ask', askId: 1, what: 'at-device', about: 'scale' });
      if (end === 'walked') await walk.tell({ kind: 'walked', says: null });
      else walk.walks.gone('dmz');
      await soon();
      expect(log).toEqual(['at scale', 'left scale']);
    }
  });

  it('is no turn at a device from which no item of the server comes', async () => {
    const { log, means } = device();
    const walk = walking(means);
    await walk.begin();
    await walk.tell({ kind: 'ask', askId: 1, what: 'at-device', about: 'press' });
    expect([log, walk.answers()]).toEqual([
      [],
      [{ kind: 'answer', askId: 1, value: null, says: 'No item of this server comes from there.' }],
    ]);
  });

  it('is answered with why it can’t be', async () => {
    const walk = walking({
      readServerLists: null,
      passage: () => Promise.reject(new Error('The rules can’t be read.')),
      seenByOthers: null,
    });
    await walk.begin();
    await walk.tell({ kind: 'ask', askId: 1, what: 'server-lists', about: null });
    await walk.tell({ kind: 'ask', askId: 2, what: 'passage', about: ['127.0.0.1', 7] });
    await walk.tell({ kind: 'ask', askId: 3, what: 'seen-by-others', about: 'no list' });
    expect(walk.answers()).toEqual([
      { kind: 'answer', askId: 1, value: null, says: 'There is no way to these lists.' },
      { kind: 'answer', askId: 2, value: null, says: 'The rules can’t be read.' },
      { kind: 'answer', askId: 3, value: [], says: null },
    ]);
  });
});
