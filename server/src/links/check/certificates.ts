import { readCertificate, securityPolicyOf, validateCertificate } from '@loyal-hinge/core';
import type { CertificateValidation, EndpointDescription, EndpointUrlParts } from '@loyal-hinge/core';
import type { SeenEndpoint } from '../../ua/connection.js';
import type { Walk } from './walk.js';

export async function validateServer(walk: Walk, chosen: SeenEndpoint, parts: EndpointUrlParts): Promise<boolean> {
  if (chosen.description.securityMode === 'None') return true;
  walk.begin('server-certificate', 'the server’s certificate');
  const validation = chosen.certificate
    ? await validateCertificate({
        certificate: chosen.certificate,
        sentIssuers: chosen.issuers,
        trustList: walk.means.clientTrust,
        at: new Date().toISOString(),
        applicationUri: chosen.description.applicationUri,
        host: parts.host,
        policy: securityPolicyOf(chosen.description.securityPolicyUri),
        crlsDemanded: walk.means.crlsDemanded,
        warnDays: walk.means.limits.warnDays,
        waivers: walk.means.waivers.client,
      })
    : noServerCertificate;
  walk.log.note({ kind: 'certificate-validation', of: 'server', validation }, 'reckoned');
  return validation.status === 'Good';
}

export async function lookIntoServerLists(walk: Walk, endpoint: EndpointDescription): Promise<void> {
  const { credentials, readServerLists } = walk.means;
  if (!readServerLists || !credentials || endpoint.securityMode === 'None') return;
  walk.begin('client-certificate', 'the server’s lists');
  const lists = await readServerLists(walk.signal).catch(() => null);
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
