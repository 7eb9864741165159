import { connect, createServer } from 'node:net';
import type { AddressInfo } from 'node:net';
import { connect as connectTls, createServer as createTlsServer } from 'node:tls';
import fc from 'fast-check';
import { usualRules } from '@loyal-hinge/core';
import { attemptOfConversation, CaptureReading, casesOf, StoryReading, tls, uaTcp } from '@loyal-hinge/core/casebook';
import type { Attempt, CaseBook, Told } from '@loyal-hinge/core/casebook';
import { subject } from '../../../core/src/testing/builders';
import { Dialogue, pcap } from '../../../core/src/testing/captures';
import { certify, party } from '../../../core/src/testing/pki';

type Said = readonly [from: 0 | 1, bytes: Uint8Array];

function told(said: readonly Said[], piece = Number.MAX_SAFE_INTEGER): Told {
  const listener = tls.listen({ take: () => true, give: () => undefined });
  for (const [from, bytes] of said)
    for (let at = 0; at < bytes.length; at += piece)
      listener.hear(from, bytes, at, Math.min(at + piece, bytes.length), 1);
  listener.end();
  return listener.told();
}

/** What two ends of TLS really say, heard between them. */
async function recorded(version: 'TLSv1.2' | 'TLSv1.3', ciphers?: string): Promise<readonly Said[]> {
  const authority = await party('Marrowby root');
  const own = await party('press-1');
  const pem = (label: string, der: ArrayBuffer | Uint8Array): string =>
    `-----BEGIN ${label}-----\n${Buffer.from(der as Uint8Array).toString('base64')}\n-----END ${label}-----\n`;
  const server = createTlsServer(
    {
      cert: pem('CERTIFICATE', await certify(own, authority)),
      key: pem('PRIVATE KEY', await crypto.subtle.exportKey('pkcs8', own.keys.privateKey)),
      minVersion: version,
      maxVersion: version,
      ALPNProtocols: ['made-up'],
    },
    (socket) => socket.end('hello'),
  );
  server.on('tlsClientError', () => undefined);
  const said: Said[] = [];
  const between = createServer((client) => {
    const onward = connect((server.address() as AddressInfo).port, '127.0.0.1');
    client.on('data', (bytes) => said.push([0, Uint8Array.from(bytes)]));
    onward.on('data', (bytes) => said.push([1, Uint8Array.from(bytes)]));
    for (const socket of [client, onward]) socket.on('error', () => undefined);
    client.pipe(onward).pipe(client);
  });
  for (const listening of [server, between]) await new Promise<void>((done) => listening.listen(0, '127.0.0.1', done));
  await new Promise<void>((done) => {
    const socket = connectTls({
      port: (between.address() as AddressInfo).port,
      host: '127.0.0.1',
      servername: 'press-1.works.example',
      ALPNProtocols: ['made-up'],
      rejectUnauthorized: false,
      minVersion: 'TLSv1.2',
      ...(ciphers ? { ciphers, maxVersion: 'TLSv1.2' as const } : {}),
    });
    socket.on('error', () => undefined);
    socket.on('close', () => done());
    socket.resume();
  });
  server.close();
  between.close();
  return said;
}

/** What a wire that carried it would have recorded, between two machines of a plant. */
function captured(said: readonly Said[]): Uint8Array {
  const dialogue = new Dialogue(
    Date.parse('2026-11-20T02:10:00Z') * 1000,
    { address: '10.0.0.2', port: 50_100 },
    { address: '10.0.0.1', port: 4840 },
  ).opened();
  for (const [from, bytes] of said)
    for (let at = 0; at < bytes.length; at += 1400) dialogue.says(from, bytes.subarray(at, at + 1400));
  return pcap(dialogue.closed(1).frames);
}

function bookOf(capture: Uint8Array): CaseBook {
  const attempts: Attempt[] = [];
  const reading = new CaptureReading([uaTcp, tls], (conversation) =>
    attempts.push(attemptOfConversation(conversation, { fileId: 'wire', clockAheadMs: 0 })),
  );
  reading.take(capture);
  reading.end();
  const { link, client, server, machines } = subject();
  const zones = [{ id: 'hot-end', name: 'Hot end', order: 1 }];
  return casesOf(
    attempts,
    { name: 'Works', zones, machines, applications: [client, server], links: [link] },
    usualRules,
  );
}

describe('a case of what was tried in TLS', () => {
  it('is one of the link between the two, with the alert that ended it', async () => {
    const { cases } = bookOf(captured(await recorded('TLSv1.2', 'DHE-RSA-AES128-GCM-SHA256')));
    expect(cases).toMatchObject([
      {
        kind: 'link',
        linkId: 'display--furnace',
        from: 'display',
        to: 'furnace',
        title: 'The connection failed',
        says: 'The server ended it: handshake_failure.',
        count: 1,
      },
    ]);
  });

  it('is none where the handshake was finished', async () => {
    const book = bookOf(captured(await recorded('TLSv1.3')));
    expect(book.cases).toEqual([]);
    expect(book.worked.get('display--furnace')).toHaveLength(1);
  });

  it('can be read message by message', async () => {
    const reading = new StoryReading([uaTcp, tls], 24);
    reading.take(captured(await recorded('TLSv1.2')));
    const messages = reading.end()?.messages.filter(({ layer }) => layer === 'message') ?? [];
    expect(messages.slice(0, 3).map(({ from, what }) => [from, what])).toEqual([
      ['client', 'ClientHello'],
      ['server', 'ServerHello'],
      ['server', 'Certificate'],
    ]);
    expect(messages[0]?.says).toContain('The client asked for press-1.works.example.');
    expect(messages.at(-1)).toMatchObject({
      what: 'Encrypted data',
      withheld: expect.stringContaining('encrypted') as unknown,
    });
  });
});

describe('a conversation in TLS', () => {
  it('tells its version, the names that were asked for and who the server is, as far as it can be read', async () => {
    const older = await recorded('TLSv1.2');
    expect(tls.recognises(older[0]?.[1].subarray(0, 16) ?? new Uint8Array())).toBe(true);
    const expected = [
      'TLS 1.2 was agreed on.',
      'The client asked for press-1.works.example.',
      'The client offered made-up.',
    ];
    expect(told(older).notes.slice(0, 3)).toEqual(expected);
    expect(told(older).notes[3]).toContain('press-1');
    expect(told(older).error).toBeUndefined();
    expect(told(older, 3)).toEqual(told(older));
    expect(told(await recorded('TLSv1.3')).notes).toEqual(['TLS 1.3 was agreed on.', ...expected.slice(1)]);
  });

  it('tells the alert by which a handshake ended', async () => {
    const said = await recorded('TLSv1.2', 'DHE-RSA-AES128-GCM-SHA256');
    expect(told(said)).toMatchObject({
      error: { code: 40, name: 'handshake_failure', reason: 'The server ended it.' },
    });
    expect(told((await recorded('TLSv1.3', 'ECDHE-ECDSA-AES128-GCM-SHA256')).slice(0, 2)).error?.name).toBe(
      'protocol_version',
    );
  });

  it('says when the handshake was not finished, and when no TLS follows', async () => {
    const [first] = await recorded('TLSv1.2');
    expect(told(first ? [first] : []).notes).toContain('The handshake was not finished.');
    expect(told([[0, Uint8Array.of(22, 3, 1, 0, 1, 1, 99, 99, 99, 99, 99)]]).notes).toContain(
      'Something that is no TLS followed.',
    );
  });

  it('hears whatever comes without a complaint', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(0 as const, 1 as const), fc.uint8Array({ maxLength: 100 }))),
        (noise) => {
          told(noise.map(([from, bytes]) => [from, Uint8Array.of(22, 3, 3, 0, bytes.length, ...bytes)]));
          told(noise);
        },
      ),
    );
  });
});
