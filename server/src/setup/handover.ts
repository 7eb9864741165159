import { z } from 'zod';
import { plant } from '@loyal-hinge/contract';
import { readPem } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { doorTokenOf, keyOf, passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { readPlant, writePlant, writeSetting } from '../plant/store.js';
import { keepCertificate, setClientCertificate, setDoor, trust } from '../trust/store.js';

/** What the stand-ins hand over: the made-up plant, and the keys, lists and passwords that its engineer would have. */
export const handover = z.object({
  plant,
  nameServer: z.string(),
  clients: z.array(
    z.object({
      applicationId: z.string(),
      privateKeyPem: z.string(),
      certificatePem: z.string(),
      trustedPem: z.array(z.string()),
    }),
  ),
  passwords: z.array(z.object({ linkId: z.string(), password: z.string() })),
  doors: z.array(z.object({ applicationId: z.string(), url: z.string(), token: z.string() })),
});
export type Handover = z.infer<typeof handover>;

export const demoRange = '127.41.0.0/16';

/** Seeds an empty installation; one that has a plant already is left as it is. */
export async function takeOver(db: Database, secrets: SecretStore, given: Handover): Promise<'seeded' | 'kept'> {
  const existing = await readPlant(db);
  if (existing.links.length > 0 || existing.machines.length > 0) return 'kept';
  await db.transaction(async (tx) => {
    await writePlant(tx, given.plant);
    await writeSetting(tx, 'nameServer', given.nameServer);
    await writeSetting(tx, 'declaredRanges', [demoRange]);
    await writeSetting(tx, 'dialFromClientAddress', true);
    for (const client of given.clients) await takeClient(tx, secrets, client);
    for (const { linkId, password } of given.passwords) await secrets.keep(tx, passwordOf(linkId), password);
    for (const { applicationId, url, token } of given.doors) {
      await setDoor(tx, applicationId, url);
      await secrets.keep(tx, doorTokenOf(applicationId), token);
      await writeSetting(tx, 'standInsUrl', new URL(url).origin);
    }
    await appendAudit(tx, {
      actor: 'setup',
      action: 'demo plant seeded',
      subject: given.plant.name,
      details: { links: given.plant.links.length },
    });
  });
  return 'seeded';
}

async function takeClient(tx: Queryable, secrets: SecretStore, client: Handover['clients'][number]): Promise<void> {
  await secrets.keep(tx, keyOf(client.applicationId), client.privateKeyPem);
  await setClientCertificate(tx, client.applicationId, await kept(tx, client.certificatePem));
  for (const pem of client.trustedPem) await trust(tx, client.applicationId, 'trusted', await kept(tx, pem));
}

async function kept(tx: Queryable, pem: string): Promise<string> {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  const thumbprint = der ? await keepCertificate(tx, der) : null;
  if (!thumbprint) throw new Error('the handover holds a certificate that can’t be read');
  return thumbprint;
}
