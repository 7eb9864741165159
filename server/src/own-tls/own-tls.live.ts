import { readFileSync, statSync } from 'node:fs';
import { Agent, request } from 'node:https';
import type { IncomingHttpHeaders } from 'node:http';
import { join } from 'node:path';
import { connect } from 'node:tls';
import { writePem } from '@loyal-hinge/core';
import { exportKey, freshSerialNumber, issueApplicationCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('own_tls', { HINGE_TLS: 'yes' });
let base: string;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
});
afterAll(() => own.remove());

interface Answer {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly body: Record<string, unknown>;
}

/** A call over TLS; without `ca` whatever certificate is shown is taken, as whoever compares its fingerprint by hand would. */
function call(
  method: string,
  path: string,
  { headers = {}, body, ca }: { headers?: Record<string, string>; body?: unknown; ca?: string } = {},
): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const agent = new Agent(ca === undefined ? { rejectUnauthorized: false } : { ca });
    const sent = request(`${base}${path}`, {
      method,
      agent,
      headers: { 'content-type': 'application/json', ...headers },
    });
    sent.on('error', reject).on('response', (answer) => {
      let text = '';
      answer
        .on('data', (part) => (text += part))
        .on('end', () =>
          resolve({
            status: answer.statusCode ?? 0,
            headers: answer.headers,
            body: text.startsWith('{') ? (JSON.parse(text) as Record<string, unknown>) : {},
          }),
        );
    });
    sent.end(body === undefined ? undefined : JSON.stringify(body));
  });
}

async function signedIn(name: string): Promise<Record<string, string>> {
  const answer = await call('POST', '/api/session', { body: { name, password: ownPassword } });
  const cookie = answer.headers['set-cookie']?.[0]?.split(';')[0] ?? '';
  return { cookie, 'x-hinge-token': String(answer.body['token']) };
}

/** SHA-256 of the certificate that is shown now. */
const shown = (): Promise<string> =>
  new Promise((resolve, reject) => {
    const { hostname, port } = new URL(base);
    const socket = connect({ host: hostname, port: Number(port), rejectUnauthorized: false }, () => {
      resolve(socket.getPeerCertificate().fingerprint256.replaceAll(':', ''));
      socket.destroy();
    });
    socket.on('error', reject);
  });

async function madeElsewhere(): Promise<{ certificatePem: string; privateKeyPem: string }> {
  const keys = await makeKeys('RSA 2048');
  const certificate = await issueApplicationCertificate(
    {
      subject: { commonName: 'Given', organization: '' },
      applicationUri: 'urn:works.example:given',
      hosts: ['127.0.0.1'],
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore: Date.now() - 60_000,
      notAfter: Date.now() + 86_400_000,
    },
    { kind: 'RSA 2048', privateKey: keys.privateKey, certificate: null },
  );
  const privateKeyPem = writePem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey));
  return { certificatePem: writePem('CERTIFICATE', certificate), privateKeyPem };
}

describe('a server that is reached over TLS', () => {
  it('makes a certificate and a key of its own, which nobody else can read', async () => {
    expect(base).toMatch(/^https:/);
    expect(statSync(join(own.folder, 'tls/private-key.pem')).mode & 0o777).toBe(0o600);
    expect((await call('GET', '/api/health')).status).toBe(200);
  });

  it('gives cookies that go nowhere else, and asks to be reached so for ever', async () => {
    const answer = await call('POST', '/api/session', { body: { name: 'viewer', password: ownPassword } });
    expect(answer.headers['set-cookie']?.[0]).toMatch(/^__Host-hinge=.*; Path=\/; HttpOnly; Secure; SameSite=Strict$/);
    expect(answer.headers['strict-transport-security']).toBe('max-age=31536000');
  });

  it('answers nobody in the clear', async () => {
    await expect(fetch(base.replace('https:', 'http:'))).rejects.toThrow();
  });

  it('refuses what comes from a page of another origin', async () => {
    const headers = await signedIn('engineer');
    const from = (more: Record<string, string>) =>
      call('POST', '/api/checks', { headers: { ...headers, ...more }, body: { linkIds: ['nowhere'] } });
    const { host } = new URL(base);
    expect((await from({ origin: base })).status).toBe(404);
    expect((await from({})).status).toBe(404);
    for (const origin of ['https://elsewhere.example', `http://${host}`, 'null'])
      expect(await from({ origin })).toMatchObject({ status: 403, body: { code: 'foreign-origin' } });
    expect(await from({ 'sec-fetch-site': 'cross-site' })).toMatchObject({ status: 403 });
  });

  it('takes a certificate of the plant’s authority at once, which browsers of the plant trust', async () => {
    const headers = await signedIn('administrator');
    const passphrase = 'a passphrase of this test';
    const made = await call('POST', '/api/authorities', {
      headers,
      body: {
        commonName: 'TLS authority',
        organization: '',
        keyKind: 'P-256',
        validDays: 900,
        pathLength: null,
        passphrase,
      },
    });
    expect(made.status).toBe(200);
    const { authorities } = (await call('GET', '/api/authorities', { headers })).body as {
      authorities: { thumbprint: string; commonName: string; certificatePem: string }[];
    };
    const authority = authorities.find(({ thumbprint }) => thumbprint === made.body['thumbprint']) ?? authorities[0];
    const wish = { by: 'authority', authority: authority?.thumbprint, hosts: ['127.0.0.1'], validDays: 90 };
    const before = await shown();
    expect(
      await call('PUT', '/api/own-certificate', { headers, body: { ...wish, passphrase: 'another' } }),
    ).toMatchObject({ status: 400 });
    expect(await shown()).toBe(before);
    const answer = await call('PUT', '/api/own-certificate', { headers, body: { ...wish, passphrase } });
    expect(answer).toMatchObject({ status: 200, body: { certificate: { isSelfSigned: false, hosts: ['127.0.0.1'] } } });
    expect(await shown()).toBe((answer.body['certificate'] as { sha256: string }).sha256);
    const chain = readFileSync(join(own.folder, 'tls/certificate.pem'), 'utf8');
    const ca = `-----BEGIN CERTIFICATE-----${chain.split('-----BEGIN CERTIFICATE-----')[2] ?? ''}`;
    expect((await call('GET', '/api/health', { ca })).status).toBe(200);
  });

  it('takes one that was signed elsewhere from its request, and none of another key', async () => {
    const headers = await signedIn('administrator');
    const { requestPem } = (
      await call('POST', '/api/own-certificate/request', { headers, body: { hosts: ['hinge.works.example'] } })
    ).body as { requestPem: string };
    expect(requestPem).toContain('BEGIN CERTIFICATE REQUEST');
    const { certificatePem, privateKeyPem } = await madeElsewhere();
    const alone = await call('PUT', '/api/own-certificate', { headers, body: { by: 'file', certificatePem } });
    expect(alone).toMatchObject({
      status: 400,
      body: { detail: 'The certificate was not made for this private key.' },
    });
    const both = { by: 'file', certificatePem, privateKeyPem };
    const given = await call('PUT', '/api/own-certificate', { headers, body: both });
    expect(given).toMatchObject({ status: 200, body: { certificate: { subject: 'CN=Given' } } });
    expect(await shown()).toBe((given.body['certificate'] as { sha256: string }).sha256);
    expect(JSON.stringify(given.body)).not.toContain('PRIVATE KEY');
  });
});
