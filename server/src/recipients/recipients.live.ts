import { createHmac } from 'node:crypto';
import { createServer } from 'node:http';
import type { IncomingHttpHeaders, Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import type { AnswerOf, RecipientWish } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('recipients');
const linkId = 'line-display--lehr';
const key = 'a key that is long enough';
let administrator: Caller;
let engineer: Caller;
let link: AnswerOf<'plant'>['links'][number];
let mails: string[] = [];
let smtp: SMTPServer;
let hook: Server;
let posted: { readonly headers: IncomingHttpHeaders; readonly body: string }[] = [];
let hookAnswers = 204;
/** An address that may be dialled. */
let address: string;
let [smtpPort, hookPort] = [0, 0];

const listening = (server: SMTPServer | Server, port = 0): Promise<number> =>
  new Promise((resolve) => {
    const listener = server.listen(port, address, () => resolve((listener.address() as AddressInfo).port));
  });

function mailServer(): SMTPServer {
  return new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    allowInsecureAuth: true,
    onAuth: ({ username, password }, _session, give) =>
      username === 'hinge' && password === 'made up here' ? give(null, { user: username }) : give(new Error('no')),
    onData: (stream, _session, done) => {
      const parts: Buffer[] = [];
      stream.on('data', (part: Buffer) => parts.push(part));
      stream.on('end', () => {
        mails.push(Buffer.concat(parts).toString());
        done();
      });
    },
  });
}

beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  [administrator, engineer] = [
    await signIn('administrator', url, ownPassword),
    await signIn('engineer', url, ownPassword),
  ];
  link = (await engineer.call('plant')).links.find(({ id }) => id === linkId) as typeof link;
  const { declaredRanges } = await engineer.call('settings');
  address = (declaredRanges[0] ?? '').replace(/\.\d+\.\d+\/16$/, '.250.25');
  smtp = mailServer();
  smtpPort = await listening(smtp);
  hook = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      posted.push({ headers: request.headers, body: Buffer.concat(parts).toString() });
      response.writeHead(hookAnswers, { location: 'http://127.0.0.1:1/' }).end();
    });
  });
  hookPort = await listening(hook);
});
afterAll(async () => {
  await own.remove();
  await new Promise<void>((done) => smtp.close(() => done()));
  await new Promise<void>((done) => hook.close(() => done()));
});

const byMail = (more: Partial<RecipientWish> = {}): RecipientWish => ({
  name: 'Watch',
  way: {
    kind: 'mail',
    host: address,
    port: smtpPort,
    security: 'none',
    from: 'hinge@marrowby.example',
    to: ['watch@marrowby.example'],
    userName: 'hinge',
  },
  groupMinutes: 0,
  quiet: null,
  zone: 'UTC',
  isPaused: false,
  secret: 'made up here',
  ...more,
});
const byHook = (more: Partial<RecipientWish> = {}): RecipientWish =>
  byMail({
    name: 'Program',
    way: { kind: 'webhook', url: `http://${address}:${hookPort}/hinge` },
    secret: key,
    ...more,
  });
const row = async (id: string) => (await engineer.call('recipients')).recipients.find((one) => one.id === id);

async function check(state: string): Promise<void> {
  const { id } = await engineer.call('checkLink', { linkId }, {});
  const { check: over } = await until(
    () => engineer.call('check', { checkId: id }),
    ({ check: { endedAt } }) => endedAt !== null,
  );
  expect(over.found).toBe(state);
}
const fall = async (): Promise<void> => {
  await engineer.call('putLink', { id: linkId }, { ...link, endpointUrl: 'opc.tcp://lehr.marrowby.example:4999' });
  await check('Parted');
};
const mend = async (): Promise<void> => {
  await engineer.call('putLink', { id: linkId }, link);
  await check('Sound');
};

describe('who is told', () => {
  it('is kept by administrators, with a secret that never comes back, in declared ranges alone', async () => {
    expect(await engineer.refused('addRecipient', {}, byMail())).toMatchObject({ status: 403 });
    expect(await administrator.refused('addRecipient', {}, byMail({ secret: null }))).toMatchObject({
      faults: [{ place: 'secret', says: 'Type the password.' }],
    });
    expect(await administrator.refused('addRecipient', {}, byHook({ secret: 'short' }))).toMatchObject({ status: 400 });
    const kept = await administrator.call('addRecipient', {}, byMail());
    expect(kept).toMatchObject({ id: 'watch', hasSecret: true, fault: null });
    expect(JSON.stringify(await engineer.call('recipients'))).not.toContain('made up here');
    expect(JSON.stringify(await own.read('select * from audit union all select * from audit'))).not.toContain(
      'made up',
    );

    const settings = await administrator.call('settings');
    const { waitsAs: _, ...plain } = { waitsAs: null, ...settings };
    await administrator.call('putSettings', {}, { ...plain, declaredRanges: ['10.0.0.0/8'] });
    expect((await administrator.refused('tryRecipient', { recipientId: 'watch' })).detail).toContain(
      'lies outside the ranges that may be dialled',
    );
    await administrator.call('putSettings', {}, plain);
  });

  it('gets a test, and why it can’t be sent is said', async () => {
    await administrator.call('tryRecipient', { recipientId: 'watch' });
    expect(mails.pop()).toMatch(/Subject: .*: a test[\s\S]*This is a test, asked for by administrator/);
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail({ secret: 'another' }));
    expect((await administrator.refused('tryRecipient', { recipientId: 'watch' })).detail).toMatch(/535|no/);
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail());
    await administrator.call('addRecipient', {}, byHook());
    hookAnswers = 302;
    expect((await administrator.refused('tryRecipient', { recipientId: 'program' })).detail).toContain('status 302');
    hookAnswers = 204;
    posted = [];
  });

  it('is told by mail and by a signed request when a link falls, and when it works again', async () => {
    await check('Sound');
    await fall();
    await until(
      () => Promise.resolve([mails.length, posted.length]),
      ([mail = 0, post = 0]) => mail > 0 && post > 0,
    );
    expect(mails.pop()).toMatch(/Subject: .*1 link fell/);
    const [{ headers, body }] = posted as [(typeof posted)[number]];
    const told = JSON.parse(body) as { fell: number; changes: { linkId: string; to: string }[] };
    expect(told).toMatchObject({
      kind: 'changes',
      fell: 1,
      works: 0,
      changes: [{ linkId, from: 'Sound', to: 'Parted' }],
    });
    const signature = createHmac('sha256', key)
      .update(`${headers['hinge-time'] as string}.${body}`)
      .digest('hex');
    expect(headers['hinge-signature']).toBe(signature);
    await mend();
    await until(
      () => Promise.resolve(mails),
      (all) => all.length > 0,
    );
    expect(mails.pop()).toMatch(/1 works again/);
    await until(
      () => row('watch'),
      (one) => one?.lastToldAt !== null,
    );
  });

  it('misses nothing while the mail server is down: it is tried again until it is taken', async () => {
    mails = [];
    await new Promise<void>((done) => smtp.close(() => done()));
    await fall();
    const failed = await until(
      () => row('watch'),
      (one) => one?.fault !== null,
    );
    expect(failed?.fault).toMatch(/ECONNREFUSED/);
    expect(Date.parse(failed?.nextTryAt ?? '')).toBeGreaterThan(Date.now());
    await mend();
    smtp = mailServer();
    await listening(smtp, smtpPort);
    await own.read('update recipients set next_try_at = now()');
    await until(
      () => Promise.resolve(mails),
      (all) => all.length > 0,
    );
    // Both changes in one message: that of the fall waited.
    expect(mails).toHaveLength(1);
    expect(mails[0]).toMatch(/1 link fell, 1 works again/);
    // It is noted a moment after the mail was taken.
    const told = await until(
      () => row('watch'),
      (one) => one?.fault === null,
    );
    expect(told?.nextTryAt).toBeNull();
  });

  it('is left in peace in quiet hours, and told after them', async () => {
    mails = [];
    const always = { days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '00:00' };
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail({ quiet: always, secret: null }));
    posted = [];
    await fall();
    await until(
      () => Promise.resolve(posted),
      (all) => all.length > 0,
    );
    expect(mails).toEqual([]);
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail({ secret: null }));
    await until(
      () => Promise.resolve(mails),
      (all) => all.length > 0,
    );
    expect(mails[0]).toMatch(/1 link fell/);
    // Who is paused is not told afterwards of all that happened meanwhile.
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail({ isPaused: true, secret: null }));
    mails = [];
    await mend();
    await administrator.call('putRecipient', { recipientId: 'watch' }, byMail({ secret: null }));
    await fall();
    await until(
      () => Promise.resolve(mails),
      (all) => all.length > 0,
    );
    expect(mails[0]).toMatch(/Subject: [^\n]*: 1 link fell\r?\n/);
    // A password that was given for one protection goes by no other.
    const way = { ...byMail().way, security: 'tls' as const } as RecipientWish['way'];
    expect(
      await administrator.refused('putRecipient', { recipientId: 'watch' }, byMail({ way, secret: null })),
    ).toMatchObject({ faults: [{ place: 'secret', says: 'Type the password.' }] });
    await administrator.call('removeRecipient', { recipientId: 'watch' });
    expect(await own.read(`select name from secrets where name = 'recipient watch'`)).toEqual([]);
    await mend();
  });
});
