import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { authorityPassphrase, standInsFolder } from './demo-plant.mjs';

export const gatewayName = 'Office gateway';
const wish = { name: gatewayName, machineId: 'energy', port: 4860 };
/** Through the tunnel of the made-up plant, beside the session that goes there already. */
const entrancePort = 4841;
/** The quality board reads from it. */
const reader = 'quality--office-gateway';
const rounds = 6;
const patienceMs = 20_000;
const mechanical = ['trust-server-certificate', 'accept-client-certificate', 'change-lists'];

/**
 * Adds the gateway of the made-up plant: it reads the furnace through the tunnel, and the lehr, shows both to the quality board, and
 * gives the lehr a wanted speed by the gas flow.
 */
export async function addDemoGateway(call, dataFolder, log) {
  const { id, address, gateway } = await addGateway(call, dataFolder, wish);
  const furnace = await addLink(call, {
    id: 'office-gateway--furnace',
    name: `${gatewayName} to Furnace`,
    clientId: gateway.clientId,
    serverId: 'furnace-server',
    endpointUrl: 'opc.tcp://furnace.marrowby.example:4840',
    userName: 'collector',
    password: passwordLike(dataFolder, 'furnace-server', 'collector'),
    needs: [{ path: 'Furnace/*', uses: ['read', 'watch'] }],
  });
  const lehr = await addLink(call, {
    id: 'office-gateway--lehr',
    name: `${gatewayName} to Lehr`,
    clientId: gateway.clientId,
    serverId: 'lehr-server',
    endpointUrl: 'opc.tcp://lehr.marrowby.example:4840',
    userName: 'technician',
    password: passwordLike(dataFolder, 'lehr-server', 'technician'),
    needs: [
      { path: 'Lehr/*/Temperature', uses: ['read', 'watch'] },
      { path: 'Lehr/Zone A/Temperature', uses: ['history'] },
      { path: 'Lehr', uses: ['alarms'] },
      { path: 'Lehr/Roller speed wanted', uses: ['read', 'watch', 'write'] },
    ],
  });
  const tunnel = (await call('GET', '/api/tunnels')).tunnels[0];
  if (tunnel)
    await call('POST', `/api/tunnels/${tunnel.id}/links`, { linkId: furnace, entranceAddress: address, entrancePort });
  const places = [
    { linkId: furnace, items: 'Furnace/*', domain: 'Hot End', withoutFirst: 0, isWritable: false },
    { linkId: lehr, items: 'Lehr', domain: 'Cold End', withoutFirst: 0, isWritable: false },
    { linkId: lehr, items: 'Lehr/*/Temperature', domain: 'Cold End', withoutFirst: 0, isWritable: false },
    { linkId: lehr, items: 'Lehr/Roller speed wanted', domain: 'Cold End', withoutFirst: 0, isWritable: true },
  ];
  await call('PUT', `/api/gateways/${id}/places`, { places });
  await call('POST', `/api/gateways/${id}/relays`, {
    to: { linkId: lehr, path: 'Lehr/Roller speed wanted' },
    from: { linkId: furnace, path: 'Furnace/Gas flow' },
    scale: { kind: 'ranges', from: [60, 80], to: [0.19, 0.23], clamps: true },
    deadBand: { kind: 'percent', by: 1 },
    as: null,
    onBad: { kind: 'hold' },
  });
  await addLink(call, {
    id: reader,
    name: `Quality board to ${gatewayName}`,
    clientId: 'quality-client',
    serverId: gateway.serverId,
    endpointUrl: `opc.tcp://${address}:${wish.port}`,
    userName: 'quality',
    password: randomBytes(12).toString('base64url'),
    needs: [
      { path: 'Hot End/Furnace/Gas flow', uses: ['read', 'watch'] },
      { path: 'Cold End/Lehr/Zone A/Temperature', uses: ['read', 'watch', 'history'] },
      { path: 'Cold End/Lehr', uses: ['alarms'] },
    ],
  });
  for (const linkId of [furnace, lehr])
    await trusted(call, linkId).catch((error) => log(`${linkId} could not be made to trust: ${error.message}`));
}

/** Adds a gateway with a certificate of the plant’s authority. */
async function addGateway(call, dataFolder, { machineId, ...more }) {
  const { machines } = await call('GET', '/api/gateways');
  const address = machines.find((machine) => machine.id === machineId).addresses[0];
  const { id } = await call('POST', '/api/gateways', { mapperPort: null, ...more, machineId, address });
  const { gateway } = await call('GET', `/api/gateways/${id}`);
  const { authorities } = await call('GET', '/api/authorities');
  await call('PUT', `/api/identities/${gateway.clientId}`, {
    by: 'making',
    commonName: more.name,
    organization: '',
    hosts: [address],
    keyKind: 'RSA 2048',
    validDays: 700,
    authority: {
      thumbprint: authorities.find(({ isCurrent }) => isCurrent).thumbprint,
      passphrase: authorityPassphrase(dataFolder),
    },
  });
  return { id, address, gateway };
}

/** What the silos’ classic server shows comes to the trend station over one port: two gateways, and a tunnel between. */
export const siloTunnel = {
  name: 'Silo tunnel',
  listeningMachineId: 'silo-data',
  diallingMachineId: 'trend-station',
  port: 4851,
  limits: { streams: 16, streamBytesPerSecond: null, bytesPerSecond: null, idleMs: null },
};
export const siloGateways = ['Silo gateway', 'Trend gateway'];
const straight = 'trend--silo-data';
const [overLine, atLast] = ['trend-gateway--silo-gateway', 'trend--trend-gateway'];

/** @param tunnelId of the tunnel between both machines */
export async function addSiloGateways(call, dataFolder, tunnelId) {
  const { links } = (await call('GET', '/api/plant')) ?? {};
  const known = links.find(({ id }) => id === straight);
  const mapperPort = Number(new URL(known.endpointUrl.replace('classic:', 'http:')).port);
  const silo = await addGateway(call, dataFolder, {
    name: siloGateways[0],
    machineId: 'silo-data',
    port: 4860,
    // The machine’s own mapper has the usual one.
    mapperPort: 10_136,
  });
  const read = await addLink(call, {
    ...classicLink(known),
    id: 'silo-gateway--silo-data',
    name: 'Silo gateway to Silo data',
    clientId: silo.gateway.classic.clientId,
    userName: known.identity.userName,
    password: passwordOf(dataFolder, straight),
  });
  const places = [{ linkId: read, items: '**', domain: 'Batch House', withoutFirst: 0, isWritable: false }];
  await call('PUT', `/api/gateways/${silo.id}/places`, { places });
  const trend = await addGateway(call, dataFolder, {
    name: siloGateways[1],
    machineId: 'trend-station',
    port: 4860,
    mapperPort,
  });
  await addLink(call, {
    id: overLine,
    name: 'Trend gateway to Silo gateway',
    clientId: trend.gateway.clientId,
    serverId: silo.gateway.serverId,
    endpointUrl: `opc.tcp://${silo.address}:4860`,
    userName: 'trends',
    password: randomBytes(12).toString('base64url'),
    needs: [{ path: 'Batch House/Silos/*', uses: ['read', 'watch'] }],
  });
  await call('POST', `/api/tunnels/${tunnelId}/links`, {
    linkId: overLine,
    entranceAddress: trend.address,
    entrancePort: 4861,
  });
  const shown = [{ linkId: overLine, items: 'Batch House/**', domain: 'Silos', withoutFirst: 2, isWritable: false }];
  await call('PUT', `/api/gateways/${trend.id}/places`, { places: shown });
  await addLink(call, {
    ...classicLink(known),
    id: atLast,
    name: 'Trends of silo data, by gateways',
    serverId: trend.gateway.classic.serverId,
    endpointUrl: `classic://${trend.address}:${mapperPort}/${trend.gateway.classic.program}`,
    userName: known.identity.userName,
    password: randomBytes(12).toString('base64url'),
  });
}

/** Both gateways run: the line between them is made to be trusted, and the last link is checked. */
export async function joinSiloGateways(call, log) {
  for (const name of siloGateways) await untilItRuns(call, name);
  await until(async () =>
    (await call('GET', '/api/tunnels')).tunnels.some(({ name, state }) => name === siloTunnel.name && state === 'up'),
  );
  await trusted(call, overLine).catch((error) => log(`${overLine} could not be made to trust: ${error.message}`));
  await until(async () =>
    (await call('GET', '/api/gateways')).gateways.some(
      ({ outpost, items }) => outpost.name === siloGateways[1] && items > 0,
    ),
  );
  await call('POST', `/api/links/${atLast}/checks`, {});
}

const classicLink = ({ id: _id, identity: _identity, ...rest }) => rest;

/** Once it runs, its reader is made to trust it, and it its reader. */
export async function letReaderIn(call, log) {
  await untilItRuns(call, gatewayName);
  await trusted(call, reader).catch((error) => log(`${reader} could not be made to trust: ${error.message}`));
}

const untilItRuns = (call, name) =>
  until(
    async () =>
      (await call('GET', '/api/gateways')).gateways.find(({ outpost }) => outpost.name === name)?.state === 'runs',
  );

async function until(isSo) {
  for (const end = Date.now() + patienceMs; Date.now() < end;) {
    if (await isSo()) return;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
}

async function addLink(call, { userName, password, ...link }) {
  await call('PUT', `/api/plant/links/${link.id}`, {
    kind: 'ua',
    pinnedAddress: null,
    chosenEndpoint: null,
    floor: 'signed',
    staleAfterMs: 30_000,
    ...link,
    identity: { kind: 'user', userName },
  });
  const change = { kind: 'set-password', linkId: link.id, userName };
  await call('POST', `/api/links/${link.id}/mendings`, { change, password });
  return link.id;
}

/** Checks a link, and lets the product carry out what it proposes for the lists at both ends. */
async function trusted(call, linkId) {
  for (let round = 0; round < rounds; round += 1) {
    const { id } = await call('POST', `/api/links/${linkId}/checks`, {});
    for (const end = Date.now() + patienceMs; Date.now() < end;) {
      if ((await call('GET', `/api/checks/${id}`)).check.endedAt !== null) break;
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    const { assessment } = await call('GET', `/api/links/${linkId}`);
    const change = (assessment?.steps ?? [])
      .flatMap(({ findings }) => findings.flatMap(({ remedies }) => remedies.map((remedy) => remedy.change)))
      .find(({ kind }) => mechanical.includes(kind));
    if (!change) return;
    await call('POST', `/api/links/${linkId}/mendings`, { change });
    // A gateway hears of it a moment later.
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
}

const handedOver = (dataFolder) => JSON.parse(readFileSync(join(standInsFolder(dataFolder), 'handover.json'), 'utf8'));
const passwordOf = (dataFolder, wanted) =>
  handedOver(dataFolder).passwords.find(({ linkId }) => linkId === wanted).password;

/** The password that the engineer of the made-up plant knows for a user at a server. */
function passwordLike(dataFolder, serverId, userName) {
  const like = handedOver(dataFolder).plant.links.find(
    ({ serverId: server, identity }) =>
      server === serverId && identity.kind === 'user' && identity.userName === userName,
  );
  return passwordOf(dataFolder, like.id);
}
