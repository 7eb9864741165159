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
const patienceMs = 60_000;
const mechanical = ['trust-server-certificate', 'accept-client-certificate', 'change-lists'];

/**
 * Adds the gateway of the made-up plant: it reads the furnace through the tunnel, and the lehr, shows both to the quality board, and
 * gives the lehr a wanted speed by the gas flow.
 */
export async function addDemoGateway(call, dataFolder, log) {
  const { machines } = await call('GET', '/api/gateways');
  const address = machines.find(({ id }) => id === wish.machineId).addresses[0];
  const { id } = await call('POST', '/api/gateways', { ...wish, address });
  const { gateway } = await call('GET', `/api/gateways/${id}`);
  const { authorities } = await call('GET', '/api/authorities');
  await call('PUT', `/api/identities/${gateway.clientId}`, {
    by: 'making',
    commonName: gatewayName,
    organization: '',
    hosts: [address],
    keyKind: 'RSA 2048',
    validDays: 700,
    authority: {
      thumbprint: authorities.find(({ isCurrent }) => isCurrent).thumbprint,
      passphrase: authorityPassphrase(dataFolder),
    },
  });
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
      { path: 'Lehr/Roller speed wanted', uses: ['read', 'watch', 'write'] },
    ],
  });
  const tunnel = (await call('GET', '/api/tunnels')).tunnels[0];
  if (tunnel)
    await call('POST', `/api/tunnels/${tunnel.id}/links`, { linkId: furnace, entranceAddress: address, entrancePort });
  const places = [
    { linkId: furnace, items: 'Furnace/*', domain: 'Hot End', withoutFirst: 0, isWritable: false },
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
      { path: 'Cold End/Lehr/Zone A/Temperature', uses: ['read', 'watch'] },
    ],
  });
  for (const linkId of [furnace, lehr])
    await trusted(call, linkId).catch((error) => log(`${linkId} could not be made to trust: ${error.message}`));
}

/** Once it runs, its reader is made to trust it, and it its reader. */
export async function letReaderIn(call, log) {
  for (const end = Date.now() + patienceMs; Date.now() < end;) {
    const { gateways } = await call('GET', '/api/gateways');
    if (gateways.find(({ outpost }) => outpost.name === gatewayName)?.state === 'runs') break;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  await trusted(call, reader).catch((error) => log(`${reader} could not be made to trust: ${error.message}`));
}

async function addLink(call, { userName, password, ...link }) {
  await call('PUT', `/api/plant/links/${link.id}`, {
    kind: 'ua',
    ...link,
    pinnedAddress: null,
    chosenEndpoint: null,
    identity: { kind: 'user', userName },
    floor: 'signed',
    staleAfterMs: 30_000,
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

/** The password that the engineer of the made-up plant knows for a user at a server. */
function passwordLike(dataFolder, serverId, userName) {
  const { plant, passwords } = JSON.parse(readFileSync(join(standInsFolder(dataFolder), 'handover.json'), 'utf8'));
  const like = plant.links.find(
    ({ serverId: server, identity }) =>
      server === serverId && identity.kind === 'user' && identity.userName === userName,
  );
  return passwords.find(({ linkId }) => linkId === like.id).password;
}
