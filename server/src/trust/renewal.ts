import { createPrivateKey, createPublicKey } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { algorithmOf, importPrivateKey, makeSigningRequest } from '@loyal-hinge/core/issuing';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import type { Application } from '@loyal-hinge/core';
import { commonName, readCertificate } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { keyOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { conflict, notFound } from '../http/problems.js';
import { readPlant } from '../plant/store.js';
import type { Authorities, Signed } from './authority.js';
import type { Carried, TrustCarrier } from './carrier.js';
import type { PushDesk } from './push-desk.js';
import { clientCertificateOf, noteShown, setClientCertificate, wayOf } from './store.js';

const validDays = 730;
const comesBackWithinMs = 45_000;
const lookAgainMs = 1000;

/** Gives applications certificates that an authority of the plant signs, with the key that they have. */
export class CertificateRenewal {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly desk: PushDesk,
    private readonly carrier: TrustCarrier,
    private readonly authorities: Authorities,
  ) {}

  async renew(applicationId: string, authority: string, passphrase: string, actor: string): Promise<Carried> {
    const { applications } = await readPlant(this.db);
    const application = applications.find(({ id }) => id === applicationId);
    if (!application) throw notFound('application', applicationId);
    const sign = (request: Uint8Array): Promise<Signed> =>
      this.authorities.sign(
        authority,
        request,
        application.applicationUri,
        applicationId,
        validDays,
        passphrase,
        actor,
      );
    if (application.kind === 'client') return this.renewHeld(application, sign, actor);
    if ((await wayOf(this.db, applicationId))?.way === 'push') return this.renewOverPush(application, sign);
    throw conflict(
      `${application.name} can’t be given a certificate from here.`,
      'Have it make a request, and issue from that.',
    );
  }

  private async renewHeld(
    application: Application,
    sign: (request: Uint8Array) => Promise<Signed>,
    actor: string,
  ): Promise<Carried> {
    const [pem, present] = await Promise.all([
      this.secrets.find(this.db, keyOf(application.id)),
      clientCertificateOf(this.db, application.id),
    ]);
    const read = present ? readCertificate(present) : null;
    if (!pem || !read?.ok)
      throw conflict(`No key of ${application.name} is kept here.`, 'Give it one on the Settings page first.');
    const { summary } = read.certificate;
    const signed = await sign(
      await requestWith(pem, application, summary.subject, [...summary.dnsNames, ...summary.ipAddresses]),
    );
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor,
        action: 'client identity renewed',
        subject: application.id,
        details: { thumbprint: signed.thumbprint },
      });
      await setClientCertificate(tx, application.id, signed.thumbprint);
    });
    return {
      says: `It shows the new certificate ${signed.thumbprint} from now on, with the key that it had.`,
      restarted: false,
    };
  }

  private async renewOverPush(
    application: Application,
    sign: (request: Uint8Array) => Promise<Signed>,
  ): Promise<Carried> {
    const signed = await this.desk.with(application.id, async (push) => {
      const made = await sign(await push.createSigningRequest(false));
      try {
        if (await push.updateCertificate(made.certificate, [made.issuer])) await push.applyChanges();
      } catch (error) {
        await push.cancelChanges();
        throw error;
      }
      return made;
    });
    await noteShown(this.db, application.id, signed.thumbprint);
    await this.waitUntilBack(application);
    return {
      says: `It was given the certificate ${signed.thumbprint} over push management, was restarted for it, and answers with it.`,
      restarted: true,
    };
  }

  /** It answers again when an administrator’s session opens on it, which takes its new certificate to be trusted. */
  private async waitUntilBack(application: Application): Promise<void> {
    const until = Date.now() + comesBackWithinMs;
    for (;;) {
      await pause(lookAgainMs);
      try {
        await this.carrier.read(application.id, 'renewal');
        return;
      } catch (error) {
        if (Date.now() > until) throw error;
      }
    }
  }
}

/** A request with a key that is kept here, for the names that the application has. */
async function requestWith(
  pem: string,
  application: Application,
  subject: string,
  hosts: readonly string[],
): Promise<Uint8Array> {
  const key = createPrivateKey(pem);
  const kind: KeyKind =
    key.asymmetricKeyType === 'ec' ? 'P-256' : (`RSA ${key.asymmetricKeyDetails?.modulusLength ?? 2048}` as KeyKind);
  const spki = createPublicKey(key).export({ type: 'spki', format: 'der' });
  const keys = {
    privateKey: await importPrivateKey(kind, key.export({ type: 'pkcs8', format: 'der' })),
    publicKey: await crypto.subtle.importKey('spki', spki, algorithmOf(kind), true, ['verify']),
  };
  const organization = /(?:^|,\s*)O=((?:\\.|[^,\\])+)/.exec(subject)?.[1]?.replaceAll('\\', '') ?? '';
  return makeSigningRequest({
    subject: { commonName: commonName(subject), organization },
    applicationUri: application.applicationUri,
    hosts,
    kind,
    keys,
  });
}
