import { mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { WellKnownRoles, makeRoles } from 'node-opcua-address-space';
import type { NodeId } from 'node-opcua-nodeid';
import { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import { makeEUInformation, standardUnits } from 'node-opcua-data-access';
import { MessageSecurityMode, SecurityPolicy } from 'node-opcua-secure-channel';
import { OPCUAServer } from 'node-opcua-server';
import { ApplicationType } from 'node-opcua-types';
import { DataType } from 'node-opcua-variant';
import { readCertificate, readPem } from '@loyal-hinge/core';
import { applicationUriOf } from './marrowby.js';
import type { StandInServer } from './marrowby.js';
import { keyFiles } from './certificates.js';
import { ProcessValue } from './process-values.js';
import type { Stoppable } from './other-ports.js';

export interface ListedCertificate {
  readonly list: 'trusted' | 'rejected';
  readonly thumbprint: string;
  readonly since: string;
  readonly certificatePem: string;
}

/** A running stand-in: a real UA server with its own certificate, trust list and rejected list. */
export interface RunningServer extends Stoppable {
  readonly id: string;
  /** What lies in its trusted and rejected lists. */
  lists(): Promise<readonly ListedCertificate[]>;
  /** Moves a certificate from the rejected to the trusted list; false where it does not lie there. */
  accept(thumbprint: string): Promise<boolean>;
}

export interface ServerFolders {
  /** Holds the server's key and certificate. */
  readonly own: string;
  /** Holds its trust list and rejected list, in the layout of the UA library. */
  readonly pki: string;
}

/**
 * Starts a stand-in on its own loopback address.
 * @param passwords by user name
 * @param trusted PEM certificates that are put into an empty trusted list
 */
export async function startUaServer(
  standIn: StandInServer,
  folders: ServerFolders,
  passwords: ReadonlyMap<string, string>,
  trusted: readonly string[],
): Promise<RunningServer> {
  const certificates = await openCertificates(folders.pki, trusted);
  const files = keyFiles(folders.own);
  const server = new OPCUAServer({
    port: standIn.port,
    host: standIn.address,
    hostname: standIn.advertisedHost,
    certificateFile: files.certificate,
    privateKeyFile: files.privateKey,
    serverCertificateManager: certificates,
    securityPolicies: standIn.policies.map((policy) => SecurityPolicy[policy]),
    securityModes: standIn.modes.map((mode) => MessageSecurityMode[mode]),
    allowAnonymous: standIn.anonymous,
    userManager: {
      isValidUser: (name: string, password: string) => standIn.users.includes(name) && passwords.get(name) === password,
      getUserRoles: (name: string): NodeId[] =>
        makeRoles(name === 'technician' ? [WellKnownRoles.Operator] : [WellKnownRoles.Observer]),
    },
    serverInfo: {
      applicationUri: applicationUriOf(standIn.id),
      productUri: 'urn:marrowby.example:stand-in',
      applicationName: { text: standIn.name },
      applicationType: ApplicationType.Server,
    },
    maxConnectionsPerEndpoint: 40,
    serverCapabilities: { maxSessions: 40 },
  });
  await server.initialize();
  const timer = exposeItems(server, standIn);
  await server.start();
  return {
    id: standIn.id,
    lists: () => readLists(folders.pki),
    accept: (thumbprint) => acceptRejected(certificates, folders.pki, thumbprint),
    async stop() {
      clearInterval(timer);
      await server.shutdown(0);
    },
  };
}

async function openCertificates(folder: string, trusted: readonly string[]): Promise<OPCUACertificateManager> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const certificates = new OPCUACertificateManager({
    rootFolder: folder,
    automaticallyAcceptUnknownCertificate: false,
    disableFileWatchers: true,
  });
  await certificates.initialize();
  const marker = join(folder, 'trust-was-set-up');
  if (await exists(marker)) return certificates;
  for (const pem of trusted) await certificates.trustCertificate(Buffer.from(derOf(pem)));
  await writeFile(marker, '');
  return certificates;
}

const exists = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );

function derOf(pem: string): Uint8Array {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  if (!der) throw new Error('no certificate in the PEM text');
  return der;
}

const tickMs = 500;

function exposeItems(server: OPCUAServer, standIn: StandInServer): NodeJS.Timeout {
  const addressSpace = server.engine.addressSpace;
  if (!addressSpace) throw new Error('the server has no address space');
  const namespace = addressSpace.getOwnNamespace();
  const folders = new Map<string, ReturnType<typeof namespace.addFolder>>();
  const folderAt = (parts: readonly string[]): ReturnType<typeof namespace.addFolder> => {
    const path = parts.join('/');
    const known = folders.get(path);
    if (known) return known;
    const parent = parts.length > 1 ? folderAt(parts.slice(0, -1)) : addressSpace.rootFolder.objects;
    const made = namespace.addFolder(parent, { browseName: parts.at(-1) ?? '', nodeId: `s=${path}` });
    folders.set(path, made);
    return made;
  };
  const updates = standIn.items.map((item) => {
    const parts = item.path.split('/');
    const value = new ProcessValue(item);
    const variable = namespace.addAnalogDataItem({
      browseName: parts.at(-1) ?? '',
      nodeId: `s=${item.path}`,
      organizedBy: folderAt(parts.slice(0, -1)),
      engineeringUnits: item.unit === 'count' ? makeEUInformation('C62', '', 'one') : standardUnits[item.unit],
      engineeringUnitsRange: { low: item.mean - 10 * item.swing, high: item.mean + 10 * item.swing },
      dataType: DataType.Double,
      minimumSamplingInterval: 100,
      accessLevel: 'CurrentRead',
      userAccessLevel: 'CurrentRead',
    });
    return () => variable.setValueFromSource({ dataType: DataType.Double, value: value.next() });
  });
  const update = (): void => updates.forEach((run) => run());
  update();
  return setInterval(update, tickMs);
}

const listFolders = { trusted: 'trusted/certs', rejected: 'rejected' } as const;

async function readLists(folder: string): Promise<readonly ListedCertificate[]> {
  const lists = await Promise.all((['trusted', 'rejected'] as const).map((list) => readList(folder, list)));
  return lists.flat();
}

async function readList(folder: string, list: 'trusted' | 'rejected'): Promise<ListedCertificate[]> {
  const place = join(folder, listFolders[list]);
  const names = await readdir(place).catch(() => []);
  const entries = await Promise.all(names.map((name) => readListed(join(place, name), list)));
  return entries.flatMap((entry) => entry ?? []);
}

async function readListed(path: string, list: 'trusted' | 'rejected'): Promise<ListedCertificate | null> {
  try {
    const certificatePem = await readFile(path, 'utf8');
    const read = await readCertificate(derOf(certificatePem));
    if (!read.ok) return null;
    const since = (await stat(path)).mtime.toISOString();
    return { list, thumbprint: read.certificate.summary.thumbprint, since, certificatePem };
  } catch {
    return null;
  }
}

async function acceptRejected(
  certificates: OPCUACertificateManager,
  folder: string,
  thumbprint: string,
): Promise<boolean> {
  const found = (await readList(folder, 'rejected')).find((listed) => listed.thumbprint === thumbprint);
  if (!found) return false;
  await certificates.trustCertificate(Buffer.from(derOf(found.certificatePem)));
  return true;
}
