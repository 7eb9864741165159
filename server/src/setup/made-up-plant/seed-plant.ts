import { readPem } from '@loyal-hinge/core';
import { keepUserCertificate } from '../../accounts/certificates/store.js';
import { appendAudit } from '../../audit/trail.js';
import type { Database, Queryable } from '../../database/database.js';
import { readMachineFiles } from '../../dcom/read-files.js';
import { addExport } from '../../dcom/store.js';
import { keepOrigins } from '../../field/origins/stated.js';
import { importRulesOf } from '../../passage/keep-rules.js';
import { putConduit, putFirewall, putService } from '../../passage/store.js';
import { keyOf, passwordOf } from '../../secrets/sealing.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { bindSecrets } from '../../plant/secret-owners.js';
import { readPlant } from '../../plant/store.js';
import { wholePlant } from '../../plant/incoming.js';
import { replacePlant, takeIn } from '../../plant/replace.js';
import { writeSetting } from '../../database/settings.js';
import { takeOverAuthority } from '../../trust/authorities/take-over.js';
import { noLists, replaceLists } from '../../trust/lists/store.js';
import { noteReading } from '../../trust/lists/readings.js';
import { pushLinkId } from '../../trust/lists/push-link.js';
import { keyedInPem } from '../../certificates/given-key.js';
import { keepCertificate, setClientCertificate } from '../../certificates/store.js';
import { noteRestarts, setWay } from '../../trust/lists/ways.js';
import type { Handover } from './handover.js';

/** Seeds an empty installation; one that has a plant already is left as it is. */
export async function takeOver(db: Database, secrets: SecretStore, given: Handover): Promise<'seeded' | 'kept'> {
  const existing = await readPlant(db);
  if (existing.links.length > 0 || existing.machines.length > 0) return 'kept';
  await db.transaction(async (tx) => {
    const plant = wholePlant(given.plant);
    await takeIn(tx, plant);
    await replacePlant(tx, plant);
    await writeSetting(tx, 'nameServer', given.nameServer);
    await writeSetting(tx, 'declaredRanges', [given.range]);
    await writeSetting(tx, 'dialFromClientAddress', true);
    for (const client of given.clients) await takeClient(tx, secrets, client);
    for (const { linkId, password } of given.passwords) await secrets.keep(tx, passwordOf(linkId), password, null);
    for (const one of given.userCertificates)
      await keepUserCertificate(tx, secrets, one.name, keyedInPem({ by: 'pem', ...one }), 'setup');
    for (const way of given.ways) await takeWay(tx, secrets, way);
    for (const brought of given.exports) await addExport(tx, brought.machineId, 'setup', readMachineFiles(brought));
    for (const each of given.conduits) await putConduit(tx, each);
    for (const each of given.services) await putService(tx, each);
    for (const each of given.firewalls) await takeFirewall(tx, each);
    for (const { serverId, ...stated } of given.origins) await keepOrigins(tx, serverId, [stated], 'setup');
    await bindSecrets(tx, secrets);
    await takeAuthority(tx, secrets, given.authority);
    await writeSetting(tx, 'crlsDemanded', true);
    await appendAudit(tx, {
      actor: 'setup',
      action: 'demo plant seeded',
      subject: given.plant.name,
      details: { links: given.plant.links.length },
    });
  });
  return 'seeded';
}

async function takeFirewall(tx: Queryable, { file, rules, ...firewall }: Handover['firewalls'][number]): Promise<void> {
  await putFirewall(tx, firewall);
  await importRulesOf(tx, firewall.id, 'setup', { name: file, text: rules });
}

async function takeClient(tx: Queryable, secrets: SecretStore, client: Handover['clients'][number]): Promise<void> {
  await secrets.keep(tx, keyOf(client.applicationId), client.privateKeyPem, null);
  await setClientCertificate(tx, client.applicationId, await kept(tx, client.certificatePem));
  const readAt = new Date().toISOString();
  await noteReading(tx, client.applicationId, {
    source: 'reported',
    by: 'the handover',
    readAt,
    fault: null,
    lists: noLists,
  });
  const lists = { ...noLists, trusted: client.trustedPem.map(derIn), trustedCrls: client.crlsPem.map(derIn) };
  await replaceLists(tx, client.applicationId, lists, { actor: 'setup', says: 'Taken over at the beginning.' });
}

async function takeWay(tx: Queryable, secrets: SecretStore, given: Handover['ways'][number]): Promise<void> {
  const { applicationId } = given;
  if (given.way === 'files')
    return setWay(tx, { applicationId, way: 'files', clientId: null, endpointUrl: null, userName: null });
  const { clientId, endpointUrl, userName, password, restarts } = given;
  await setWay(tx, { applicationId, way: 'push', clientId, endpointUrl, userName });
  await noteRestarts(tx, applicationId, restarts);
  await secrets.keep(tx, passwordOf(pushLinkId(applicationId)), password, null);
}

async function takeAuthority(tx: Queryable, secrets: SecretStore, given: Handover['authority']): Promise<void> {
  await takeOverAuthority(tx, secrets, {
    certificate: derIn(given.formerCertificatePem),
    encryptedKeyPem: null,
    crl: null,
    revoked: [],
    isCurrent: false,
  });
  await takeOverAuthority(tx, secrets, {
    certificate: derIn(given.certificatePem),
    encryptedKeyPem: given.encryptedKeyPem,
    crl: derIn(given.crlPem),
    revoked: given.revoked,
    isCurrent: true,
  });
}

async function kept(tx: Queryable, pem: string): Promise<string> {
  const thumbprint = await keepCertificate(tx, derIn(pem));
  if (!thumbprint) throw new Error('the handover holds a certificate that can’t be read');
  return thumbprint;
}

function derIn(pem: string): Uint8Array {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  if (!der) throw new Error('the handover holds a PEM text that can’t be read');
  return der;
}
