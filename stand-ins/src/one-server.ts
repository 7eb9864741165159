import './skip-key-test.js';
import { once } from 'node:events';
import { resolve } from 'node:path';
import { readPem } from '@loyal-hinge/core';
import { applicationUriOf, standInServers } from './marrowby/index.js';
import { keep, makeApplication } from './certificates.js';
import type { PushQuirks } from './push-management.js';
import { startUaServer } from './ua-server.js';

/** What is to be started: a server of the made-up plant at another address, with keys and lists of its own. */
interface Wish {
  readonly id: string;
  readonly address: string;
  /** Further hosts that its certificate names. */
  readonly hosts?: readonly string[];
  /** Certificates that it trusts, PEM. */
  readonly trusted: readonly string[];
  /** Whether it offers no security at all, but for the password itself. */
  readonly unsecured?: boolean;
  /** So many generated devices beside its items. */
  readonly devices?: number;
  /** It takes no more nodes in one request. */
  readonly operationLimit?: number;
  /** By user name. */
  readonly passwords: Readonly<Record<string, string>>;
}

/**
 * One server beside the made-up plant, which speaks push management and can be told to misbehave: for tests.
 * Its argument is a folder, its first message the wish; it tells its certificate when it is ready, and listens for quirks.
 */
const folder = resolve(process.argv[2] ?? '.data/one-server');
const [wish] = (await once(process, 'message')) as [Wish];
const standIn = standInServers.find(({ id }) => id === wish.id);
if (!standIn) throw new Error(`no server ${wish.id}`);

const own = await makeApplication(
  {
    commonName: standIn.name,
    applicationUri: applicationUriOf(standIn.id),
    hosts: [wish.address, ...(wish.hosts ?? [])],
    fromDay: -1,
    toDay: 300,
  },
  null,
);
await keep(resolve(folder, 'own'), own);
const trustedCertificates = wish.trusted.flatMap((pem) => {
  const read = readPem(pem);
  return read.ok ? read.blocks.map(({ der }) => der) : [];
});
const certificate = { ...standIn.certificate, hosts: [wish.address, ...(wish.hosts ?? [])] };
const offers = wish.unsecured
  ? { policies: ['None' as const, 'Basic256Sha256' as const], modes: ['None' as const, 'SignAndEncrypt' as const] }
  : {};
const size = {
  ...(wish.devices ? { devices: wish.devices } : {}),
  ...(wish.operationLimit ? { operationLimit: wish.operationLimit } : {}),
};
const users = Object.keys(wish.passwords);
const running = await startUaServer(
  {
    ...standIn,
    address: wish.address,
    advertisedHost: wish.address,
    certificate,
    users,
    push: true,
    ...offers,
    ...size,
  },
  { own: resolve(folder, 'own'), pki: resolve(folder, 'pki') },
  new Map(Object.entries(wish.passwords)),
  { lists: { trustedCertificates, trustedCrls: [], issuerCertificates: [], issuerCrls: [] }, users: [], since: [] },
  (userName, password) => void process.send?.({ heard: { userName, password } }),
);
process.on('message', (quirks: PushQuirks) => {
  void running.behave(quirks).then(() => process.send?.({ behaves: true }));
});
process.send?.({ certificatePem: own.certificatePem });

process.on('disconnect', () => void running.stop().finally(() => process.exit(0)));
