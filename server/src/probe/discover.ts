import { acceptsAll, chooseEndpoint, endpointUrlParts, wishOf } from '@loyal-hinge/core';
import type { EndpointUrlParts, EntryException } from '@loyal-hinge/core';
import { UaConnection } from '../ua/connection.js';
import type { SeenEndpoint } from '../ua/connection.js';
import type { Dial } from '../ua/dialling-transport.js';
import { connect, resolve } from './reach.js';
import type { Walk } from './walk.js';

export async function discover(
  walk: Walk,
  dial: Dial,
  parts: EndpointUrlParts,
): Promise<readonly SeenEndpoint[] | null> {
  walk.begin('endpoints', 'GetEndpoints');
  const begun = performance.now();
  const ms = (): number => Math.round(performance.now() - begun);
  const unsecured = {
    securityPolicyUri: 'http://opcfoundation.org/UA/SecurityPolicy#None',
    securityMode: 'None' as const,
    serverCertificate: null,
  };
  const opened = await UaConnection.open(dial, unsecured, null, walk.signal);
  if (!opened.ok) {
    walk.signal.throwIfAborted();
    walk.log.note({
      kind: 'endpoints',
      outcome: 'failed',
      code: opened.failure.code,
      reason: opened.failure.reason,
      ms: ms(),
    });
    return null;
  }
  try {
    const servers = await opened.value.findServers();
    walk.log.note({
      kind: 'servers',
      servers: servers.ok ? servers.value : [],
      failure: servers.ok ? null : servers.failure.code,
      ms: ms(),
    });
    const endpoints = await opened.value.getEndpoints();
    walk.signal.throwIfAborted();
    if (!endpoints.ok) {
      walk.log.note({
        kind: 'endpoints',
        outcome: 'failed',
        code: endpoints.failure.code,
        reason: endpoints.failure.reason,
        ms: ms(),
      });
      return null;
    }
    walk.log.note({
      kind: 'endpoints',
      outcome: 'listed',
      endpoints: endpoints.value.map((seen) => seen.description),
      ms: ms(),
    });
    if (walk.means.earlierCertificate)
      walk.log.note({ kind: 'earlier-server-certificate', certificate: walk.means.earlierCertificate }, 'reported');
    for (const seen of endpoints.value) if (seen.certificate) walk.log.keep(seen.certificate);
    const usable = await followAdvertised(walk, endpoints.value, parts);
    return usable ? endpoints.value : null;
  } finally {
    await opened.value.close();
  }
}

async function followAdvertised(
  walk: Walk,
  endpoints: readonly SeenEndpoint[],
  parts: EndpointUrlParts,
): Promise<boolean> {
  const places = new Map(
    endpoints.flatMap(({ description }) => {
      const advertised = endpointUrlParts(description.endpointUrl);
      return advertised ? [[`${advertised.host}:${advertised.port}`, advertised] as const] : [];
    }),
  );
  if ([...places.values()].some((place) => place.host === parts.host)) return true;
  let usable = false;
  for (const place of places.values()) {
    const [address] = await resolve(walk, place.host, 'advertised');
    if (address === undefined) continue;
    const socket = await connect(walk, address, place.port, 'advertised');
    socket?.destroy();
    usable ||= socket !== null;
  }
  return usable;
}

export function choose(walk: Walk, endpoints: readonly SeenEndpoint[]): SeenEndpoint | null {
  walk.begin('policy', 'the choice of an endpoint');
  const { floor, exception } = walk.means.floor;
  if (!acceptsAll(floor) || exception)
    walk.log.note(
      { kind: 'entry-floor', floor, exception: exception && { ...saidOf(exception), instead: walk.means.plantFloor } },
      'reckoned',
    );
  const { chosen } = chooseEndpoint(
    endpoints.map((seen) => seen.description),
    wishOf(walk.subject, floor),
  );
  return endpoints.find((seen) => seen.description === chosen) ?? null;
}

const saidOf = ({ reason, until, by }: EntryException): Pick<EntryException, 'reason' | 'until' | 'by'> => ({
  reason,
  until,
  by,
});
