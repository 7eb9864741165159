import { createHash } from 'node:crypto';
import { chooseEndpoint, floorFor, tunnelTargetOf, wishOf, writePem } from '@loyal-hinge/core';
import type { LinkInPlant } from '@loyal-hinge/core';
import type { FromServer, GatewayConfiguration } from '@loyal-hinge/contract/line';
import { passwordLine } from '@loyal-hinge/outpost';
import type { Database, Queryable } from '../database/database.js';
import { clientCertificateOf } from '../certificates/store.js';
import { exceptionsInForce, plantFloorOf } from '../entry/floor/store.js';
import { knownEndpoints } from '../facts/endpoints.js';
import { passwordFor } from '../means/kept-passwords.js';
import { revisionOf } from '../outposts/revision.js';
import { keyOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import { trustListOf } from '../trust/lists/store.js';
import { knownTunnels, tunnelOfLink } from '../tunnels/known.js';
import { configurationOf, gatewayFiles, passwordFile, readerFile } from './configured.js';
import type { PlannedReader, PlannedSource } from './configured.js';
import type { KnownGateway } from './store.js';

/** All that a gateway shall hold, and what of it could not be told. */
export interface Planned {
  readonly sources: readonly PlannedSource[];
  readonly readers: readonly PlannedReader[];
  readonly configuration: GatewayConfiguration | null;
  readonly revision: string;
  readonly files: Readonly<Record<string, string>>;
  /** Whether the client that the gateway is has a certificate and a key; without, it can hold nothing. */
  readonly hasIdentity: boolean;
}

export class GatewayPlanning {
  /** Lines of passwords by a mark of salt and password: making one takes a while. */
  private readonly lines = new Map<string, string>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
  ) {}

  async plan(known: KnownGateway): Promise<Planned> {
    const { db } = this;
    const { client, server } = known;
    const [certificate, key, own, faces, sources, readers] = await Promise.all([
      clientCertificateOf(db, client.id),
      this.secrets.findFor(db, keyOf(client.id), { applicationUri: client.applicationUri }),
      trustListOf(db, client.id),
      trustListOf(db, server.id),
      this.sourcesOf(known),
      Promise.all(known.readers.map((subject) => this.readerOf(known.outpost.id, subject))),
    ]);
    const privateKey = key && 'secret' in key ? key.secret : null;
    const hasIdentity = certificate !== null && privateKey !== null;
    const parts = {
      trusted: pemOf('CERTIFICATE', [...own.trusted, ...faces.trusted]),
      issuers: pemOf('CERTIFICATE', [...own.issuers, ...faces.issuers]),
      crls: pemOf('X509 CRL', [...own.crls, ...faces.crls]),
    };
    const configuration = hasIdentity
      ? configurationOf({
          known,
          sources,
          readers,
          hasTrusted: parts.trusted !== '',
          hasIssuers: parts.issuers !== '',
          hasCrls: parts.crls !== '',
        })
      : null;
    const files: Record<string, string> = {};
    if (configuration && certificate && privateKey !== null) {
      files[gatewayFiles.certificate] = pemOf('CERTIFICATE', [certificate]);
      files[gatewayFiles.key] = privateKey;
      for (const part of ['trusted', 'issuers', 'crls'] as const)
        if (parts[part] !== '') files[gatewayFiles[part]] = parts[part];
      for (const { subject, password } of sources)
        if (password !== null) files[passwordFile(subject.link.id)] = `${password}\n`;
      for (const { subject, password } of readers)
        if (password !== null) files[readerFile(subject.link.id)] = `${password}\n`;
    }
    return { sources, readers, configuration, files, hasIdentity, revision: revisionOf([configuration, files]) };
  }

  /** What a gateway is told. */
  async messageFor(known: KnownGateway): Promise<FromServer> {
    const { configuration, revision, files } = await this.plan(known);
    return { kind: 'hold-gateway', revision, configuration, files };
  }

  private async sourcesOf({ sources }: KnownGateway): Promise<readonly PlannedSource[]> {
    if (sources.length === 0) return [];
    const { db } = this;
    const serverIds = sources.map(({ server }) => server.id);
    const [seen, floor, exceptions, tunnels] = await Promise.all([
      knownEndpoints(db, serverIds),
      plantFloorOf(db),
      exceptionsInForce(db),
      knownTunnels(db),
    ]);
    const at = new Date().toISOString();
    return Promise.all(
      sources.map(async (subject) => {
        const { link, server } = subject;
        const held = floorFor({ linkId: link.id, serverId: server.id }, floor, exceptions, at).floor;
        const { chosen } = chooseEndpoint(seen.get(server.id)?.endpoints ?? [], wishOf(subject, held));
        const tunnel = tunnelOfLink(tunnels, link.id);
        return {
          subject,
          endpoint: chosen,
          password: await this.passwordOf(db, subject),
          at: tunnel?.way.entrance ?? tunnelTargetOf(subject),
        };
      }),
    );
  }

  private async readerOf(gatewayId: string, subject: LinkInPlant): Promise<PlannedReader> {
    const password = await this.passwordOf(this.db, subject);
    if (password === null) return { subject, passwordLine: null, password: null };
    // Made of no secret, and the same each time: otherwise its gateway would be told anew each time.
    const salt = createHash('sha256').update(`${gatewayId}\n${subject.link.id}`).digest().subarray(0, 16);
    const mark = createHash('sha256').update(salt).update(password).digest('hex');
    const line = this.lines.get(mark) ?? (await passwordLine(password, salt));
    this.lines.set(mark, line);
    return { subject, passwordLine: line, password: subject.link.kind === 'classic' ? password : null };
  }

  private async passwordOf(db: Queryable, subject: LinkInPlant): Promise<string | null> {
    if (subject.link.identity.kind !== 'user') return null;
    return (await passwordFor(db, this.secrets, subject)).password;
  }
}

/** Each once, in a settled order. */
function pemOf(label: string, ders: readonly Uint8Array[]): string {
  return [...new Set(ders.map((der) => writePem(label, der)))].sort().join('');
}
