import { readFileSync } from 'node:fs';
import {
  AttributeIds,
  ClientMonitoredItem,
  MessageSecurityMode,
  OPCUAClient,
  SecurityPolicy,
  TimestampsToReturn,
  UserTokenType,
} from 'node-opcua-client';
import { InMemoryCertificateKeyPairProvider } from 'node-opcua-common';
import { makePrivateKeyFromPem } from 'node-opcua-crypto/web';
import { linkInPlant, noFloor, readPem } from '../../core/dist/index.js';
import { usualLimits } from '../../server/dist/probe/means.js';
import { walkLink } from '../../server/dist/probe/walk-link.js';
import { PinnedCertificate } from '../../server/dist/ua/pinned-certificate.js';
import { silenceLibrary } from '../../server/dist/ua/quiet.js';
import { hundred } from './hundred.mjs';
import { snapshot } from './snapshot.mjs';

const rounds = 9;
const der = (pem) => readPem(pem).blocks[0].der;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** A full check against the bare library making the same calls, in turn, in one run; then a hundred checks at once. */
export async function checking(say, handoverFile) {
  silenceLibrary();
  const taken = JSON.parse(readFileSync(handoverFile, 'utf8'));
  const subject = linkInPlant(taken.plant, 'line-display--furnace');
  say('\nA full check of a healthy link, against the bare library making the same calls:');
  await pairs(say, taken, subject, 'with watching, where both wait for the value to change');
  await pairs(say, taken, readOnly(subject), 'without watching');
  const passwords = { [subject.link.identity.userName]: passwordOf(taken, subject.link) };
  const { certificatePem: clientPem } = clientOf(taken, subject);
  await hundred(say, { subject, clientPem, passwords }, (one, serverPem) => check1(taken, one, [serverPem]));
  await snapshot(say, { subject, clientPem, passwords }, (one, serverPem) => meansOf(taken, one, [serverPem]));
}

const readOnly = (subject) => ({
  ...subject,
  link: { ...subject.link, needs: subject.link.needs.map(({ path }) => ({ path, uses: ['read'] })) },
});

async function pairs(say, taken, subject, words) {
  const checks = [];
  const bare = [];
  for (let round = 0; round < rounds + 1; round += 1) {
    const [check, library] = [await timed(() => check1(taken, subject)), await timed(() => bareCalls(taken, subject))];
    if (round === 0) continue;
    checks.push(check);
    bare.push(library);
  }
  const ratio = median(checks.map((ms, index) => ms / bare[index]));
  say(
    `  ${words}: check ${Math.round(median(checks))} ms, bare library ${Math.round(median(bare))} ms, ratio ${ratio.toFixed(2)} (medians of ${rounds} pairs)`,
  );
}

async function timed(run) {
  const begun = performance.now();
  await run();
  return performance.now() - begun;
}

const clientOf = (taken, { client }) => taken.clients.find(({ applicationId }) => applicationId === client.id);
const passwordOf = (taken, { id }) => taken.passwords.find(({ linkId }) => linkId === id)?.password ?? null;

function meansOf(taken, subject, trustedPem) {
  const { link, client } = subject;
  const known = clientOf(taken, subject);
  return {
    nameServer: taken.nameServer,
    declaredRanges: ['127.41.0.0/16'],
    dialFromClientAddress: true,
    credentials: {
      applicationUri: client.applicationUri,
      certificate: der(known.certificatePem),
      privateKeyPem: known.privateKeyPem,
    },
    clientTrust: { trusted: (trustedPem ?? known.trustedPem).map(der), issuers: [], crls: [] },
    floor: { floor: noFloor, exception: null },
    plantFloor: noFloor,
    crlsDemanded: false,
    waivers: { client: [], server: [] },
    password: passwordOf(taken, link),
    earlierCertificate: null,
    earlierTypes: new Map(),
    knownServerLists: null,
    changeMade: null,
    readServerLists: null,
    limits: usualLimits,
  };
}

/** @param trustedPem what the client trusts, where that is not what it trusts in the made-up plant */
async function check1(taken, subject, trustedPem) {
  const facts = [];
  const log = { begin: () => undefined, keep: () => undefined, note: (body) => (facts.push(body), body) };
  await walkLink(subject, meansOf(taken, subject, trustedPem), log, new AbortController().signal);
  if (!facts.some(({ kind }) => kind === 'item-read')) throw new Error('the check did not come to its end');
}

/** FindServers, GetEndpoints, a secured session, browsing, reading, a subscription until a change, and all closed again. */
async function bareCalls(taken, { link }) {
  const means = meansOf(taken, linkInPlant(taken.plant, link.id));
  const watches = link.needs.some(({ uses }) => uses.includes('watch'));
  const url = 'opc.tcp://127.41.20.11:4840';
  const { certificate, privateKeyPem, applicationUri } = means.credentials;
  const certificateKeyPairProvider = new InMemoryCertificateKeyPairProvider(
    [Buffer.from(certificate)],
    makePrivateKeyFromPem(privateKeyPem),
  );
  const usual = {
    applicationUri,
    endpointMustExist: false,
    connectionStrategy: { maxRetry: 0, initialDelay: 100, maxDelay: 100 },
    certificateKeyPairProvider,
  };
  const discovery = OPCUAClient.create({ ...usual, clientCertificateManager: new PinnedCertificate(null) });
  await discovery.connect(url);
  await discovery.findServers();
  const [endpoint] = await discovery.getEndpoints();
  await discovery.disconnect();
  const client = OPCUAClient.create({
    ...usual,
    securityMode: MessageSecurityMode.SignAndEncrypt,
    securityPolicy: SecurityPolicy.Aes256_Sha256_RsaPss,
    serverCertificate: endpoint.serverCertificate,
    clientCertificateManager: new PinnedCertificate(endpoint.serverCertificate),
  });
  await client.connect(url);
  const session = await client.createSession({
    type: UserTokenType.UserName,
    userName: link.identity.userName,
    password: means.password,
  });
  await session.read({ nodeId: 'i=2258', attributeId: AttributeIds.Value });
  await session.browse('i=85');
  await session.browse('ns=1;s=Furnace');
  const nodes = link.needs.map(({ path }) => `ns=1;s=${path}`);
  const attributes = [AttributeIds.Value, AttributeIds.AccessLevel, AttributeIds.UserAccessLevel];
  await session.read(nodes.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))));
  if (watches) await bareWatch(session, nodes);
  await session.close(true);
  await client.disconnect();
}

async function bareWatch(session, nodes) {
  const subscription = await session.createSubscription2({
    requestedPublishingInterval: 250,
    requestedLifetimeCount: 1000,
    requestedMaxKeepAliveCount: 5,
    publishingEnabled: true,
    maxNotificationsPerPublish: 1000,
    priority: 1,
  });
  await new Promise((resolve) => {
    const heard = nodes.map(() => 0);
    nodes.forEach((nodeId, index) => {
      const item = ClientMonitoredItem.create(
        subscription,
        { nodeId, attributeId: AttributeIds.Value },
        { samplingInterval: 250, queueSize: 10, discardOldest: true },
        TimestampsToReturn.Both,
      );
      item.on('changed', () => {
        heard[index] += 1;
        if (heard.every((count) => count > 0) && heard.some((count) => count > 1)) resolve();
      });
    });
  });
  await subscription.terminate();
}
