import { asc, eq, sql } from 'drizzle-orm';
import { listed, shownCertificateOf, subjectCriteria, trustsUser } from '@loyal-hinge/core';
import { exportKey, freshSerialNumber, issueUserCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import type { UserCertificateGift, UserCertificateView } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { keyedAsIssued, keyedInPem, keyedInPkcs12, validFor } from '../certificates/given-key.js';
import type { Keyed } from '../certificates/given-key.js';
import type { Database, Queryable } from '../database/database.js';
import { applications, links } from '../database/schema.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, notFound } from '../http/problems.js';
import type { SecretStore } from '../secrets/sealing.js';
import { forgetUserCertificate, keepUserCertificate, keptUserCertificates } from './certificates/store.js';
import { seenAccess } from './store.js';

const nameIn = sql<string>`${links.identity}->>'certificate'`;

/** The certificates with which links sign in as users, by the names that they have in the plant. */
export class UserCertificates {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly events: EventLog,
  ) {}

  /** Those that are kept, and those that links name and nobody gave yet. */
  async all(): Promise<UserCertificateView[]> {
    const [kept, seen, servers, used] = await Promise.all([
      keptUserCertificates(this.db),
      seenAccess(this.db),
      this.db
        .select({ id: applications.id, name: applications.name })
        .from(applications)
        .where(eq(applications.kind, 'server'))
        .orderBy(asc(applications.name)),
      this.db
        .select({ name: nameIn, id: links.id, link: links.name })
        .from(links)
        .where(eq(sql`${links.identity}->>'kind'`, 'certificate'))
        .orderBy(asc(links.name)),
    ]);
    const byName = new Map(kept.map((one) => [one.name, one]));
    const names = [...new Set([...byName.keys(), ...used.map(({ name }) => name)])].sort();
    return names.map((name) => {
      const one = byName.get(name);
      return {
        name,
        certificate: one
          ? {
              thumbprint: one.certificate.thumbprint,
              subject: one.certificate.summary.subject,
              criteria: subjectCriteria(one.certificate.subject),
              issuer: one.certificate.summary.issuer,
              notBefore: one.certificate.summary.notBefore,
              notAfter: one.certificate.summary.notAfter,
            }
          : null,
        trustedBy: one
          ? servers.filter(({ id }) => {
              const access = seen.get(id)?.access;
              return access && trustsUser(access, shownCertificateOf(one.certificate, one.above)) === true;
            })
          : [],
        setAt: one?.setAt ?? null,
        setBy: one?.setBy ?? null,
        links: used.filter((link) => link.name === name).map(({ id, link }) => ({ id, name: link })),
      };
    });
  }

  /** @throws a problem where what was given can’t be read or does not belong together */
  async give(name: string, gift: UserCertificateGift, actor: string): Promise<UserCertificateView> {
    const keyed = await keyedBy(gift);
    const { thumbprint, summary } = keyed.certificate;
    await this.db.transaction(async (tx) => {
      const details = { thumbprint, subject: summary.subject, by: gift.by };
      await appendAudit(tx, { actor, action: 'user certificate set', subject: name, details });
      await keepUserCertificate(tx, this.secrets, name, keyed, actor);
    });
    await this.tell();
    return this.view(name);
  }

  /** @throws a problem where links still sign in with it */
  async forget(name: string, actor: string): Promise<void> {
    await this.db.transaction(async (tx) => {
      const using = await linksWith(tx, name);
      if (using.length > 0)
        throw conflict(
          `${listed(using)} ${using.length === 1 ? 'signs' : 'sign'} in with it.`,
          'Let them sign in otherwise first, on the Plant page.',
        );
      const thumbprint = await forgetUserCertificate(tx, this.secrets, name);
      if (thumbprint === null) throw notFound('user certificate', name);
      await appendAudit(tx, { actor, action: 'user certificate forgotten', subject: name, details: { thumbprint } });
    });
    await this.tell();
  }

  private async view(name: string): Promise<UserCertificateView> {
    const found = (await this.all()).find((one) => one.name === name);
    if (!found) throw notFound('user certificate', name);
    return found;
  }

  /** Of all servers: roles hang on it at whichever links sign in with it. */
  private async tell(): Promise<void> {
    await this.events.tell({ kind: 'accounts-changed', serverId: '' });
  }
}

const mostNamed = 5;

async function linksWith(db: Queryable, name: string): Promise<readonly string[]> {
  const rows = await db
    .select({ name: links.name })
    .from(links)
    .where(eq(nameIn, name))
    .orderBy(asc(links.name))
    .limit(mostNamed);
  return rows.map((link) => link.name);
}

function keyedBy(gift: UserCertificateGift): Keyed | Promise<Keyed> {
  switch (gift.by) {
    case 'pem':
      return keyedInPem(gift);
    case 'pkcs12':
      return keyedInPkcs12(gift);
    case 'making':
      return made(gift);
  }
}

async function made({
  commonName,
  organization,
  keyKind,
  validDays,
}: Extract<UserCertificateGift, { readonly by: 'making' }>): Promise<Keyed> {
  const keys = await makeKeys(keyKind);
  const der = await issueUserCertificate(
    {
      subject: { commonName, organization },
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      ...validFor(validDays),
    },
    { kind: keyKind, privateKey: keys.privateKey, certificate: null },
  );
  return keyedAsIssued(der, keys.privateKey);
}
