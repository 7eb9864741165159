import { Worker, isMainThread, parentPort } from 'node:worker_threads';
import { fileURLToPath } from 'node:url';
import { assess, usualRules } from '../../core/dist/index.js';

const sizes = [1_000, 10_000, 50_000];
/** A server that has been running for a while has judged so many before. */
const warmUp = 2_000;
const rounds = 5;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** Assesses whole plants in one worker: how long it takes, and how it grows. */
export async function assessing(say) {
  say(`Assessing links with their facts, in one worker (medians of ${rounds}):`);
  const worker = new Worker(fileURLToPath(import.meta.url));
  const results = await new Promise((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
  });
  const [first] = results;
  for (const { links, ms, states } of results) {
    const growth = (ms / links / (first.ms / first.links)).toFixed(2);
    say(
      `  ${String(links).padStart(6)} links  ${String(Math.round(ms)).padStart(6)} ms  ${growth} times the time per link at 1000  (${states})`,
    );
  }
  await worker.terminate();
}

if (!isMainThread) {
  measured(warmUp);
  parentPort.postMessage(sizes.map(measured));
}

function measured(links) {
  const results = Array.from({ length: rounds }, () => measuredOnce(links));
  return { ...results[0], ms: median(results.map(({ ms }) => ms)) };
}

function measuredOnce(links) {
  const cases = Array.from({ length: links }, (_, index) => plantLink(index));
  const begun = performance.now();
  const counts = {};
  for (const { subject, facts } of cases) {
    const { state } = assess(subject, facts, usualRules, '2026-03-01T12:00:00.000Z');
    counts[state] = (counts[state] ?? 0) + 1;
  }
  const ms = performance.now() - begun;
  return {
    links,
    ms,
    states: Object.entries(counts)
      .map(([state, count]) => `${count} ${state}`)
      .join(', '),
  };
}

/** Every third link is whole, every third refuses, every third is not trusted. */
function plantLink(index) {
  const at = '2026-03-01T12:00:00.000Z';
  let count = 0;
  const fact = (body, source = 'tried') => ({ id: `${index}/${(count += 1)}`, source, at, ...body });
  const host = `m${index}.works.example`;
  const machine = (id, address) => ({
    id,
    zoneId: 'z',
    name: id,
    description: '',
    hostNames: [host],
    addresses: [address],
  });
  const [serverMachine, clientMachine] = [machine('s', '10.0.0.1'), machine('c', '10.0.0.2')];
  const url = `opc.tcp://${host}:4840`;
  const policy = 'http://opcfoundation.org/UA/SecurityPolicy#Basic256Sha256';
  const secured = { securityPolicyUri: policy, securityMode: 'SignAndEncrypt' };
  const endpoint = {
    endpointUrl: url,
    applicationUri: 'urn:s',
    ...secured,
    securityLevel: 3,
    userTokens: [{ policyId: 'u', tokenType: 'UserName', securityPolicyUri: '' }],
    certificate: null,
  };
  const subject = {
    link: {
      id: `l${index}`,
      name: `l${index}`,
      clientId: 'c',
      serverId: 's',
      endpointUrl: url,
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: [{ path: 'A/B', uses: ['read', 'watch'] }],
      identity: { kind: 'user', userName: 'u' },
      floor: 'signed',
      kind: 'ua',
      staleAfterMs: 60_000,
    },
    client: {
      kind: 'client',
      id: 'c',
      machineId: 'c',
      name: 'Client',
      applicationUri: 'urn:c',
      securityPolicies: ['Basic256Sha256'],
      securityModes: ['SignAndEncrypt'],
    },
    server: { kind: 'server', id: 's', machineId: 's', name: 'Server', applicationUri: 'urn:s', ports: [4840] },
    clientMachine,
    serverMachine,
    machines: [serverMachine, clientMachine],
  };
  const kind = index % 3;
  const problem = {
    kind: 'not-trusted',
    status: 'BadCertificateUntrusted',
    subject: 'CN=s',
    thumbprint: 'AB',
    issuer: 'CN=s',
    selfIssued: true,
  };
  const validation = (problems) => ({
    status: problems[0]?.status ?? 'Good',
    certificate: null,
    steps: [],
    problems,
    path: [],
  });
  const facts = [
    fact({ kind: 'endpoint-url', given: url, cleaned: url, host, port: 4840, flaws: [] }, 'reckoned'),
    fact({
      kind: 'name-resolution',
      purpose: 'link',
      host,
      means: 'name server',
      asked: null,
      addresses: ['10.0.0.1'],
      failure: null,
      ms: 1,
    }),
    fact({
      kind: 'tcp-connect',
      purpose: 'link',
      from: null,
      address: '10.0.0.1',
      port: 4840,
      outcome: kind === 1 ? 'refused' : 'open',
      ms: 1,
    }),
  ];
  if (kind === 1) return { subject, facts };
  facts.push(
    fact({
      kind: 'hello',
      address: '10.0.0.1',
      port: 4840,
      ms: 1,
      outcome: 'acknowledged',
      limits: {
        protocolVersion: 0,
        receiveBufferSize: 65536,
        sendBufferSize: 65536,
        maxMessageSize: 0,
        maxChunkCount: 0,
      },
    }),
    fact({ kind: 'servers', servers: [], failure: null, ms: 1 }),
    fact({ kind: 'endpoints', outcome: 'listed', endpoints: [endpoint, { ...endpoint, securityMode: 'Sign' }], ms: 1 }),
    fact(
      { kind: 'certificate-validation', of: 'server', validation: validation(kind === 2 ? [problem] : []) },
      'reckoned',
    ),
  );
  if (kind === 2) return { subject, facts };
  facts.push(
    fact({ kind: 'channel', ...secured, outcome: 'open', ms: 1 }),
    fact({
      kind: 'session',
      tokenType: 'UserName',
      passwordInClear: false,
      outcome: 'active',
      revisedSessionTimeoutMs: 1,
      serverTime: at,
      clockApartMs: 1,
      ms: 1,
    }),
    fact({ kind: 'item-found', path: 'A/B', outcome: 'found', nodeId: 'ns=1;s=B', ms: 1 }),
    fact({
      kind: 'item-read',
      path: 'A/B',
      nodeId: 'ns=1;s=B',
      code: 'Good',
      value: '1',
      dataType: 'Double',
      sourceTimestamp: at,
      serverTimestamp: at,
      accessLevel: [],
      userAccessLevel: ['CurrentRead'],
      ms: 1,
    }),
    fact({
      kind: 'item-watched',
      path: 'A/B',
      code: 'Good',
      requestedSamplingIntervalMs: 250,
      revisedSamplingIntervalMs: 250,
      revisedPublishingIntervalMs: 250,
      firstNotificationMs: 9,
      changes: 1,
      keepAlives: 0,
      waitedMs: 9,
    }),
  );
  return { subject, facts };
}
