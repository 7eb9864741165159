import * as z from 'zod';
import { conduit, machineFiles, originWish, plant, plantService } from '@loyal-hinge/contract';
import { revocationReasons } from '@loyal-hinge/core';

/** What the stand-ins hand over: the made-up plant, and the keys, lists and passwords that its engineer would have. */
export const handover = z.object({
  plant,
  range: z.string(),
  nameServer: z.string(),
  clients: z.array(
    z.object({
      applicationId: z.string(),
      privateKeyPem: z.string(),
      certificatePem: z.string(),
      trustedPem: z.array(z.string()),
      crlsPem: z.array(z.string()),
    }),
  ),
  userCertificates: z.array(z.object({ name: z.string(), privateKeyPem: z.string(), certificatePem: z.string() })),
  passwords: z.array(z.object({ linkId: z.string(), password: z.string() })),
  ways: z.array(
    z.discriminatedUnion('way', [
      z.object({
        applicationId: z.string(),
        way: z.literal('push'),
        clientId: z.string(),
        endpointUrl: z.string(),
        userName: z.string(),
        password: z.string(),
        restarts: z.boolean(),
      }),
      z.object({ applicationId: z.string(), way: z.literal('files') }),
    ]),
  ),
  /** Exports that somebody brought from machines. */
  exports: z.array(machineFiles.extend({ machineId: z.string() })),
  firewalls: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      machineId: z.string().nullable(),
      interfaces: z.array(z.object({ name: z.string(), zoneId: z.string() })),
      file: z.string(),
      rules: z.string(),
    }),
  ),
  conduits: z.array(conduit),
  services: z.array(plantService),
  origins: z.array(originWish.extend({ serverId: z.string() })),
  authority: z.object({
    certificatePem: z.string(),
    encryptedKeyPem: z.string(),
    formerCertificatePem: z.string(),
    crlPem: z.string(),
    revoked: z.array(
      z.object({
        serialNumber: z.string(),
        since: z.string(),
        reason: z.enum(revocationReasons.filter((reason) => reason !== null)),
      }),
    ),
  }),
});
export type Handover = z.infer<typeof handover>;
