import { gatewayStatus } from '@loyal-hinge/core';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import { gatewayConfiguration } from '@loyal-hinge/contract/line';
import { Gateway } from './gateway';
import type { GatewayFace } from './gateway';
import type { GatewaySource, SourceEars, SourceItem, SourceValue } from './source';

/** A source that says what it is told to, and takes what is written. */
class ScriptedSource implements GatewaySource {
  ears: SourceEars | null = null;
  watched: readonly string[] = [];
  isStopped = false;
  readonly written: [path: string, value: unknown][] = [];
  answer = 'Good';
  /** Answers to writes that wait. */
  readonly waiting: (() => void)[] = [];
  holdsWrites = false;

  constructor(
    readonly name: string,
    readonly wanted: readonly string[],
  ) {}

  start(ears: SourceEars): void {
    this.ears = ears;
  }
  watch(paths: readonly string[]): Promise<void> {
    this.watched = paths;
    return Promise.resolve();
  }
  async write(path: string, value: unknown): Promise<string> {
    this.written.push([path, value]);
    if (this.holdsWrites) await new Promise<void>((done) => this.waiting.push(done));
    return this.answer;
  }
  stop(): Promise<void> {
    this.isStopped = true;
    return Promise.resolve();
  }

  heard: readonly string[] = [];
  /** Why it can’t listen to some, by their paths. */
  deaf: ReadonlyMap<string, string> = new Map();
  hear(paths: readonly string[]): Promise<ReadonlyMap<string, string>> {
    this.heard = paths;
    return Promise.resolve(this.deaf);
  }

  async there(...paths: string[]): Promise<void> {
    await this.thereWith(paths, []);
  }
  async thereWith(paths: readonly string[], notifiers: readonly string[]): Promise<void> {
    const items = paths.map((path): SourceItem => ({ path: path.split('/'), type: 'Double', valueRank: -1 }));
    await this.ears?.there(
      items,
      notifiers.map((path) => ({ path: path.split('/') })),
    );
  }
  sends(path: string, type: string): void {
    this.ears?.happened?.(path, { type, fields: new Map() });
  }
  says(path: string, value: unknown, differs: Partial<SourceValue> = {}): void {
    this.ears?.changed(path, { value, type: 'Double', status: 0, sourceTime: null, raw: null, ...differs });
  }
}

/** A face that keeps what it shows. */
class KeptFace implements GatewayFace {
  readonly places = new Map<string, string>();
  readonly values = new Map<string, { value: unknown; status: number }>();
  add(key: string, { domain, path }: { domain: string; path: string }): void {
    this.places.set(key, `${domain}/${path}`);
  }
  show(key: string, { value, status }: SourceValue): void {
    const place = this.places.get(key);
    if (place !== undefined) this.values.set(place, { value, status });
  }
  remove(key: string): void {
    const place = this.places.get(key);
    this.places.delete(key);
    if (place !== undefined) this.values.delete(place);
  }
  /** Events, by the places from which they are sent. */
  readonly events: string[] = [];
  readonly notifiers = new Map<string, string>();
  addNotifier(key: string, { domain, path }: { domain: string; path: string }): void {
    this.notifiers.set(key, `${domain}/${path}`);
  }
  removeNotifier(key: string): void {
    this.notifiers.delete(key);
  }
  happened(key: string, { type }: { type: string }): void {
    this.events.push(`${this.notifiers.get(key) ?? 'nowhere'}: ${type}`);
  }
  stop(): Promise<void> {
    return Promise.resolve();
  }
}

const source = (name: string, more: object = {}) => ({
  kind: 'ua',
  name,
  endpointUrl: 'opc.tcp://127.0.0.1:4840',
  policy: 'None',
  mode: 'None',
  ...more,
});
const place = (from: string, items: string, domain: string, more: object = {}) => ({
  source: from,
  items,
  domain,
  ...more,
});
const relay = (id: string, from: string, to: string, more: object = {}) => {
  const end = (text: string) => ({ source: text.split(':')[0], path: text.split(':')[1] });
  return { id, from: end(from), to: end(to), ...more };
};

function configured(differs: object): GatewayConfiguration {
  return gatewayConfiguration.parse({
    name: 'g',
    certificateFile: 'c.pem',
    keyFile: 'k.pem',
    trustedFiles: [],
    sources: [source('hot'), source('cold')],
    places: [place('hot', 'Furnace/**', 'Hot End', { withoutFirst: 1 })],
    ...differs,
  });
}

function begun(differs: object = {}) {
  const sources: ScriptedSource[] = [];
  const said: string[] = [];
  const face = new KeptFace();
  const gateway = new Gateway(
    configured(differs),
    ({ name }, wanted) => {
      const made = new ScriptedSource(name, wanted);
      sources.push(made);
      return made;
    },
    (says) => said.push(says),
  );
  gateway.start([face]);
  const newest = (name: string): ScriptedSource => {
    const found = sources.filter((each) => each.name === name).at(-1);
    if (!found) throw new Error(`no source ${name}`);
    return found;
  };
  return { gateway, face, said, newest, sources };
}
const settled = (): Promise<void> => new Promise((done) => setImmediate(done));

describe('what a gateway shows', () => {
  it('is what its sources say, in its own places, and its last value while they are gone', async () => {
    const { gateway, face, newest } = begun();
    await newest('hot').there('Furnace/Gas flow', 'Stacker/Rows');
    expect(newest('hot').watched).toEqual(['Furnace/Gas flow']);
    expect(face.values.get('Hot End/Gas flow')?.status).toBe(gatewayStatus.waiting);
    newest('hot').says('Furnace/Gas flow', 12);
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 12, status: 0 });
    newest('hot').ears?.gone('The line is cut.');
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 12, status: gatewayStatus.lastUsable });
    const [item] = gateway.itemsShown('gas', 0, 10).items;
    expect(item).toMatchObject({ source: 'hot', atSource: null, shown: { value: 12 } });
    await newest('hot').there('Furnace/Gas flow');
    newest('hot').says('Furnace/Gas flow', 13);
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 13, status: 0 });
    expect(gateway.statistics.sources[0]).toMatchObject({ name: 'hot', state: 'there', returns: 1, changes: 2 });
  });

  it('is found by words, a part at a time, in the order of numbers in it', async () => {
    const { gateway, newest } = begun();
    await newest('hot').there('Furnace/Zone 10', 'Furnace/Zone 9', 'Furnace/Gas flow');
    const found = gateway.itemsShown('zone HOT', 1, 1);
    expect([found.total, found.items.map(({ path }) => path)]).toEqual([2, ['Furnace/Zone 10']]);
  });

  it('is neither of two items that would have the same place', async () => {
    const { face, newest, said } = begun({ places: [place('hot', '**', 'All', { withoutFirst: 1 })] });
    await newest('hot').there('a/T', 'b/T', 'b/U');
    expect([...face.values.keys()]).toEqual(['All/U']);
    expect(said.join()).toContain('a/T and b/T would both be shown as All/T');
  });

  it('is written only where the place allows it', async () => {
    const { gateway, newest } = begun({
      places: [place('hot', 'Furnace/Wanted', 'D', { isWritable: true }), place('hot', 'Furnace/**', 'D')],
    });
    await newest('hot').there('Furnace/Wanted', 'Furnace/Gas flow');
    expect(await gateway.write('hot\nFurnace/Wanted', 3, 'Double')).toBe('Good');
    expect(await gateway.write('hot\nFurnace/Gas flow', 3, 'Double')).toBe('BadNotWritable');
    expect(await gateway.write('nowhere\nx', 3, 'Double')).toBe('BadNotWritable');
    expect(newest('hot').written).toEqual([['Furnace/Wanted', 3]]);
    expect(gateway.statistics.writes).toEqual({ done: 1, refused: 2 });
  });
});

describe('events that a gateway passes on', () => {
  const places = [place('hot', 'Furnace', 'Hot End'), place('hot', 'Furnace/**', 'Hot End', { withoutFirst: 1 })];

  it('are sent from where their node has its place, and counted', async () => {
    const { gateway, face, newest, said } = begun({ places });
    await newest('hot').thereWith(['Furnace/Gas flow'], ['Furnace', 'Lehr']);
    expect([newest('hot').heard, [...face.notifiers.values()]]).toEqual([['Furnace'], ['Hot End/Furnace']]);
    expect(said.join()).toContain('events of Lehr have no place');
    newest('hot').sends('Furnace', 'too hot');
    newest('hot').sends('Lehr', 'too cold');
    expect(face.events).toEqual(['Hot End/Furnace: too hot']);
    expect(gateway.statistics.sources[0]?.events).toBe(1);
  });

  it('are sent from elsewhere once the place is another one, and no longer where their source is gone for good', async () => {
    const { gateway, face, newest } = begun({ places });
    await newest('hot').thereWith([], ['Furnace']);
    const former = newest('hot');
    gateway.change(configured({ places: [place('hot', 'Furnace', 'Melting')] }));
    former.sends('Furnace', 'unheard');
    await newest('hot').thereWith([], ['Furnace']);
    newest('hot').sends('Furnace', 'too hot');
    expect(face.events).toEqual(['Melting/Furnace: too hot']);
    gateway.change(configured({ sources: [source('cold')], places: [] }));
    expect(face.notifiers.size).toBe(0);
  });

  it('are no longer sent once nobody wants them, though their source stays', async () => {
    const { gateway, face, newest } = begun({
      places,
      sources: [source('hot', { events: ['Furnace'] }), source('cold')],
    });
    await newest('hot').thereWith(['Furnace/Gas flow'], ['Furnace']);
    expect(face.notifiers.size).toBe(1);
    gateway.change(configured({ places }));
    await newest('hot').there('Furnace/Gas flow');
    expect([face.notifiers.size, face.values.size]).toEqual([0, 1]);
  });

  it('that a source does not let be heard take nothing else away, and it is said', async () => {
    const { gateway, face, newest, said } = begun({ places });
    newest('hot').deaf = new Map([['Furnace', 'BadUserAccessDenied']]);
    await newest('hot').thereWith(['Furnace/Gas flow'], ['Furnace']);
    newest('hot').says('Furnace/Gas flow', 12);
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 12, status: 0 });
    expect(gateway.statistics.sources[0]).toMatchObject({ state: 'there', fault: null });
    expect(said.join()).toContain('events of Furnace can’t be listened to: BadUserAccessDenied.');
  });
});

describe('the history of what a gateway shows', () => {
  const asked = {} as Parameters<Gateway['history']>[1];

  it('is asked of its source, where that has any', async () => {
    const { gateway, newest } = begun();
    await newest('hot').there('Furnace/Gas flow');
    expect(await gateway.history('hot\nFurnace/Gas flow', asked)).toBe('BadHistoryOperationUnsupported');
    expect(await gateway.history('hot\nunknown', asked)).toBe('BadHistoryOperationUnsupported');
    const paths: string[] = [];
    Object.assign(newest('hot'), {
      history: (path: string) => {
        paths.push(path);
        return Promise.resolve('BadNoCommunication');
      },
    });
    expect(await gateway.history('hot\nFurnace/Gas flow', asked)).toBe('BadNoCommunication');
    expect(paths).toEqual(['Furnace/Gas flow']);
  });
});

describe('a gateway that is set up anew while it runs', () => {
  it('leaves alone what stays the same', async () => {
    const { gateway, newest, sources, face } = begun();
    await newest('hot').there('Furnace/Gas flow');
    newest('hot').says('Furnace/Gas flow', 12);
    gateway.change(configured({ relays: [relay('r', 'cold:A', 'cold:B')] }));
    expect(sources.filter(({ name }) => name === 'hot')).toHaveLength(1);
    // The other one looks for what the relay needs.
    expect(newest('cold').wanted).toEqual(['A', 'B']);
    expect(sources.filter(({ name }) => name === 'cold').map(({ isStopped }) => isStopped)).toEqual([true, false]);
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 12, status: 0 });
  });

  it('makes a source anew whose password is another one, and no other', async () => {
    const { gateway, newest, sources, face } = begun();
    await newest('hot').there('Furnace/Gas flow');
    newest('hot').says('Furnace/Gas flow', 12);
    gateway.change(configured({}), new Set(['hot']));
    expect(sources.map(({ name, isStopped }) => [name, isStopped])).toEqual([
      ['hot', true],
      ['cold', false],
      ['hot', false],
    ]);
    expect(face.values.get('Hot End/Gas flow')).toEqual({ value: 12, status: gatewayStatus.lastUsable });
  });

  it('moves items to other places with their values, and shows no longer what no rule wants', async () => {
    const { gateway, newest, face } = begun();
    await newest('hot').there('Furnace/Gas flow', 'Furnace/Crown');
    newest('hot').says('Furnace/Gas flow', 12);
    gateway.change(configured({ places: [place('hot', 'Furnace/Gas flow', 'Melting')] }));
    await newest('hot').there('Furnace/Gas flow', 'Furnace/Crown');
    expect([...face.values]).toEqual([['Melting/Furnace/Gas flow', { value: 12, status: gatewayStatus.lastUsable }]]);
  });

  it('hears nothing more of a source that is gone from its configuration', async () => {
    const { gateway, newest, face } = begun();
    const former = newest('hot');
    await former.there('Furnace/Gas flow');
    gateway.change(configured({ sources: [source('cold')], places: [] }));
    former.says('Furnace/Gas flow', 99);
    await former.there('Furnace/Gas flow');
    expect([former.isStopped, face.values.size, gateway.itemsShown('', 0, 10).total]).toEqual([true, 0, 0]);
    expect(gateway.statistics.sources.map(({ name }) => name)).toEqual(['cold']);
  });
});

describe('a relay that runs', () => {
  const both = { relays: [relay('r', 'hot:Furnace/Gas flow', 'cold:Wanted')] };

  it('carries the newest value alone where several come while one is being written', async () => {
    const { newest } = begun(both);
    await newest('hot').there('Furnace/Gas flow');
    await newest('cold').there('Wanted');
    newest('cold').holdsWrites = true;
    for (const value of [1, 2, 3]) newest('hot').says('Furnace/Gas flow', value);
    newest('cold').holdsWrites = false;
    newest('cold')
      .waiting.splice(0)
      .forEach((done) => done());
    await settled();
    expect(newest('cold').written.map(([, value]) => value)).toEqual([1, 3]);
  });

  it('says why a target does not take it, and writes again when the target is back', async () => {
    const { gateway, newest } = begun(both);
    await newest('hot').there('Furnace/Gas flow');
    await newest('cold').there('Wanted');
    newest('cold').answer = 'BadUserAccessDenied';
    newest('hot').says('Furnace/Gas flow', 1);
    await settled();
    const [{ written, says } = { written: -1, says: '' }] = gateway.statistics.relays;
    expect([written, says]).toEqual([
      0,
      expect.stringMatching(/^Its server answers BadUserAccessDenied\. The user may not/),
    ]);
    newest('cold').answer = 'Good';
    newest('cold').ears?.gone('It was restarted.');
    await newest('cold').there('Wanted');
    await settled();
    expect(gateway.statistics.relays).toEqual([{ id: 'r', written: 1, says: null }]);
  });

  it('begins with the value that is there when it is added', async () => {
    const { gateway, newest } = begun({ relays: [relay('keep', 'hot:Furnace/Gas flow', 'cold:Other')] });
    await newest('hot').there('Furnace/Gas flow');
    await newest('cold').there('Other', 'Wanted');
    newest('hot').says('Furnace/Gas flow', 7);
    gateway.change(
      configured({
        relays: [
          relay('keep', 'hot:Furnace/Gas flow', 'cold:Other'),
          relay('r', 'hot:Furnace/Gas flow', 'cold:Wanted', { scale: { kind: 'linear', factor: 2, offset: 0 } }),
        ],
      }),
    );
    await newest('cold').there('Other', 'Wanted');
    await settled();
    expect(newest('cold').written).toContainEqual(['Wanted', 14]);
  });
});

describe('what is wrong with a gateway’s configuration', () => {
  it.each([
    [{ sources: [source('hot'), source('hot')] }, 'the name of two sources'],
    [{ places: [place('nowhere', '**', 'D')] }, 'no source “nowhere”'],
    [{ relays: [relay('r', 'hot:A', 'gone:B')] }, 'no source “gone”'],
    [{ relays: [relay('r', 'hot:A', 'cold:B'), relay('r', 'hot:A', 'cold:C')] }, 'the id of two relays'],
    [{ relays: [relay('r', 'hot:A', 'hot:A')] }, 'writes the item that it reads'],
  ])('is told: %#', (differs, says) => {
    expect(Gateway.faultsOf(configured(differs)).join()).toContain(says);
  });
});
