import { X509Certificate, createPrivateKey, createPublicKey } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { algorithmOf, importPrivateKey, makeSigningRequest } from '@loyal-hinge/core/issuing';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import type { Application, Certificate } from '@loyal-hinge/core';
import { commonName, organizationIn, readCertificate, renewedForDays } from '@loyal-hinge/core';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { keyOf } from '../../secrets/sealing.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { conflict, notFound } from '../../http/problems.js';
import { knownApplication } from '../../plant/known-application.js';
import type { AuthoritySigning, Signed } from './signing.js';
import type { Carried } from '../../orders/port.js';
import type { TrustCarrier } from '../push/carrier.js';
import type { PushDesk } from '../push/desk.js';
import type { PushManagement } from '../../ua/push-management.js';
import {
  allCertificates,
  clientCertificateOf,
  findCertificate,
  noteShown,
  setClientCertificate,
} from '../../certificates/store.js';
import { wayOf } from '../lists/ways.js';

const comesBackWithinMs = 45_000;
const lookAgainMs = 1000;

/** Gives applications certificates that an authority of the plant signs, with the key that they have. */
export class CertificateRenewal {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly desk: PushDesk,
    private readonly carrier: TrustCarrier,
    private readonly signing: AuthoritySigning,
  ) {}

  async renew(
    applicationId: string,
    authority: string,
    passphrase: string,
    actor: string,
    forLine: string,
  ): Promise<Carried> {
    const application = await knownApplication(this.db, applicationId);
    const sign = (request: Uint8Array): Promise<Signed> =>
      this.signing.sign(
        authority,
        request,
        application.applicationUri,
        applicationId,
        renewedForDays,
        passphrase,
        actor,
        forLine,
      );
    if (application.kind === 'client') {
      const { thumbprint } = await sign(await this.requestOfHeld(application));
      return this.showHeld(application, thumbprint, actor);
    }
    if ((await wayOf(this.db, applicationId))?.way === 'push') return this.renewOverPush(application, sign);
    throw conflict(
      `${application.name} can’t be given a certificate from here.`,
      'Have it create a request, and issue from that.',
    );
  }

  /** A request with the key that an application has, for the names that it has. */
  async requestOf(application: Application): Promise<Uint8Array> {
    if (application.kind === 'client') return this.requestOfHeld(application);
    if ((await wayOf(this.db, application.id))?.way === 'push')
      return this.desk.with(application.id, (push) => push.createSigningRequest(false));
    throw conflict(
      `${application.name} can’t be asked for a request from here.`,
      'Have it create one itself, and take that to where the authority’s key is kept.',
    );
  }

  /** Gives an application a certificate that exists already, for the key that it has. */
  async install(applicationId: string, thumbprint: string, actor: string): Promise<Carried> {
    const [application, found] = await Promise.all([
      knownApplication(this.db, applicationId),
      findCertificate(this.db, thumbprint),
    ]);
    if (!found) throw notFound('certificate', thumbprint);
    if (application.kind === 'client') return this.showHeld(application, thumbprint, actor);
    const issuers = (await allCertificates(this.db)).filter((issuer) => hasSigned(issuer, found.certificate));
    await this.desk.with(applicationId, (push) =>
      give(
        push,
        found.der,
        issuers.map(({ der }) => der),
      ),
    );
    return this.shows(application, thumbprint);
  }

  private async requestOfHeld(application: Application): Promise<Uint8Array> {
    const [key, present] = await Promise.all([
      this.secrets.findFor(this.db, keyOf(application.id), { applicationUri: application.applicationUri }),
      clientCertificateOf(this.db, application.id),
    ]);
    const read = present ? readCertificate(present) : null;
    if (!key || !('secret' in key) || !read?.ok)
      throw conflict(`No key of ${application.name} is stored here.`, 'Give it one on the Settings page first.');
    const { subject, dnsNames, ipAddresses } = read.certificate.summary;
    return requestWith(key.secret, application, subject, [...dnsNames, ...ipAddresses]);
  }

  private async showHeld(application: Application, thumbprint: string, actor: string): Promise<Carried> {
    await this.db.transaction(async (tx) => {
      const action = 'client identity renewed';
      await appendAudit(tx, { actor, action, subject: application.id, details: { thumbprint } });
      await setClientCertificate(tx, application.id, thumbprint);
    });
    return {
      says: `It shows the new certificate ${thumbprint} from now on, with the key that it had.`,
      restarted: false,
    };
  }

  private async renewOverPush(
    application: Application,
    sign: (request: Uint8Array) => Promise<Signed>,
  ): Promise<Carried> {
    const signed = await this.desk.with(application.id, async (push) => {
      const made = await sign(await push.createSigningRequest(false));
      await give(push, made.certificate, [made.issuer]);
      return made;
    });
    return this.shows(application, signed.thumbprint);
  }

  private async shows(application: Application, thumbprint: string): Promise<Carried> {
    await noteShown(this.db, application.id, thumbprint);
    await this.waitUntilBack(application);
    return {
      says: `It was given the certificate ${thumbprint} over push management, was restarted for it, and answers with it.`,
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

/** Gives a certificate over push management; what was given and not applied is taken back. */
async function give(push: PushManagement, certificate: Uint8Array, issuers: readonly Uint8Array[]): Promise<void> {
  try {
    if (await push.updateCertificate(certificate, issuers)) await push.applyChanges();
  } catch (error) {
    await push.cancelChanges();
    throw error;
  }
}

const hasSigned = (issuer: Certificate, certificate: Certificate): boolean =>
  issuer.isAuthority &&
  issuer.subject.equals(certificate.issuer) &&
  new X509Certificate(certificate.der).verify(new X509Certificate(issuer.der).publicKey);

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
  const organization = organizationIn(subject);
  return makeSigningRequest({
    subject: { commonName: commonName(subject), organization },
    applicationUri: application.applicationUri,
    hosts,
    kind,
    keys,
  });
}
