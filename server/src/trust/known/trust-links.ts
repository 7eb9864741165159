import { endpointUrlParts, judgeEndpointUrl, stepPosition } from '@loyal-hinge/core';
import type { TrustLink } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { allVerdicts } from '../../facts/store.js';
import { readUaLinkEnds } from '../../plant/part.js';
import { pushLink } from '../lists/push-link.js';
import type { KeptWay } from '../lists/ways.js';

/** Some links, or all, as far as trust is concerned. */
export async function readTrustLinks(
  db: Queryable,
  linkIds?: readonly string[],
): Promise<ReadonlyMap<string, TrustLink>> {
  const [links, verdicts] = await Promise.all([readUaLinkEnds(db, linkIds), allVerdicts(db, linkIds)]);
  return new Map(
    links.map(({ id, kind, name, clientId, serverId, endpointUrl }) => {
      const { flaws, parts } = judgeEndpointUrl(endpointUrl);
      const ofCertificate = verdicts.get(id)?.[stepPosition(kind, 'server-certificate')];
      const host = flaws.length > 0 ? null : (parts?.host ?? null);
      return [id, { linkId: id, name, clientId, serverId, host, secured: ofCertificate !== 'not-needed' }];
    }),
  );
}

/** The product’s own access is a need like any other: a plan must not cut it off. null: the product has none. */
export function pushTrustLink(way: KeptWay | undefined, serverName: string): TrustLink | null {
  const link = way ? pushLink(way, serverName) : null;
  if (!link) return null;
  const { id: linkId, name, clientId, serverId, endpointUrl } = link;
  return { linkId, name, clientId, serverId, host: endpointUrlParts(endpointUrl)?.host ?? null, secured: true };
}
