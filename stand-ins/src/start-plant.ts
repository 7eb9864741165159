import { randomBytes } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { writePem } from '@loyal-hinge/core';
import { writePkiFolder } from '@loyal-hinge/core/bundles';
import { takeWhatIsBroughtByHand } from './by-hand.js';
import { dayMs, derIn } from './certificates.js';
import type { Handover } from './handover.js';
import {
  addressBook,
  classicStandIns,
  classicUsers,
  applicationUriOf,
  clientLists,
  deskId,
  deskUser,
  inBlock,
  marrowbyGlass,
  formerArchive,
  standInConduits,
  standInServices,
  standInDevices,
  standInFirewalls,
  standInOrigins,
  plantRange,
  siloGaugePort,
  silentPort,
  standInClients,
  standInServers,
  weighbridgePage,
  wrongClassicPasswords,
  wrongPasswordLinks,
} from './marrowby/index.js';
import type { FirstLists, StandInServer } from './marrowby/index.js';
import { broughtFrom, startClassicMachine } from './start-classic.js';
import { startDevice } from './start-devices.js';
import { startNameServer } from './name-server.js';
import { startBarePort, startSilentPort, startTranslation, startWebPage } from './other-ports.js';
import type { Stoppable } from './other-ports.js';
import { encryptedKeyPem, plantCertificates } from './plant-certificates.js';
import type { PlantCertificates } from './plant-certificates.js';
import { startUaServer } from './ua-server.js';
import { startVisitor } from './visitors.js';
import type { BeginningLists, RunningServer } from './ua-server.js';

export const nameServerAddress = { address: inBlock('0.53'), port: 5353 };

/** Who comes to a server by itself. */
const visit = { applicationId: 'history-client', address: inBlock('30.11'), userName: 'collector' };

export interface PlantSecrets {
  /** Encrypts the authority’s key. */
  readonly passphrase: string;
  /** By user name; made once, at the first start. */
  readonly passwords: Readonly<Record<string, string>>;
}

export interface RunningPlant extends Stoppable {
  readonly servers: readonly RunningServer[];
  /** What the engineer of the made-up plant would bring along: written to a file that its owner alone can read. */
  readonly handover: Handover;
}

/**
 * Starts Marrowby Glass: UA servers, name server, silent port and web page, side by side.
 * Keys, certificates, lists and passwords are kept in the folder and made anew where they are missing.
 */
export async function startPlant(folder: string): Promise<RunningPlant> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const secrets = await keptSecrets(folder);
  const certificates = await plantCertificates(folder);
  const started: Stoppable[] = [];
  const keep = async <Part extends Stoppable>(starting: Promise<Part>): Promise<Part> => {
    const part = await starting;
    started.push(part);
    return part;
  };
  const stop = async (): Promise<void> => {
    await Promise.allSettled(started.map((part) => part.stop()));
  };
  try {
    const passwords = new Map(Object.entries(secrets.passwords));
    const [servers] = await Promise.all([
      Promise.all(
        standInServers.map((standIn) =>
          keep(
            startUaServer(
              standIn,
              { own: join(folder, 'own', standIn.id), pki: join(folder, 'pki', standIn.id) },
              passwords,
              beginningOf(standIn, certificates),
            ),
          ),
        ),
      ),
      ...classicStandIns.map((standIn) =>
        keep(startClassicMachine(standIn, join(folder, 'classic', standIn.machine.id), passwords)),
      ),
      ...standInDevices.map((device) => keep(startDevice(device))),
      keep(startNameServer(addressBook, nameServerAddress.address, nameServerAddress.port)),
      keep(startWebPage(weighbridgePage.address, weighbridgePage.port)),
      keep(startSilentPort(silentPort.address, silentPort.port)),
      keep(startBarePort(siloGaugePort.address, siloGaugePort.port)),
      keep(startTranslation(formerArchive, formerArchive.leadsTo)),
    ]);
    for (const { id, push } of standInServers) {
      const server = servers.find((running) => running.id === id);
      if (!push && server) await keep(takeWhatIsBroughtByHand(join(folder, 'by-hand', id), server.takeLists));
    }
    if (process.env['HINGE_PLANT_VISITORS'] === 'yes')
      await keep(
        Promise.resolve(
          startVisitor({
            ...certificates.of(visit.applicationId),
            applicationUri: applicationUriOf(visit.applicationId),
            endpointUrl: `opc.tcp://${visit.address}:4840`,
            userName: visit.userName,
            password: secrets.passwords[visit.userName] ?? '',
          }),
        ),
      );
    await copyPkiFolders(folder, certificates);
    const exports = await Promise.all(
      classicStandIns
        .filter(({ isUnseen }) => !isUnseen)
        .map((standIn) => broughtFrom(standIn, join(folder, 'classic', standIn.machine.id))),
    );
    return { servers, handover: { ...handoverOf(secrets, certificates), exports }, stop };
  } catch (error) {
    await stop();
    throw error;
  }
}

/** What somebody copied from the machines that speak no push management, at the very beginning. */
async function copyPkiFolders(folder: string, certificates: PlantCertificates): Promise<void> {
  const copies = join(folder, 'copied-from-machines');
  await mkdir(copies, { recursive: true, mode: 0o700 });
  for (const standIn of standInServers.filter(({ push }) => !push)) {
    const { trustedCertificates, trustedCrls, issuerCertificates, issuerCrls } = beginningOf(
      standIn,
      certificates,
    ).lists;
    const lists = { trusted: trustedCertificates, trustedCrls, issuers: issuerCertificates, issuerCrls, rejected: [] };
    const zip = writePkiFolder(
      { own: [certificates.listed(standIn.id)], ...lists },
      standIn.id,
      `PKI folder of ${standIn.name}`,
    );
    await writeFile(join(copies, `${standIn.id}.zip`), zip);
  }
}

export async function keptSecrets(folder: string): Promise<PlantSecrets> {
  const file = join(folder, 'secrets.json');
  const kept = await readFile(file, 'utf8').then(
    (text) => JSON.parse(text) as PlantSecrets,
    () => null,
  );
  const users = new Set([...standInServers.flatMap((standIn) => standIn.users), ...Object.values(classicUsers)]);
  const missing = [...users].filter((user) => kept?.passwords[user] === undefined);
  if (kept && missing.length === 0) return kept;
  const made: PlantSecrets = {
    passphrase: kept?.passphrase ?? randomBytes(12).toString('base64url'),
    passwords: {
      ...kept?.passwords,
      ...Object.fromEntries(missing.map((user) => [user, randomBytes(12).toString('base64url')])),
    },
  };
  await writeFile(file, JSON.stringify(made), { mode: 0o600 });
  return made;
}

function beginningOf({ lists }: StandInServer, certificates: PlantCertificates): BeginningLists {
  const { listed, crls, users } = certificates;
  return {
    lists: {
      trustedCertificates: lists.trusted.map(listed),
      trustedCrls: (lists.trustedCrls ?? []).map((name) => crls[name]),
      issuerCertificates: (lists.issuers ?? []).map(listed),
      issuerCrls: (lists.issuerCrls ?? []).map((name) => crls[name]),
    },
    users: (lists.users ?? []).flatMap((name) => {
      const kept = users.get(name);
      return kept ? [derIn(kept.certificatePem)] : [];
    }),
    since: lists.trusted.includes('commissioning-client')
      ? [{ der: listed('commissioning-client'), at: new Date(Date.now() - 738 * dayMs) }]
      : [],
  };
}

function handoverOf(secrets: PlantSecrets, certificates: PlantCertificates): Omit<Handover, 'exports'> {
  const { authority, crls } = certificates;
  const pemOf = (der: Uint8Array): string => writePem('CERTIFICATE', der);
  const crlPem = (der: Uint8Array): string => writePem('X509 CRL', der);
  const none: FirstLists = { trusted: [] };
  return {
    plant: marrowbyGlass,
    firewalls: standInFirewalls,
    conduits: standInConduits,
    services: standInServices,
    origins: standInOrigins,
    range: plantRange,
    nameServer: `${nameServerAddress.address}:${nameServerAddress.port}`,
    clients: standInClients.map(({ id }) => {
      const { trusted, trustedCrls = [] } = clientLists[id] ?? none;
      return {
        applicationId: id,
        ...certificates.of(id),
        trustedPem: trusted.map((listedId) => pemOf(certificates.listed(listedId))),
        crlsPem: trustedCrls.map((name) => crlPem(crls[name])),
      };
    }),
    userCertificates: [...certificates.users].map(([name, kept]) => ({ name, ...kept })),
    passwords: marrowbyGlass.links.flatMap((link) => {
      if (link.identity.kind !== 'user') return [];
      const right = secrets.passwords[link.identity.userName] ?? '';
      return [
        {
          linkId: link.id,
          password: [...wrongPasswordLinks, ...wrongClassicPasswords].includes(link.id) ? `${right.slice(1)}x` : right,
        },
      ];
    }),
    ways: standInServers.flatMap((standIn): Handover['ways'] => {
      if (!marrowbyGlass.applications.some(({ id }) => id === standIn.id)) return [];
      if (!standIn.push)
        return standIn.modes.includes('SignAndEncrypt') ? [{ applicationId: standIn.id, way: 'files' }] : [];
      const endpointUrl = `opc.tcp://${marrowbyGlass.machines.find(({ id }) => id === standIn.machineId)?.hostNames[0] ?? standIn.address}:${standIn.port}`;
      const password = secrets.passwords[deskUser] ?? '';
      return [
        {
          applicationId: standIn.id,
          way: 'push',
          clientId: deskId,
          endpointUrl,
          userName: deskUser,
          password,
          restarts: standIn.restarts,
        },
      ];
    }),
    authority: {
      certificatePem: authority.certificatePem,
      encryptedKeyPem: encryptedKeyPem(authority.privateKeyPem, secrets.passphrase),
      formerCertificatePem: pemOf(certificates.listed('former-authority')),
      crlPem: crlPem(crls.current),
      revoked: certificates.revoked.map(({ serialNumber, sinceMs }) => ({
        serialNumber,
        since: new Date(Date.now() + sinceMs).toISOString(),
        reason: 'cessationOfOperation',
      })),
    },
  };
}
