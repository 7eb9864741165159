import { readCertificate, securityPolicyOf, validateCertificate } from '@loyal-hinge/core';
import type { CertificateValidation, EndpointDescription, EndpointUrlParts } from '@loyal-hinge/core';
import type { SeenEndpoint } from '../ua/connection.js';
import type { ServerLists } from './means.js';
import type { Walk } from './walk.js';

export async function validateServer(walk: Walk, chosen: SeenEndpoint, parts: EndpointUrlParts): Promise<boolean> {
  if (chosen.description.securityMode === 'None') return true;
  walk.begin('server-certificate', 'the server’s certificate');
  const { certificate } = chosen;
  const validation = certificate
    ? await validateShown(walk, { ...chosen, certificate }, parts.host)
    : noServerCertificate;
  walk.log.note({ kind: 'certificate-validation', of: 'server', validation }, 'reckoned');
  return validation.status === 'Good';
}

/**
 * Validates the certificate that an endpoint shows as the client would.
 * @param host the host of the URL, which the certificate must name
 */
export const validateShown = (
  walk: Walk,
  { description, certificate, issuers }: SeenEndpoint & { readonly certificate: Uint8Array },
  host: string,
): Promise<CertificateValidation> =>
  validateCertificate({
    certificate,
    sentIssuers: issuers,
    trustList: walk.means.clientTrust,
    at: new Date().toISOString(),
    applicationUri: description.applicationUri,
    host,
    policy: securityPolicyOf(description.securityPolicyUri),
    crlsDemanded: walk.means.crlsDemanded,
    warnDays: walk.means.limits.warnDays,
    waivers: walk.means.waivers.client,
  });

/**
 * Validates the client’s certificate against the server’s lists: read live where the channel was refused and there is a
 * way to them, and otherwise as they are known.
 */
export async function validateClient(walk: Walk, endpoint: EndpointDescription, isRefused: boolean): Promise<void> {
  const { credentials } = walk.means;
  if (!credentials || endpoint.securityMode === 'None') return;
  walk.begin('client-certificate', 'the server’s lists');
  if (isRefused && walk.means.changeMade) walk.log.note({ kind: 'change-made', ...walk.means.changeMade }, 'reported');
  const lists = (isRefused ? await readLive(walk) : null) ?? walk.means.knownServerLists;
  if (!lists) return;
  const own = Buffer.from(credentials.certificate);
  const { thumbprint } = ownCertificate(credentials.certificate);
  for (const list of ['trusted', 'issuers', 'rejected'] as const)
    if (lists[list].some((der) => own.equals(der)))
      walk.log.note(
        {
          kind: 'listed-certificate',
          list,
          thumbprint,
          since: list === 'rejected' ? lists.rejectedSince(credentials.certificate) : null,
          by: lists.by,
        },
        'reported',
      );
  walk.log.keep(credentials.certificate);
  const validation = await validateCertificate({
    certificate: credentials.certificate,
    sentIssuers: [],
    trustList: { trusted: lists.trusted, issuers: lists.issuers, crls: lists.crls },
    at: new Date().toISOString(),
    applicationUri: credentials.applicationUri,
    host: null,
    policy: securityPolicyOf(endpoint.securityPolicyUri),
    crlsDemanded: walk.means.crlsDemanded,
    warnDays: walk.means.limits.warnDays,
    waivers: walk.means.waivers.server,
  });
  walk.log.note({ kind: 'certificate-validation', of: 'client', validation }, 'reckoned');
}

async function readLive(walk: Walk): Promise<ServerLists | null> {
  if (!walk.means.readServerLists) return null;
  try {
    return await walk.means.readServerLists(walk.signal);
  } catch (error) {
    walk.signal.throwIfAborted();
    walk.log.note({ kind: 'lists-unread', reason: error instanceof Error ? error.message : 'no reason was given.' });
    return null;
  }
}

function ownCertificate(der: Uint8Array): { readonly thumbprint: string } {
  const read = readCertificate(der);
  return { thumbprint: read.ok ? read.certificate.thumbprint : '' };
}

const noServerCertificate: CertificateValidation = {
  status: 'BadCertificateInvalid',
  certificate: null,
  steps: [],
  problems: [
    {
      kind: 'cert-malformed',
      status: 'BadCertificateInvalid',
      subject: '',
      thumbprint: null,
      says: 'The endpoint is secured, and the server shows no certificate with it.',
    },
  ],
  path: [],
};
