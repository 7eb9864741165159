import {
  AttributeIds,
  ClientMonitoredItemGroup,
  MessageSecurityMode,
  OPCUAClient,
  TimestampsToReturn,
  UserTokenType,
} from 'node-opcua-client';
import { InMemoryCertificateKeyPairProvider } from 'node-opcua-common';
import { makePrivateKeyFromPem } from 'node-opcua-crypto/web';
import { linkInPlant, readPem } from '../../core/dist/index.js';
import { PinnedCertificate } from '../../server/dist/ua/pinned-certificate.js';
import { silenceLibrary } from '../../server/dist/ua/quiet.js';
import { cpuSeconds } from './process-time.mjs';

const inOneRequest = 500;
const settleMs = 3000;

/** What the bare library needs to hear all counters of some servers: changes a second, gaps, and seconds of computing a second. */
export async function bareWatch(taken, linkIds, everyMs, seconds) {
  silenceLibrary();
  const heard = { changes: 0, gaps: 0 };
  const clients = [];
  for (const linkId of linkIds) clients.push(await watchAll(taken, linkId, everyMs, heard));
  await new Promise((resolve) => setTimeout(resolve, settleMs));
  const [begun, before, computed] = [performance.now(), heard.changes, cpuSeconds(process.pid)];
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
  const span = (performance.now() - begun) / 1000;
  const told = {
    aSecond: (heard.changes - before) / span,
    gaps: heard.gaps,
    cpu: (cpuSeconds(process.pid) - computed) / span,
  };
  for (const client of clients) await client.disconnect();
  return told;
}

async function watchAll(taken, linkId, everyMs, heard) {
  const { link, client: application, serverMachine } = linkInPlant(taken.plant, linkId);
  const known = taken.clients.find(({ applicationId }) => applicationId === application.id);
  const url = `opc.tcp://${serverMachine.addresses[0]}:4840`;
  const usual = {
    applicationUri: application.applicationUri,
    endpointMustExist: false,
    connectionStrategy: { maxRetry: 0, initialDelay: 100, maxDelay: 100 },
    certificateKeyPairProvider: new InMemoryCertificateKeyPairProvider(
      [Buffer.from(readPem(known.certificatePem).blocks[0].der)],
      makePrivateKeyFromPem(known.privateKeyPem),
    ),
  };
  const discovery = OPCUAClient.create({ ...usual, clientCertificateManager: new PinnedCertificate(null) });
  await discovery.connect(url);
  const endpoints = await discovery.getEndpoints();
  await discovery.disconnect();
  const [best] = endpoints.sort((left, right) => right.securityLevel - left.securityLevel);
  const client = OPCUAClient.create({
    ...usual,
    securityMode: MessageSecurityMode[MessageSecurityMode[best.securityMode]],
    securityPolicy: best.securityPolicyUri,
    serverCertificate: best.serverCertificate,
    clientCertificateManager: new PinnedCertificate(best.serverCertificate),
  });
  await client.connect(url);
  const session = await client.createSession({
    type: UserTokenType.UserName,
    userName: link.identity.userName,
    password: taken.passwords.find((one) => one.linkId === linkId).password,
  });
  const { references } = await session.browse('ns=1;s=Counters');
  const subscription = await session.createSubscription2({
    requestedPublishingInterval: everyMs,
    requestedLifetimeCount: 1000,
    requestedMaxKeepAliveCount: 5,
    maxNotificationsPerPublish: 1000,
    publishingEnabled: true,
    priority: 1,
  });
  const newest = new Map();
  for (let from = 0; from < references.length; from += inOneRequest) {
    const part = references.slice(from, from + inOneRequest);
    const group = ClientMonitoredItemGroup.create(
      subscription,
      part.map(({ nodeId }) => ({ nodeId, attributeId: AttributeIds.Value })),
      { samplingInterval: everyMs, queueSize: 10, discardOldest: true },
      TimestampsToReturn.Both,
    );
    group.on('changed', (item, { value }, index) => {
      const before = newest.get(from + index);
      newest.set(from + index, value.value);
      heard.changes += 1;
      if (before !== undefined && value.value > before + 1) heard.gaps += value.value - before - 1;
    });
    await new Promise((resolve, reject) => {
      group.once('initialized', resolve);
      group.once('err', (message) => reject(new Error(message)));
    });
  }
  return client;
}
