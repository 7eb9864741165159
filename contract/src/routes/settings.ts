import * as z from 'zod';
import { plantSettings } from '../settings.js';
import { clientIdentity, clientIdentityView } from '../identities.js';
import { ownCertificate, ownCertificateRequest, ownCertificateState } from '../own-certificate.js';
import { waits } from '../proposals.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** How the plant is dialled, and as whom. */
export const settingsRoutes = {
  settings: route(at.settings, {
    summary: 'How the plant is dialled',
    role: 'viewer',
    answer: plantSettings,
  }),
  putSettings: route(at.putSettings, {
    summary: 'Sets how the plant is dialled',
    role: 'administrator',
    body: plantSettings,
    /** One rule alone is not let go by one person where it holds: that waits as a proposal. */
    answer: plantSettings.extend(waits.shape),
  }),
  identities: route(at.identities, {
    summary: 'Which clients have a certificate and key here',
    role: 'viewer',
    answer: z.object({ identities: z.array(clientIdentityView) }),
  }),
  putIdentity: route(at.putIdentity, {
    summary: 'Gives a client its certificate and key',
    role: 'engineer',
    body: clientIdentity,
    answer: clientIdentityView,
  }),
  ownCertificate: route(at.ownCertificate, {
    summary: 'The certificate by which this server itself is reached over TLS',
    role: 'administrator',
    answer: ownCertificateState,
  }),
  requestOwnCertificate: route(at.requestOwnCertificate, {
    summary: 'A request (PKCS#10) for it, to be signed elsewhere',
    role: 'administrator',
    body: ownCertificateRequest,
    answer: z.object({ requestPem: z.string() }),
  }),
  putOwnCertificate: route(at.putOwnCertificate, {
    summary: 'Takes another one at once: signed by an authority of the plant, or given',
    role: 'administrator',
    body: ownCertificate,
    answer: ownCertificateState,
  }),
};
