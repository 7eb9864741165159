import type { OrderLine, Proposal, Role, WorkOrderRow } from '@loyal-hinge/contract';
import { savedFiles } from '../../testing/saved-files';
import { Site, refused } from '../../testing/site';
import { line, order, thumbprintOf } from '../../testing/trust-answers';

const row = (differs: Partial<WorkOrderRow> = {}): WorkOrderRow => ({
  ...order(),
  lines: 3,
  done: 1,
  failed: 0,
  ...differs,
});
const rows = [
  row(),
  row({ id: 'o2', title: 'Renew the lehr', state: 'approved', failed: 1, decidedBy: 'administrator' }),
  row({ id: 'o3', title: 'Old one', state: 'proved' }),
];

describe('the page of work orders', () => {
  it('says which are open, and of which nothing is wanted any more', async () => {
    const site = await Site.open('/orders', { orders: { orders: rows } });
    expect(site.headline).toBe('3 work orders: 1 waits for approval, 1 can be carried out.');
    expect(site.text).toContain('1 of 3 done, 1 failed');
    await site.fill(/State/, 'proved');
    expect(site.url).toBe('/orders?state=proved');
    expect(site.rows().map(([title]) => title)).toEqual(['Old one']);
    await site.fill(/State/, 'withdrawn');
    expect(site.text).toContain('No work order is withdrawn.');
  });

  it('says where they come from while there are none', async () => {
    const site = await Site.open('/orders', { orders: { orders: [] } });
    expect(site.text).toContain('A work order lists what is to be changed, line by line, and how to undo it.');
  });
});

describe('what waits for a second person', () => {
  const proposal: Proposal = {
    id: 'p1',
    kind: 'plant',
    title: 'Replace the plant by Works',
    says: ['Gone: 1 link: Display to Furnace.'],
    state: 'waiting',
    proposedBy: 'colleague',
    proposedAt: '2026-03-01T10:00:00.000Z',
    decidedBy: null,
    decidedAt: null,
  };
  const open = (role: Role, differs: Partial<Proposal> = {}) =>
    Site.open(
      '/orders',
      {
        orders: { orders: rows },
        proposals: { proposals: [{ ...proposal, ...differs }] },
        acceptProposal: proposal,
        refuseProposal: proposal,
      },
      role,
    );

  it('is shown with what will be other, and accepted by an approver', async () => {
    const site = await open('approver');
    expect(site.headline).toContain('1 proposal waits for a second person.');
    expect(site.text).toContain('Gone: 1 link: Display to Furnace.');
    await site.press(/^Accept$/);
    expect(site.calls.find(({ name }) => name === 'acceptProposal')?.params).toEqual({ id: 'p1' });
  });

  it('is not accepted by the one who proposed it, who may take it back', async () => {
    const site = await open('approver', { proposedBy: 'engineer' });
    expect(site.button(/^Accept$/).disabled).toBe(true);
    expect(site.text).toContain('Another person must accept it.');
    await site.press(/^Withdraw$/);
    expect(site.calls.find(({ name }) => name === 'refuseProposal')?.params).toEqual({ id: 'p1' });
  });

  it('is folded away when it is decided', async () => {
    const site = await open('viewer', {
      state: 'accepted',
      decidedBy: 'another',
      decidedAt: '2026-03-01T11:00:00.000Z',
    });
    expect(site.text).not.toContain('Waits for a second person');
    expect(site.text).toContain('Decided by a second person: 1');
  });
});

describe('the page of a work order', () => {
  it('is approved by whoever may, and by nobody else', async () => {
    const watched = await Site.open('/orders/o1', { order: order() });
    expect(watched.button(/^Approve$/).disabled).toBe(true);
    const site = await Site.open(
      '/orders/o1',
      { order: order(), approveOrder: refused('Another person must.') },
      'approver',
    );
    await site.press(/^Approve$/);
    expect(site.asked('approveOrder')).toHaveLength(1);
    expect(site.one('[role=alert]').textContent).toContain('Another person must.');
  });

  it('asks before it touches a running machine, and says how many restarts', async () => {
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'approved' }),
      carryOutOrder: order({ state: 'running' }),
    });
    await site.press(/Carry out …/);
    expect(site.text).toContain('This changes running machines');
    expect(site.text).toContain('1 of them may restart a server');
    expect(site.asked('carryOutOrder')).toEqual([]);
    await site.press(/Carry out now/);
    expect(site.asked('carryOutOrder')).toEqual([{}]);
  });

  it('asks for the passphrase where an authority signs, and sends it once', async () => {
    const renew = {
      kind: 'renew-certificate',
      applicationId: 'lehr',
      authority: thumbprintOf('C'),
      before: null,
    } as const;
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'approved', lines: [line({ change: renew, signedHere: true })] }),
      carryOutOrder: refused('Not that passphrase.'),
    });
    await site.press(/Carry out …/);
    await site.press(/Carry out now/);
    expect([site.asked('carryOutOrder'), site.faults]).toEqual([[], ['The passphrase is needed.']]);
    await site.fill(/Passphrase/, 'open it');
    await site.press(/Carry out now/);
    expect(site.asked('carryOutOrder')).toEqual([{ passphrase: 'open it' }]);
  });

  it('asks for none where the key is kept elsewhere', async () => {
    const renew = {
      kind: 'renew-certificate',
      applicationId: 'lehr',
      authority: thumbprintOf('C'),
      before: null,
    } as const;
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'approved', lines: [line({ change: renew })] }),
      carryOutOrder: order({ state: 'running' }),
    });
    await site.press(/Carry out …/);
    await site.press(/Carry out now/);
    expect(site.asked('carryOutOrder')).toEqual([{}]);
  });

  it('undoes a line that has a way back, and offers none where there is none', async () => {
    const done = line({ state: 'proved' });
    const renewed = line({
      position: 2,
      state: 'proved',
      change: { kind: 'renew-certificate', applicationId: 'lehr', authority: thumbprintOf('C'), before: null },
    });
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'proved', lines: [done, renewed] }),
      undoLine: refused('It was changed meanwhile.'),
    });
    expect(site.all('button').filter(({ textContent }) => /Undo/.test(textContent ?? ''))).toHaveLength(1);
    await site.press(/Undo …/);
    expect(site.asked('undoLine')).toEqual([]);
    await site.press(/^Undo$/);
    expect(site.calls.find(({ name }) => name === 'undoLine')?.params).toEqual({ id: 'o1', position: '1' });
  });

  it('lets a person say that a line is done by hand, and export the bundle for it', async () => {
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'approved', lines: [line({ state: 'by hand', way: 'files', says: 'Take the bundle.' })] }),
      lineDoneByHand: order({ state: 'done' }),
    });
    expect(site.one('a', /Export the bundle/).getAttribute('href')).toBe('/trust/lists/furnace');
    await site.press(/Mark as done/);
    expect(site.calls.find(({ name }) => name === 'lineDoneByHand')?.params).toEqual({ id: 'o1', position: '1' });
  });

  it('leads to the authority where a certificate waits for a person', async () => {
    const change = {
      kind: 'renew-certificate',
      applicationId: 'crane',
      authority: 'C'.repeat(40),
      before: null,
    } as const;
    const site = await Site.open('/orders/o1', {
      order: order({ state: 'approved', lines: [line({ state: 'by hand', way: 'files', change })] }),
    });
    expect(site.one('a', /Sign its request/).getAttribute('href')).toBe('/trust/authority');
    expect(site.text).not.toContain('Export the bundle');
  });

  it('leads to the tunnel, the firewall or the accounts where a line is done', async () => {
    const atTunnel = {
      kind: 'lead-straight',
      tunnelId: 'warm',
      tunnel: 'Warm end tunnel',
      machineId: 'board',
      linkId: 'board--furnace',
      client: 'Board',
      host: 'furnace',
      port: 4840,
      entranceAddress: '10.4.0.5',
      entrancePort: 4840,
    } as const;
    const atServer = {
      kind: 'change-user',
      serverId: 'furnace',
      userName: 'display',
      before: null,
      after: null,
      secretId: null,
    } as const;
    const placeOf = async (change: OrderLine['change']): Promise<string | null> => {
      const lines = [line({ state: 'by hand', way: 'by hand', change })];
      const site = await Site.open('/orders/o1', { order: order({ state: 'approved', lines }) });
      return site.one('a.plain', /^See/).getAttribute('href');
    };
    expect(await placeOf(atTunnel)).toBe('/passage/tunnels/warm');
    expect(await placeOf(atServer)).toBe('/entry/identities/furnace');
  });

  it('saves one file for all permissions of a machine, and says that their way back is an order', async () => {
    const textOf = savedFiles();
    const permission = (machineId: string, name: string) => ({
      kind: 'set-permission' as const,
      machineId,
      what: 'The machine’s limit of launch permissions',
      path: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole',
      name,
      before: null,
      after: 'AQAEgAAAAAAAAAAAAAAAABQAAAACACAAAQAAAAAAGAADAAAAAQIAAAAAAAUgAAAAIAIAAA==',
    });
    const at = (position: number, state: 'by hand' | 'done', change: ReturnType<typeof permission>) =>
      line({ position, state, way: 'by hand', change });
    const site = await Site.open('/orders/o1', {
      order: order({
        state: 'approved',
        lines: [
          at(1, 'by hand', permission('tin-data', 'MachineLaunchRestriction')),
          at(2, 'done', permission('tin-data', 'MachineAccessRestriction')),
          at(3, 'done', permission('silo-data', 'DefaultAccessPermission')),
        ],
      }),
    });
    await site.press(/Save the file/);
    const text = await textOf(0, 'utf-16le');
    expect(text).toMatch(/"MachineLaunchRestriction"=hex:01,00,04,80[^]*"MachineAccessRestriction"=hex:01/);
    expect(text).not.toContain('DefaultAccessPermission');
    await site.press(/Undo …/);
    expect(site.text).toContain('It is proposed as a work order of its own.');
  });

  it('filters its lines by words and by how they stand, in the address', async () => {
    const lines = Array.from({ length: 7 }, (_, index) =>
      line({ position: index + 1, title: `Change ${index + 1}`, state: index < 2 ? 'proved' : 'waiting' }),
    );
    const site = await Site.open('/orders/o1', { order: order({ state: 'approved', lines }) });
    expect(site.rows()).toHaveLength(7);
    await site.fill(/State of the lines/, 'proved');
    expect(site.url).toBe('/orders/o1?standing=proved');
    expect(site.rows().map(([position]) => position)).toEqual(['1', '2']);
    await site.fill(/State of the lines/, 'failed');
    expect(site.text).toContain('No line is in this state.');
  });
});
