import { found } from '../testing/found.js';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('passage');
let engineer: Caller;
let viewer: Caller;
let approver: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  engineer = await signIn('engineer', url, ownPassword);
  viewer = await signIn('viewer', url, ownPassword);
  approver = await signIn('administrator', url, ownPassword);
});
afterAll(() => own.remove());

const firewallId = 'process-firewall';
const passageOf = async (linkId: string) => {
  const { links } = await viewer.call('passage');
  const found = links.find((link) => link.linkId === linkId);
  if (!found) throw new Error(`no link ${linkId}`);
  return found;
};

describe('firewalls on the ways of links', () => {
  it('are told with what they make of each link', async () => {
    const { firewalls } = await viewer.call('passage');
    expect(firewalls.map(({ id, stopped }) => [id, stopped])).toEqual([
      ['office-firewall', 0],
      [firewallId, 3],
      ['recipe-store-firewall', 0],
    ]);
    const silos = await passageOf('line-display--silo-levels');
    expect(silos.openings).toMatchObject([
      { purpose: 'endpoint', verdict: 'drop', portCount: 1, firewalls: [{ id: firewallId, rule: null }] },
    ]);
    expect(silos.openings[0]?.firewalls[0]?.change?.commands[0]).toContain('nft ');
    // A server has to reach the devices that it reads, too.
    expect((await passageOf('device:field-data-server:stack-probe')).openings).toMatchObject([
      {
        verdict: 'drop',
        firewalls: [
          { id: firewallId, rule: { text: expect.stringContaining('until the stack probe is calibrated') as string } },
        ],
      },
    ]);
    const [office] = (await passageOf('energy--furnace')).openings;
    expect(office?.firewalls.map(({ id, verdict }) => [id, verdict])).toEqual([
      ['office-firewall', 'accept'],
      [firewallId, 'accept'],
    ]);
  });

  it('let a classic link there and not back', async () => {
    const { openings } = await passageOf('trend--silo-data');
    expect(openings.map(({ purpose, verdict }) => [purpose, verdict])).toEqual([
      ['mapper', 'accept'],
      ['objects', 'accept'],
      ['callback-mapper', 'drop'],
      ['callback-objects', 'drop'],
    ]);
  });

  it('have rules that are told by what they are worth', async () => {
    const { rules } = await viewer.call('firewall', { firewallId });
    const worth = (index: number) => rules.find((rule) => rule.index === index);
    expect(worth(6)).toMatchObject({ worth: 'shadowed', shadowedBy: [{ chain: 'forward', index: 5 }] });
    expect(worth(3)).toMatchObject({ worth: 'stops', links: [{ id: 'energy--recipes' }] });
    expect(worth(7)).toMatchObject({ worth: 'too-wide' });
    expect(worth(7)?.needed.join()).toContain('TCP port 4840');
  });

  it('are tried on paper: narrow rules turn no link, and without one that stops it a link turns', async () => {
    const { rules } = await viewer.call('firewall', { firewallId });
    for (const { table, chain, index, narrowed } of rules.filter((rule) => rule.worth === 'too-wide')) {
      const at = { table, chain, index };
      const edits = [{ kind: 'remove' as const, at }, ...narrowed.map((text) => ({ kind: 'add' as const, at, text }))];
      expect(await viewer.call('rulesWhatIf', { firewallId }, { edits })).toEqual({ turns: [] });
    }
    const stopping = { table: 'process', chain: 'forward', index: 3 };
    const without = await viewer.call('rulesWhatIf', { firewallId }, { edits: [{ kind: 'remove', at: stopping }] });
    expect(without.turns).toMatchObject([{ linkId: 'energy--recipes', before: 'drop', after: 'accept' }]);
    const mended = await viewer.call(
      'rulesWhatIf',
      { firewallId },
      { edits: [{ kind: 'replace', at: stopping, text: 'accept' }] },
    );
    expect(mended.turns.map(({ linkId }) => linkId)).toContain('line-display--silo-levels');
  });

  it('can’t be tried with what is no rule', async () => {
    const at = { table: 'process', chain: 'forward', index: 99 };
    await expect(engineer.call('rulesWhatIf', { firewallId }, { edits: [{ kind: 'remove', at }] })).rejects.toThrow();
  });

  it('are described, given rules, and removed, by engineers alone, and it is in the trail', async () => {
    const wish = {
      name: 'Lehr’s own firewall',
      machineId: 'lehr',
      interfaces: [],
    };
    await expect(viewer.call('addFirewall', {}, wish)).rejects.toThrow();
    const { id } = await engineer.call('addFirewall', {}, wish);
    expect(id).toBe('lehr-s-own-firewall');
    const empty = await engineer.call('firewall', { firewallId: id });
    expect(empty).toMatchObject({ firewall: { rules: null }, rules: [] });
    expect((await passageOf('line-display--lehr')).openings[0]?.verdict).toBe('not-told');
    const text =
      'table inet host {\n chain input {\n  type filter hook input priority filter; policy drop;\n  tcp dport 22 accept\n }\n}\n';
    const read = await engineer.call('importRules', { firewallId: id }, { name: 'lehr.nft', text });
    expect(read).toMatchObject({ firewall: { rules: { format: 'nft', rules: 1, takenBy: 'engineer' } } });
    expect((await passageOf('line-display--lehr')).openings[0]).toMatchObject({
      verdict: 'drop',
      firewalls: [{ verdict: 'accept' }, { id, verdict: 'drop' }],
    });
    await engineer.call('removeFirewall', { firewallId: id });
    expect((await passageOf('line-display--lehr')).openings[0]?.verdict).toBe('accept');
    const { entries } = await engineer.call('audit');
    expect(entries.slice(0, 3).map(({ action }) => action)).toEqual([
      'firewall removed',
      'firewall rules imported',
      'firewall added',
    ]);
  });

  it('refuse what is no rule set, and say what to do', async () => {
    const sent = engineer.call('importRules', { firewallId }, { name: 'x', text: '-P INPUT DROP\n' });
    await expect(sent).rejects.toThrow(/iptables-save/);
    const cut = engineer.call('importRules', { firewallId }, { name: 'x', text: '*filter\n:INPUT DROP [0:0]\n' });
    await expect(cut).rejects.toThrow(/cut off/);
  });

  it('are joined by conduits, of which one leads from one zone to another', async () => {
    const wish = {
      name: 'DMZ to office',
      fromZoneId: 'plant-dmz',
      toZoneId: 'works-office',
      firewallIds: ['office-firewall'],
      targetLevel: 1,
    };
    const { id } = await engineer.call('addConduit', {}, wish);
    await expect(engineer.call('addConduit', {}, wish)).rejects.toThrow(/already/);
    await expect(engineer.call('putConduit', { conduitId: id }, { ...wish, toZoneId: 'nowhere' })).rejects.toThrow(
      /nowhere/,
    );
    await engineer.call('putConduit', { conduitId: id }, { ...wish, targetLevel: 3 });
    const { conduits } = await viewer.call('passage');
    expect(conduits.find((conduit) => conduit.id === id)).toMatchObject({ targetLevel: 3 });
    await engineer.call('removeConduit', { conduitId: id });
    await expect(engineer.call('removeConduit', { conduitId: id })).rejects.toThrow();
  });

  it('are told conduit by conduit with what they let through that nobody needs', async () => {
    const { widths } = await viewer.call('conduitWidths');
    const width = (id: string) => widths.find(({ conduitId }) => conduitId === id);
    expect(width('works-office--plant-dmz')?.unneeded.join('\n')).toContain('UDP port 123');
    expect(width('control-room--batch-house')).toMatchObject({ unsureAt: 'Process firewall' });
    expect(width('batch-house--control-room')?.unneeded.length).toBeGreaterThan(0);
  });

  it('are asked for what servers need to reach the devices behind them', async () => {
    const devices = (await viewer.call('passage')).links.filter(({ kind }) => kind === 'device');
    const told = devices.map(({ link, openings }) => [link, openings[0]?.verdict, openings[0]?.firewalls.length]);
    expect(told).toContainEqual(['Field data server asks Batch weigher', 'accept', 1]);
    expect(told).toContainEqual(['Field data server asks Water meter', 'accept', 0]);
    // So that the rule for them is never called one that nobody needs.
    const ruleNow = async () =>
      (await viewer.call('firewall', { firewallId })).rules.find(({ text }) =>
        text.includes('field data, its devices'),
      );
    const rule = await ruleNow();
    expect(rule?.worth).toBeDefined();
    expect(rule?.worth).not.toBe('unneeded');
    expect(rule?.links.map(({ name }) => name)).toContain('Field data server asks Batch weigher');
    // Nor is it needed any more once no item comes from there.
    const serverId = 'field-data-server';
    const { origins } = await viewer.query('origins', { server: serverId });
    await engineer.call('removeOrigins', { serverId }, { paths: origins.map(({ path }) => path) });
    expect(await ruleNow()).toMatchObject({ worth: 'unneeded', links: [] });
    for (const { path, origin } of origins) await engineer.call('putOrigin', { serverId }, { path, origin });
  });

  it('are asked for what services need, zone by zone', async () => {
    const verdicts = async () =>
      (await viewer.call('passage')).links
        .filter(({ kind }) => kind === 'service')
        .map(({ link, openings }) => [link, [...new Set(openings.map(({ verdict }) => verdict))].join()]);
    expect(await verdicts()).toEqual([
      ['Discovery for Control Room', 'accept'],
      ['Management of certificates for Hot End', expect.anything()],
      ['Management of certificates for Cold End', expect.anything()],
      ['Name service for Control Room', 'accept'],
      ['Name service for Works Office', 'drop'],
      ['Time for Control Room', 'accept'],
      ['Time for Works Office', 'accept'],
    ]);
    const wish = {
      name: 'Time',
      kind: 'time' as const,
      machineId: 'archive',
      port: 123,
      zoneIds: ['works-office'],
    };
    await expect(engineer.call('addService', {}, { ...wish, machineId: 'nowhere' })).rejects.toThrow(/nowhere/);
    await expect(engineer.call('addService', {}, { ...wish, zoneIds: ['nowhere'] })).rejects.toThrow(/nowhere/);
    await expect(engineer.call('addService', {}, { ...wish, port: null })).rejects.toThrow(/port/i);
    await expect(viewer.call('addService', {}, wish)).rejects.toThrow();
    const { id } = await engineer.call('addService', {}, wish);
    expect(id).toBe('time-2');
    await engineer.call('putService', { serviceId: id }, { ...wish, zoneIds: ['hot-end'] });
    expect((await verdicts()).at(-1)).toEqual(['Time for Hot End', 'drop']);
    await engineer.call('removeService', { serviceId: id });
    await expect(engineer.call('removeService', { serviceId: id })).rejects.toThrow();
    expect(await verdicts()).toHaveLength(7);
  });

  it('are looked at by every check, and what they make of a link is a fact of it', async () => {
    await engineer.call('checkLink', { linkId: 'line-display--silo-levels' }, {});
    const { assessment } = await until(
      () => viewer.call('link', { linkId: 'line-display--silo-levels' }),
      (view) => view.assessment?.leadingCause === 'rules-stop',
    );
    const step = assessment?.steps.find(({ step: id }) => id === 'passage');
    expect(step).toMatchObject({ verdict: 'fails', source: 'reckoned' });
  });
});

describe('a server that stands in for another one', () => {
  const linkId = 'energy--gas-meter';
  const checked = async () => {
    await found(engineer, linkId);
    const { assessment } = await viewer.call('link', { linkId });
    const finding = (causeId: string) =>
      (assessment?.steps ?? []).flatMap(({ findings }) => findings).find((each) => each.causeId === causeId);
    return { unchecked: finding('redundant-unchecked'), stopped: finding('redundant-stopped') };
  };
  const added = async () =>
    (await passageOf(linkId)).openings.filter(({ purpose }) => purpose === 'redundant').map(({ verdict }) => verdict);

  it('is told where the plant doesn’t know it, and adds its opening to the link’s once it does', async () => {
    const { unchecked, stopped } = await checked();
    expect(unchecked?.meaning).toContain('gas-meter-standby-server');
    expect(stopped).toBeUndefined();
    expect(await added()).toEqual([]);

    const { machines, applications } = await viewer.call('plant');
    const machine = machines.find(({ id }) => id === 'gas-meter');
    const server = applications.find(({ id }) => id === 'gas-meter-server');
    if (!machine || server?.kind !== 'server') throw new Error('no gas meter');
    const id = 'gas-meter-standby';
    const standby = { ...server, id: `${id}-server`, machineId: id, name: 'Gas meter’s standby', ports: [4843] };
    const applicationUri = `${server.applicationUri.replace('gas-meter-server', '')}${standby.id}`;
    const address = machine.addresses[0]?.replace(/\d+$/, '99') ?? '';
    await engineer.call('putMachine', { id }, { ...machine, id, name: id, hostNames: [], addresses: [address] });
    await engineer.call('putApplication', { id: standby.id }, { ...standby, applicationUri });
    expect(await added()).toEqual(['drop']);
    const known = await checked();
    expect(known.stopped).toMatchObject({ severity: 'weak', step: 'passage' });
    expect(known.unchecked?.meaning).toContain('No link of the plant leads from this client to Gas meter’s standby');
    await engineer.call('putApplication', { id: standby.id }, { ...standby, applicationUri, ports: [4840] });
    expect(await added()).toEqual(['accept']);
    // A check of another server, which says that nobody stands in for it, changes nothing of this one.
    await found(engineer, 'energy--furnace');
    expect(await added()).toEqual(['accept']);
  });
});

describe('firewalls in a file', () => {
  it('go out with their rules, and come in all or not at all', async () => {
    const document = await viewer.call('exportPassage');
    expect(document.firewalls.map(({ id, rules }) => [id, rules?.name])).toContainEqual([
      'office-firewall',
      'office-firewall.rules',
    ]);
    await expect(viewer.call('importPassage', {}, document)).rejects.toThrow();
    expect(await engineer.call('importPassage', {}, document)).toEqual({
      firewalls: document.firewalls.length,
      conduits: document.conduits.length,
      services: document.services.length,
    });
    expect(await viewer.call('exportPassage')).toEqual(document);

    const [firewall] = document.firewalls;
    const [conduit] = document.conduits;
    if (!firewall || !conduit) throw new Error('nothing to bring');
    const other = { ...firewall, name: 'Renamed firewall' };
    const wrong = { ...document, firewalls: [other], conduits: [{ ...conduit, toZoneId: 'nowhere' }], services: [] };
    await expect(engineer.call('importPassage', {}, wrong)).rejects.toThrow(/conduits\.0: There is no zone “nowhere”/);
    const [one, two] = document.conduits;
    if (!one || !two) throw new Error('too few conduits');
    const swapped = [
      { ...one, fromZoneId: two.fromZoneId, toZoneId: two.toZoneId },
      { ...two, fromZoneId: one.fromZoneId, toZoneId: one.toZoneId },
    ];
    const rest = { ...document, firewalls: [], services: [] };
    await expect(engineer.call('importPassage', {}, { ...rest, conduits: swapped.slice(0, 1) })).rejects.toThrow(
      /conduits\.0: .*already leads/,
    );
    await expect(engineer.call('importPassage', {}, { ...rest, conduits: [one, one] })).rejects.toThrow(/twice/);
    await engineer.call('importPassage', {}, { ...rest, conduits: swapped });
    await engineer.call('importPassage', {}, { ...rest, conduits: [one, two] });
    const unread = { ...other, rules: { name: 'x', text: '-P INPUT DROP\n', takenAt: '2026-03-01T06:00:00.000Z' } };
    await expect(
      engineer.call('importPassage', {}, { ...document, firewalls: [unread], conduits: [], services: [] }),
    ).rejects.toThrow(/firewalls\.0\.rules: .*iptables-save/);
    expect(await viewer.call('exportPassage')).toEqual(document);

    const text = 'table inet host {\n}\n';
    const changed = { ...other, rules: { name: 'host.nft', text, takenAt: '2026-03-01T06:00:00.000Z' } };
    await engineer.call('importPassage', {}, { ...document, firewalls: [changed], conduits: [], services: [] });
    const { firewalls } = await viewer.call('passage');
    expect(firewalls.find(({ id }) => id === firewall.id)).toMatchObject({
      name: 'Renamed firewall',
      rules: { takenAt: '2026-03-01T06:00:00.000Z', takenBy: 'engineer', file: 'host.nft' },
    });
    await engineer.call('importPassage', {}, document);
    expect(await viewer.call('exportPassage')).toMatchObject({ firewalls: document.firewalls });
  });
});

describe('a work order of firewall rules', () => {
  it('takes away a rule that is never reached, proved where it is gone, and brings it back', async () => {
    const { rules } = await viewer.call('firewall', { firewallId });
    const shadowed = rules.find(({ worth }) => worth === 'shadowed');
    const change = shadowed?.tightened;
    if (!change) throw new Error('nothing to tighten');
    const line = { change, why: 'It is never reached.', linkIds: [] };
    const { id } = await engineer.call('proposeOrder', {}, { title: 'Tidy up', lines: [line] });
    expect((await viewer.call('order', { id })).lines[0]).toMatchObject({ before: shadowed.text, way: 'by hand' });
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    await until(
      () => viewer.call('order', { id }),
      (order) => order.lines[0]?.state === 'by hand',
    );
    await engineer.call('lineDoneByHand', { id, position: '1' }, {});
    const bring = (without: readonly string[]) => {
      const texts = rules.map(({ text }) => text).filter((text) => !without.includes(text));
      const text = `table inet process {\n set collectors {\n  type ipv4_addr\n }\n chain forward {\n  type filter hook forward priority filter; policy drop;\n  ${texts.join('\n  ')}\n }\n}\n`;
      return engineer.call('importRules', { firewallId }, { name: 'process.nft', text });
    };
    await bring([]);
    expect((await viewer.call('order', { id })).lines[0]?.state).toBe('done');
    await bring([shadowed.text]);
    await until(
      () => viewer.call('order', { id }),
      (order) => order.lines[0]?.state === 'proved',
    );
    await bring([]);
  });

  it('is carried out by hand, and proved by rules that were taken afterwards', async () => {
    const { openings } = await passageOf('line-display--silo-levels');
    const change = openings[0]?.firewalls[0]?.change;
    if (!change) throw new Error('no change');
    const why = 'The silo levels are needed in the control room.';
    const { id } = await engineer.call(
      'proposeOrder',
      {},
      { title: 'Silo levels', lines: [{ change, why, linkIds: ['line-display--silo-levels'] }] },
    );
    const proposed = await viewer.call('order', { id });
    expect(proposed.lines[0]).toMatchObject({
      way: 'by hand',
      title: expect.stringContaining('Process firewall') as string,
    });
    expect(proposed.lines[0]?.after).toContain(change.commands[0]);

    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const byHand = await until(
      () => viewer.call('order', { id }),
      (order) => order.lines[0]?.state === 'by hand',
    );
    expect(byHand.lines[0]?.says).toContain('Enter the rules at the firewall');
    await engineer.call('lineDoneByHand', { id, position: '1' }, {});

    const before = await viewer.call('firewall', { firewallId });
    const rules = before.rules.map(({ text }) => text);
    const text = (more: readonly string[]) =>
      `table inet process {\n set collectors {\n  type ipv4_addr\n }\n chain forward {\n  type filter hook forward priority filter; policy drop;\n  ${[...more, ...rules].join('\n  ')}\n }\n}\n`;
    await engineer.call('importRules', { firewallId }, { name: 'without.nft', text: text([]) });
    expect((await viewer.call('order', { id })).lines[0]?.state).toBe('done');
    await engineer.call('importRules', { firewallId }, { name: 'with.nft', text: text(change.rules) });
    await until(
      () => viewer.call('order', { id }),
      (order) => order.lines[0]?.state === 'proved',
    );
  });
});
