import { readCertificate } from '@loyal-hinge/core';
import type { Application } from '@loyal-hinge/core';
import {
  exportKey,
  freshSerialNumber,
  issueApplicationCertificate,
  makeKeys,
  makeSigningRequest,
} from '@loyal-hinge/core/issuing';
import type { ClientIdentity, ClientIdentityView } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { keyOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { EventLog } from '../events/event-log.js';
import { notFound } from '../http/problems.js';
import { findApplication } from '../plant/part.js';
import { readPlant } from '../plant/store.js';
import type { AuthoritySigning } from '../trust/authorities/signing.js';
import { faulty, keyedAsIssued, keyedInPem, keyedInPkcs12, validFor } from '../certificates/given-key.js';
import type { Keyed } from '../certificates/given-key.js';
import { clientCertificateOf, keepCertificate, setClientCertificate } from '../certificates/store.js';

type Wish<By extends ClientIdentity['by']> = Extract<ClientIdentity, { readonly by: By }>;

/** The certificates and keys with which the product acts as the plant’s clients. */
export class Identities {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly signing: Pick<AuthoritySigning, 'sign'>,
    private readonly events: EventLog,
    /** The server that a client is at the same time, with the same certificate; null: it is none. */
    private readonly serverOf: (clientId: string) => Promise<string | null>,
  ) {}

  async all(): Promise<ClientIdentityView[]> {
    const { applications } = await readPlant(this.db, []);
    return Promise.all(
      applications
        .filter(({ kind, speaks }) => kind === 'client' && speaks !== 'classic')
        .map((client) => this.view(client)),
    );
  }

  async give(applicationId: string, wish: ClientIdentity, actor: string): Promise<ClientIdentityView> {
    const client = await findApplication(this.db, applicationId);
    if (client?.kind !== 'client') throw notFound('client application', applicationId);
    const { certificate, privateKeyPem, others } = await this.keyed(client, wish, actor);
    const { thumbprint, summary } = certificate;
    const serverId = await this.serverOf(client.id);
    if (!summary.applicationUris.includes(client.applicationUri)) throw otherUri(wish, client, summary.applicationUris);
    await this.db.transaction(async (tx) => {
      const details = { thumbprint, subject: summary.subject, by: wish.by };
      await appendAudit(tx, { actor, action: 'client identity set', subject: client.id, details });
      for (const { der } of [certificate, ...others]) await keepCertificate(tx, der);
      for (const id of [client.id, ...(serverId === null ? [] : [serverId])])
        await setClientCertificate(tx, id, thumbprint);
      await this.secrets.keep(tx, keyOf(client.id), privateKeyPem, { applicationUri: client.applicationUri });
    });
    for (const id of [client.id, ...(serverId === null ? [] : [serverId])])
      await this.events.tell({ kind: 'trust-changed', applicationId: id });
    return this.view(client);
  }

  private keyed(client: Application, wish: ClientIdentity, actor: string): Keyed | Promise<Keyed> {
    switch (wish.by) {
      case 'pem':
        return keyedInPem(wish);
      case 'pkcs12':
        return keyedInPkcs12(wish);
      case 'making':
        return this.made(client, wish, actor);
    }
  }

  private async made(client: Application, wish: Wish<'making'>, actor: string): Promise<Keyed> {
    const keys = await makeKeys(wish.keyKind);
    const subject = { commonName: wish.commonName, organization: wish.organization };
    const { applicationUri } = client;
    const names = { subject, applicationUri, hosts: wish.hosts };
    const der = wish.authority
      ? await this.signing
          .sign(
            wish.authority.thumbprint,
            await makeSigningRequest({ ...names, kind: wish.keyKind, keys }),
            applicationUri,
            client.id,
            wish.validDays,
            wish.authority.passphrase,
            actor,
          )
          .then((signed) => signed.certificate)
      : await issueApplicationCertificate(
          {
            ...names,
            publicKey: await exportKey('spki', keys.publicKey),
            serialNumber: freshSerialNumber(),
            ...validFor(wish.validDays),
          },
          { kind: wish.keyKind, privateKey: keys.privateKey, certificate: null },
        );
    return keyedAsIssued(der, keys.privateKey);
  }

  private async view(client: { readonly id: string; readonly name: string }): Promise<ClientIdentityView> {
    const der = await clientCertificateOf(this.db, client.id);
    const read = der ? readCertificate(der) : null;
    const summary = read?.ok ? read.certificate.summary : null;
    return {
      applicationId: client.id,
      application: client.name,
      thumbprint: summary?.thumbprint ?? null,
      subject: summary?.subject ?? null,
      notAfter: summary?.notAfter ?? null,
    };
  }
}

function otherUri({ by }: ClientIdentity, client: Application, found: readonly string[]) {
  const place = by === 'pkcs12' ? 'base64' : 'certificatePem';
  return faulty(
    place,
    `The certificate is for ${found.join(', ') || 'no application URI'}, and the plant knows ${client.name} as ${client.applicationUri}: every server would refuse it.`,
  );
}
