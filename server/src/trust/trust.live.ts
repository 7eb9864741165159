import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { emptyFolder, writePkiFolder } from '@loyal-hinge/core/bundles';
import { exportKey, makeKeys, makeSigningRequest } from '@loyal-hinge/core/issuing';
import { readCertificate, readPem, writePem } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { derOf, given, overPush, plantGiven, thumbprintIn } from '../testing/given.js';
import { until } from '../testing/until.js';
import { silenceLibrary } from '../ua/quiet.js';

silenceLibrary();
const taken = plantGiven();
const standIns = dirname(given('HINGE_TEST_HANDOVER'));
const { passphrase } = JSON.parse(readFileSync(join(standIns, 'secrets.json'), 'utf8')) as { passphrase: string };
const authority = thumbprintIn(taken.authority.certificatePem);
const ownOf = (id: string): string =>
  thumbprintIn(taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '');

let engineer: Caller;
let approver: Caller;
beforeAll(async () => {
  [engineer, approver] = [await signIn('engineer'), await signIn('administrator')];
});

const listing = (holderId: string, thumbprint: string, until: string | null = null): TrustChange => ({
  kind: 'list-certificate',
  holderId,
  list: 'trusted',
  thumbprint,
  until,
});

async function carriedOut(changes: readonly TrustChange[], linkIds: string[] = []): Promise<WorkOrder> {
  const lines = changes.map((change) => ({ change, why: 'A test wants it.', linkIds }));
  const { id } = await engineer.call('proposeOrder', {}, { title: 'A test', lines });
  await approver.call('approveOrder', { id });
  await engineer.call('carryOutOrder', { id }, {});
  return settled(id);
}

const settled = (id: string): Promise<WorkOrder> =>
  until(
    () => engineer.call('order', { id }),
    ({ state }) => state !== 'running',
  );

/** What a check of a link, asked for now, finds. */
async function found(linkId: string): Promise<string | null> {
  const { id } = await engineer.call('checkLink', { linkId }, {});
  const ended = await until(
    () => engineer.call('check', { checkId: id }),
    ({ check }) => check.endedAt !== null,
  );
  return ended.check.found;
}

describe('a step that somebody answers for', () => {
  it('lets the link through for as long as that holds, and no longer', async () => {
    await engineer.call('readTrust', { id: 'inspection-server' });
    const linkId = 'history--inspection';
    expect(await found(linkId)).toBe('Parted');
    const { columns } = await engineer.call('trust');
    const shown = columns.find(({ shownBy }) => shownBy.includes('inspection-server'));
    const page = await engineer.call('certificatePage', { thumbprint: shown?.thumbprint ?? '' });
    expect(page.meets.map(({ applicationId }) => applicationId)).toContain('history-client');
    const wish = {
      holderId: 'history-client',
      thumbprint: page.certificate.thumbprint,
      step: 'validity period' as const,
      until: new Date(Date.now() + 86_400_000).toISOString(),
      why: 'The new one comes with the next shutdown.',
    };
    expect(await engineer.refused('giveWaiver', {}, wish)).toMatchObject({ status: 403 });
    expect(await approver.refused('giveWaiver', {}, { ...wish, step: 'trust list' })).toMatchObject({ status: 400 });
    expect(await approver.refused('giveWaiver', {}, { ...wish, until: '2020-01-01T00:00:00.000Z' })).toMatchObject({
      status: 400,
      faults: [{ place: 'until' }],
    });
    const { id } = await approver.call('giveWaiver', {}, wish);
    expect(await approver.refused('giveWaiver', {}, wish)).toMatchObject({ status: 409 });
    expect(await found(linkId)).toBe('Strained');
    const ended = await approver.call('takeBackWaiver', { id: String(id) });
    expect(ended.ended).toMatchObject({ by: 'administrator' });
    expect(await found(linkId)).toBe('Parted');
    expect((await engineer.call('certificatePage', { thumbprint: wish.thumbprint })).waivers).toHaveLength(1);
  });

  it('ends by itself, and its links are checked again', async () => {
    const { columns } = await engineer.call('trust');
    const shown = columns.find(({ shownBy }) => shownBy.includes('inspection-server'));
    const thumbprint = shown?.thumbprint ?? '';
    await approver.call(
      'giveWaiver',
      {},
      {
        holderId: 'history-client',
        thumbprint,
        step: 'host name',
        until: new Date(Date.now() + 3000).toISOString(),
        why: 'For this moment only.',
      },
    );
    const ended = await until(
      () => engineer.call('certificatePage', { thumbprint }),
      ({ waivers }) => waivers.every(({ ended }) => ended !== null),
    );
    expect(ended.waivers[0]).toMatchObject({ step: 'host name', ended: { by: 'its date' } });
  });
});

describe('the lists of a running server', () => {
  it('are read over push management, and shown with what they come to', async () => {
    expect(await engineer.call('readTrust', { id: 'cooling-water-server' }, {})).toMatchObject({
      ok: true,
      says: expect.stringContaining('1 trusted certificate, 1 issuer, 1 CRL'),
    });
    const { cells, parties } = await engineer.call('trust');
    expect(parties.find(({ applicationId }) => applicationId === 'cooling-water-server')).toMatchObject({
      way: 'push',
      trusted: 1,
      issuers: 1,
      fault: null,
    });
    const cell = cells.find(
      ({ holderId, thumbprint }) => holderId === 'cooling-water-server' && thumbprint === ownOf('quality-client'),
    );
    expect(cell).toMatchObject({ status: 'BadCertificateUntrusted', linkIds: ['quality--cooling-water'] });
    expect(cell?.says).toContain('lies only in the issuers list');
  });

  it('that can’t be reached say why, and what was known stays', async () => {
    const told = await engineer.call('readTrust', { id: 'cutter-server' }, {});
    expect(told).toMatchObject({ ok: false, says: expect.stringContaining('cutter-cabinet-7') });
    const { party } = await engineer.call('trustHolder', { id: 'cutter-server' });
    expect(party).toMatchObject({ readAt: null, fault: expect.stringContaining('cutter-cabinet-7') });
  });

  it('of an application without a way to them are not read', async () => {
    expect(await engineer.call('readTrust', { id: 'crane-server' }, {})).toMatchObject({
      ok: false,
      says: expect.stringContaining('Nobody has said how push management'),
    });
  });

  it('are nobody’s to read or change who only looks', async () => {
    const viewer = await signIn('viewer');
    expect(await viewer.refused('readTrust', { id: 'furnace-server' }, {})).toMatchObject({ status: 403 });
    expect(await viewer.refused('proposeOrder', {}, {})).toMatchObject({ status: 403 });
  });
});

describe('a work order', () => {
  it('is carried out and proved, turns its link Sound, and can be undone', async () => {
    await engineer.call('readTrust', { id: 'cooling-water-server' }, {});
    const order = await carriedOut([listing('cooling-water-server', authority)], ['quality--cooling-water']);
    expect(order).toMatchObject({ state: 'proved' });
    expect(order.lines[0]).toMatchObject({
      state: 'proved',
      way: 'push',
      says: 'Written over push management, and read again.',
      before: 'not in the trusted list',
    });
    expect(await found('quality--cooling-water')).toBe('Sound');
    const { history } = await engineer.call('trustHolder', { id: 'cooling-water-server' });
    expect(history[0]?.added[0]).toMatch(/^trusted: Marrowby Glass Works Authority/);
    const undone = await engineer.call('undoLine', { id: order.id, position: '1' }, {});
    expect(undone.lines[0]).toMatchObject({ state: 'undone', provedAt: null });
    expect(await found('quality--cooling-water')).toBe('Parted');
  });

  it('restarts a server that needs it, waits until it is back, and proves by what it reads then', async () => {
    const [crl] = taken.clients.find(({ applicationId }) => applicationId === 'quality-client')?.crlsPem ?? [];
    await engineer.call('readTrust', { id: 'cullet-sorter-server' }, {});
    const known = await engineer.call('trustHolder', { id: 'quality-client' });
    const crlId = known.crls[0]?.id ?? '';
    const change = { kind: 'list-crl', holderId: 'cullet-sorter-server', list: 'trusted', crlId } as const;
    const order = await carriedOut([change], ['quality--cullet-sorter']);
    expect(order.lines[0]).toMatchObject({
      state: 'proved',
      restart: true,
      says: expect.stringContaining('restarted'),
    });
    expect(await found('quality--cullet-sorter')).toBe('Sound');
    const again = await carriedOut([change]);
    expect(again.lines[0]?.says).toBe('Its lists held this already; nothing was written.');
    expect(crl).toContain('X509 CRL');
    await overPush(taken, 'cullet-sorter-server', async (push) => {
      await push.writeLists({ trustedCrls: [] });
      await push.applyChanges();
    });
    await until(
      () => engineer.call('readTrust', { id: 'cullet-sorter-server' }, {}),
      ({ ok, says }) => ok && says.includes('0 CRLs'),
    );
  });

  it('stops before it takes anything away where something could not be given', async () => {
    await engineer.call('readTrust', { id: 'furnace-server' }, {});
    const { lists } = await engineer.call('trustHolder', { id: 'furnace-server' });
    const old = lists.find(({ name }) => name.startsWith('Commissioning laptop'))?.thumbprint ?? '';
    const taking = {
      kind: 'unlist-certificate',
      holderId: 'furnace-server',
      list: 'trusted',
      thumbprint: old,
    } as const;
    const order = await carriedOut([taking, listing('cutter-server', authority)]);
    expect(order.state).toBe('approved');
    expect(order.lines.map(({ state, title }) => [state, title.split(' ')[0]])).toEqual([
      ['failed', 'Let'],
      ['waiting', 'Take'],
    ]);
    expect(order.lines[0]?.says).toContain('cutter-cabinet-7');
  });

  it('leaves to a person what no wire reaches, and proves nothing by the person’s word alone', async () => {
    const order = await carriedOut([listing('cullet-crusher-server', authority)]);
    expect(order.lines[0]).toMatchObject({ state: 'by hand', says: expect.stringContaining('bundle') });
    const told = await engineer.call('lineDoneByHand', { id: order.id, position: '1' }, {});
    expect(told.lines[0]).toMatchObject({ state: 'done', says: 'engineer says that it is done.', provedAt: null });
    const copied = (trusted: readonly Uint8Array[]) => ({
      file: {
        name: 'crusher.zip',
        base64: Buffer.from(writePkiFolder({ ...emptyFolder, trusted }, 'crusher', '')).toString('base64'),
      },
      copiedAt: new Date().toISOString(),
    });
    await engineer.call('importBundle', { id: 'cullet-crusher-server' }, copied([]));
    expect((await engineer.call('order', { id: order.id })).state).toBe('done');
    const works = derOf(taken.authority.certificatePem);
    expect(await engineer.call('importBundle', { id: 'cullet-crusher-server' }, copied([works]))).toMatchObject({
      lists: expect.arrayContaining([{ list: 'trusted certificates', count: 1 }]),
    });
    expect(await engineer.call('order', { id: order.id })).toMatchObject({
      state: 'proved',
      lines: [{ state: 'proved', provedAt: expect.any(String) }],
    });
    const whole = readFileSync(join(standIns, 'copied-from-machines', 'cullet-crusher-server.zip')).toString('base64');
    const file = { name: 'whole.zip', base64: whole };
    const copiedAt = new Date().toISOString();
    await engineer.call('importBundle', { id: 'cullet-crusher-server' }, { file, copiedAt });
  });

  it('is approved by an approver only, and by another than its proposer where the plant says so', async () => {
    const lines = [{ change: listing('furnace-server', authority), why: 'A test.', linkIds: [] }];
    const { id } = await engineer.call('proposeOrder', {}, { title: 'A test', lines });
    expect(await engineer.refused('approveOrder', { id }, {})).toMatchObject({ status: 403 });
    expect(await engineer.refused('carryOutOrder', { id }, {})).toMatchObject({
      status: 409,
      detail: 'Only an approved order is carried out.',
    });
    const settings = await approver.call('settings');
    await approver.call('putSettings', {}, { ...settings, approvedByAnother: true });
    try {
      const own = await approver.call('proposeOrder', {}, { title: 'My own', lines });
      expect(await approver.refused('approveOrder', { id: own.id }, {})).toMatchObject({
        detail: expect.stringContaining('another person'),
      });
      expect(await approver.call('approveOrder', { id })).toMatchObject({
        state: 'approved',
        decidedBy: 'administrator',
      });
    } finally {
      await approver.call('putSettings', {}, { ...settings, approvedByAnother: false });
    }
    expect(await engineer.call('withdrawOrder', { id }, {})).toMatchObject({ state: 'withdrawn' });
  });

  it('with a wrong line is refused whole, with the place named', async () => {
    const lines = [{ change: { ...listing('furnace-server', authority), thumbprint: 'zz' }, why: 'x', linkIds: [] }];
    expect(await engineer.refused('proposeOrder', {}, { title: 'A test', lines })).toMatchObject({
      status: 400,
      faults: [{ place: 'lines.0.change.thumbprint' }],
    });
  });

  it('gives trust for a time, and the trust ends by itself', async () => {
    const soon = new Date(Date.now() + 4000).toISOString();
    await engineer.call('readTrust', { id: 'gas-meter-server' }, {});
    const order = await carriedOut([listing('gas-meter-server', ownOf('quality-client'), soon)]);
    expect(order.lines[0]).toMatchObject({ state: 'proved' });
    const listed = async () =>
      (await engineer.call('trustHolder', { id: 'gas-meter-server' })).lists.find(
        ({ thumbprint }) => thumbprint === ownOf('quality-client'),
      );
    expect(await listed()).toMatchObject({ until: soon });
    await until(listed, (entry) => entry === undefined);
    const { history } = await engineer.call('trustHolder', { id: 'gas-meter-server' });
    expect(history[0]).toMatchObject({ actor: 'temporary trust', removed: [expect.stringContaining('Quality board')] });
  });
});

describe('plans', () => {
  it('cost both strategies side by side, and the what-if names the links that turn', async () => {
    await engineer.call('readTrust', { id: 'cooling-water-server' }, {});
    await engineer.call('readTrust', { id: 'furnace-server' }, {});
    const { direct, authority: byAuthority, unread } = await engineer.call('trustPlans');
    const titles = direct.changes.map(({ title }) => title);
    expect(titles.some((title) => /^Let Cooling water server trust Quality board/.test(title))).toBe(true);
    expect(titles.some((title) => /^Take Commissioning laptop \(test\).*Furnace server$/.test(title))).toBe(true);
    expect(direct.turns).toContainEqual(
      expect.objectContaining({ linkId: 'quality--cooling-water', before: 'refused', after: 'trusted' }),
    );
    expect(byAuthority?.atRenewal.most).toBeLessThan(direct.atRenewal.most);
    expect(unread).toContain('Crane server');
    await found('energy--furnace');
    const { turns } = await engineer.call(
      'trustWhatIf',
      {},
      {
        changes: [
          {
            kind: 'unlist-certificate',
            holderId: 'furnace-server',
            list: 'trusted',
            thumbprint: ownOf('energy-client'),
          },
        ],
      },
    );
    expect(turns).toMatchObject([{ linkId: 'energy--furnace', before: 'trusted', after: 'refused' }]);
  });

  it('never cut the product off from the servers that it manages', async () => {
    const { direct } = await engineer.call('trustPlans');
    const cut = direct.changes.filter(
      ({ change }) => change.kind === 'unlist-certificate' && change.thumbprint === ownOf('engineering-client'),
    );
    expect(cut).toEqual([]);
  });
});

describe('what ends when', () => {
  it('begins with what is over and what ends next, with the links that fall', async () => {
    await found('energy--gas-meter');
    const { endings } = await engineer.call('horizon');
    const gas = endings.find(({ name }) => name === 'Gas meter server');
    expect(gas).toMatchObject({ kind: 'application', applications: ['Gas meter server'] });
    expect(gas?.links).toContain('Energy board to Gas meter');
    expect(endings.map(({ ends }) => ends)).toEqual([...endings.map(({ ends }) => ends)].sort((a, b) => a - b));
  });
});

describe('the plant’s authority', () => {
  const request = async (applicationUri: string): Promise<string> => {
    const keys = await makeKeys('P-256');
    const subject = { commonName: 'Crane', organization: 'Marrowby Glass' };
    const hosts = ['crane.marrowby.example'];
    expect((await exportKey('spki', keys.publicKey)).length).toBeGreaterThan(80);
    return writePem(
      'CERTIFICATE REQUEST',
      await makeSigningRequest({ subject, applicationUri, hosts, kind: 'P-256', keys }),
    );
  };
  const wish = async (applicationUri = 'urn:marrowby.example:crane-server') => ({
    applicationId: 'crane-server',
    requestPem: await request(applicationUri),
    validDays: 400,
  });

  it('signs a request only with its passphrase, and never tells its key', async () => {
    const refused = await engineer.refused(
      'issueCertificate',
      { thumbprint: authority },
      { ...(await wish()), passphrase: 'not the passphrase' },
    );
    expect(refused).toMatchObject({ status: 400, faults: [{ place: 'passphrase' }] });
    const issued = await engineer.call(
      'issueCertificate',
      { thumbprint: authority },
      { ...(await wish()), passphrase },
    );
    const pem = readPem(issued.certificatePem);
    const read = pem.ok && pem.blocks[0] ? readCertificate(pem.blocks[0].der) : null;
    expect(read?.ok && read.certificate.summary).toMatchObject({
      applicationUris: ['urn:marrowby.example:crane-server'],
      dnsNames: ['crane.marrowby.example'],
      issuer: 'CN=Marrowby Glass Works Authority, O=Marrowby Glass',
    });
    expect(JSON.stringify(await engineer.call('authorities'))).not.toMatch(/PRIVATE KEY|passphrase/);
  });

  it('refuses a request for another application URI, and garbage', async () => {
    const body = { ...(await wish('urn:marrowby.example:crusher')), passphrase };
    expect(await engineer.refused('issueCertificate', { thumbprint: authority }, body)).toMatchObject({
      detail: expect.stringContaining('the plant knows this application as urn:marrowby.example:crane-server'),
    });
    const garbage = { ...body, requestPem: writePem('CERTIFICATE REQUEST', Uint8Array.from([0x30, 3, 2, 1, 1])) };
    expect(await engineer.refused('issueCertificate', { thumbprint: authority }, garbage)).toMatchObject({
      detail: expect.stringContaining('PKCS#10'),
    });
  });

  it('is made, revokes, and tells of it in a CRL with the next number', async () => {
    const made = await approver.call(
      'createAuthority',
      {},
      {
        commonName: 'Trial Authority',
        organization: 'Marrowby Glass',
        keyKind: 'P-256',
        validDays: 900,
        pathLength: 0,
        passphrase: 'a long passphrase',
      },
    );
    expect(made).toMatchObject({ isCurrent: true, keyKept: true, crl: { number: 1, warning: null } });
    const mine = { thumbprint: made.thumbprint };
    const issued = await engineer.call('issueCertificate', mine, {
      ...(await wish()),
      passphrase: 'a long passphrase',
    });
    const [row] =
      (await engineer.call('authorities')).authorities.find(({ thumbprint }) => thumbprint === made.thumbprint)
        ?.issued ?? [];
    expect(row).toMatchObject({ thumbprint: issued.thumbprint, application: 'Crane server', revokedAt: null });
    const body = {
      serialNumber: row?.serialNumber ?? '',
      reason: 'superseded' as const,
      passphrase: 'a long passphrase',
    };
    expect(await engineer.refused('revokeCertificate', mine, body)).toMatchObject({ status: 403 });
    const after = await approver.call('revokeCertificate', mine, body);
    expect(after).toMatchObject({
      crl: { number: 2 },
      issued: [{ reason: 'superseded', revokedAt: expect.any(String) }],
    });
    // The works’ own authority is the one with which plans reckon.
    await approver.call(
      'importAuthority',
      {},
      {
        certificatePem: taken.authority.certificatePem,
        encryptedKeyPem: taken.authority.encryptedKeyPem,
        passphrase,
      },
    );
  });
});

describe('an application that fetches by itself', () => {
  it('hands a request in, and gets certificate and trust list, once', async () => {
    const { token, ticket } = await engineer.call(
      'makePullTicket',
      {},
      { applicationId: 'cooling-water-server', validHours: 2 },
    );
    const nobody = await signIn('viewer');
    const keys = await makeKeys('P-256');
    const der = await makeSigningRequest({
      subject: { commonName: 'Cooling water', organization: 'Marrowby Glass' },
      applicationUri: 'urn:marrowby.example:cooling-water-server',
      hosts: ['cooling-water.marrowby.example'],
      kind: 'P-256',
      keys,
    });
    const requestPem = writePem('CERTIFICATE REQUEST', der);
    const wrong = await nobody.refused('pullRequest', {}, { token: 'x'.repeat(43), requestPem });
    expect(wrong).toMatchObject({ status: 404 });
    expect(await nobody.call('pullRequest', {}, { token, requestPem })).toMatchObject({ state: 'waiting' });
    expect(await nobody.refused('pullRequest', {}, { token, requestPem })).toMatchObject({ status: 409 });
    expect(await nobody.call('pullResult', {}, { token })).toMatchObject({ state: 'waiting' });
    expect(
      await nobody.refused('signPullTicket', { id: ticket.id }, { authority, validDays: 9, passphrase }),
    ).toMatchObject({ status: 403 });
    const body = { authority, validDays: 400, passphrase };
    expect(await engineer.call('signPullTicket', { id: ticket.id }, body)).toMatchObject({ state: 'signed' });
    const got = await nobody.call('pullResult', {}, { token });
    if (got.state !== 'ready') throw new Error('it is not ready');
    expect(thumbprintIn(got.chainPem)).toBe(authority);
    expect(got.trustList.trusted.map(thumbprintIn)).toHaveLength(1);
    expect(got.trustList.issuers.map(thumbprintIn)).toEqual([authority]);
    expect(got.trustList.issuerCrls).toHaveLength(1);
    expect(await nobody.refused('pullResult', {}, { token })).toMatchObject({ status: 404 });
    expect((await engineer.call('pullTickets')).tickets[0]).toMatchObject({ state: 'fetched' });
    expect(JSON.stringify(await engineer.call('pullTickets'))).not.toContain(token);
  });

  it('is none whose key the product holds', async () => {
    const wish = { applicationId: 'quality-client', validHours: 2 };
    expect(await engineer.refused('makePullTicket', {}, wish)).toMatchObject({
      status: 409,
      detail: expect.stringContaining('The product holds the key of Quality board'),
    });
  });

  it('is refused a request for somebody else', async () => {
    const { token } = await engineer.call('makePullTicket', {}, { applicationId: 'crane-server', validHours: 2 });
    const keys = await makeKeys('P-256');
    const subject = { commonName: 'Lehr', organization: '' };
    const wish = {
      subject,
      applicationUri: 'urn:marrowby.example:lehr-server',
      hosts: [],
      kind: 'P-256' as const,
      keys,
    };
    const requestPem = writePem('CERTIFICATE REQUEST', await makeSigningRequest(wish));
    expect(await engineer.refused('pullRequest', {}, { token, requestPem })).toMatchObject({
      detail: 'The request is not for urn:marrowby.example:crane-server.',
    });
  });
});
