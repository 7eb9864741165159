import { randomBytes } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { startAdminDoor } from './admin-door.js';
import { keptOrMade } from './certificates.js';
import type { KeyAndCertificate } from './certificates.js';
import type { Handover } from './handover.js';
import {
  addressBook,
  applicationUriOf,
  clientTrust,
  marrowbyGlass,
  siloGaugePort,
  silentPort,
  standInClients,
  standInServers,
  weighbridgePage,
  wrongPasswordLinks,
} from './marrowby.js';
import { startNameServer } from './name-server.js';
import { startBarePort, startSilentPort, startWebPage } from './other-ports.js';
import type { Stoppable } from './other-ports.js';
import { startUaServer } from './ua-server.js';
import type { RunningServer } from './ua-server.js';

export const nameServerAddress = { address: '127.41.0.53', port: 5353 };
export const adminDoorAddress = { address: '127.41.0.2', port: 8741 };

interface PlantSecrets {
  readonly doorToken: string;
  /** By user name; made once, at the first start. */
  readonly passwords: Readonly<Record<string, string>>;
}

export interface RunningPlant extends Stoppable {
  readonly servers: readonly RunningServer[];
  /** What the engineer of the made-up plant would bring along: written to a file that its owner alone can read. */
  readonly handover: Handover;
}

/**
 * Starts Marrowby Glass: UA servers, name server, silent port, web page and administrative door, side by side.
 * Keys, certificates, lists and passwords are kept in the folder and made anew where they are missing.
 */
export async function startPlant(folder: string): Promise<RunningPlant> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const secrets = await keptSecrets(folder);
  const certificates = await allCertificates(folder);
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
              { own: ownFolder(folder, standIn.id), pki: join(folder, 'pki', standIn.id) },
              passwords,
              standIn.trusts.map((id) => certificateOf(certificates, id).certificatePem),
            ),
          ),
        ),
      ),
      keep(startNameServer(addressBook, nameServerAddress.address, nameServerAddress.port)),
      keep(startWebPage(weighbridgePage.address, weighbridgePage.port)),
      keep(startSilentPort(silentPort.address, silentPort.port)),
      keep(startBarePort(siloGaugePort.address, siloGaugePort.port)),
    ]);
    await keep(startAdminDoor(servers, adminDoorAddress.address, adminDoorAddress.port, secrets.doorToken));
    return { servers, handover: handoverOf(secrets, certificates), stop };
  } catch (error) {
    await stop();
    throw error;
  }
}

const ownFolder = (folder: string, id: string): string => join(folder, 'own', id);

async function keptSecrets(folder: string): Promise<PlantSecrets> {
  const file = join(folder, 'secrets.json');
  try {
    return JSON.parse(await readFile(file, 'utf8')) as PlantSecrets;
  } catch {
    const users = [...new Set(standInServers.flatMap((standIn) => standIn.users))];
    const made: PlantSecrets = {
      doorToken: randomBytes(24).toString('base64url'),
      passwords: Object.fromEntries(users.map((user) => [user, randomBytes(12).toString('base64url')])),
    };
    await writeFile(file, JSON.stringify(made), { mode: 0o600 });
    return made;
  }
}

async function allCertificates(folder: string): Promise<ReadonlyMap<string, KeyAndCertificate>> {
  const wishes = [
    ...standInServers.map((standIn) => ({ id: standIn.id, commonName: standIn.name, ...standIn.certificate })),
    ...standInClients.map((client) => ({
      id: client.id,
      commonName: client.name,
      hosts: hostsOf(client.machineId),
      fromDay: -120,
      toDay: 1200,
    })),
  ];
  const entries = await Promise.all(
    wishes.map(async ({ id, ...wish }) => {
      const made = await keptOrMade(ownFolder(folder, id), { ...wish, applicationUri: applicationUriOf(id) });
      return [id, made] as const;
    }),
  );
  return new Map(entries);
}

const hostsOf = (machineId: string): readonly string[] =>
  marrowbyGlass.machines.find((machine) => machine.id === machineId)?.hostNames ?? [];

function certificateOf(certificates: ReadonlyMap<string, KeyAndCertificate>, id: string): KeyAndCertificate {
  const found = certificates.get(id);
  if (!found) throw new Error(`no certificate was made for ${id}`);
  return found;
}

function handoverOf(secrets: PlantSecrets, certificates: ReadonlyMap<string, KeyAndCertificate>): Handover {
  return {
    plant: marrowbyGlass,
    nameServer: `${nameServerAddress.address}:${nameServerAddress.port}`,
    clients: standInClients.map((client) => ({
      applicationId: client.id,
      ...certificateOf(certificates, client.id),
      trustedPem: (clientTrust[client.id] ?? []).map((id) => certificateOf(certificates, id).certificatePem),
    })),
    passwords: marrowbyGlass.links.flatMap((link) => {
      if (link.identity.kind !== 'user') return [];
      const right = secrets.passwords[link.identity.userName] ?? '';
      return [{ linkId: link.id, password: wrongPasswordLinks.includes(link.id) ? `${right.slice(1)}x` : right }];
    }),
    doors: standInServers.map((standIn) => ({
      applicationId: standIn.id,
      url: `http://${adminDoorAddress.address}:${adminDoorAddress.port}/servers/${standIn.id}`,
      token: secrets.doorToken,
    })),
  };
}
