import type { Socket } from 'node:net';
import { judgeEndpointUrl } from '@loyal-hinge/core';
import type { EndpointUrlParts, Purpose } from '@loyal-hinge/core';
import { isDeclared } from './address-ranges.js';
import { dialTcp, sayHello } from './dial.js';
import { resolveHost } from './resolve.js';
import type { Walk } from './walk.js';

export function judgeUrl(walk: Walk): EndpointUrlParts | null {
  walk.begin('name', 'the name');
  const { link, server } = walk.subject;
  const judged = judgeEndpointUrl(link.endpointUrl, server.ports[0]);
  walk.log.note(
    {
      kind: 'endpoint-url',
      given: judged.given,
      cleaned: judged.cleaned,
      host: judged.parts?.host ?? null,
      port: judged.parts?.port ?? null,
      flaws: judged.flaws,
    },
    'reckoned',
  );
  return judged.flaws.length > 0 ? null : judged.parts;
}

/** Where the client dials: the link’s URL, or the entrance of the tunnel that it goes through. */
export function dialledParts(walk: Walk, parts: EndpointUrlParts): EndpointUrlParts {
  const { tunnel } = walk.means;
  if (!tunnel) return parts;
  walk.log.note(tunnel, 'reported');
  return { ...parts, host: tunnel.entrance.address, port: tunnel.entrance.port };
}

export async function resolve(walk: Walk, host: string, purpose: Purpose): Promise<readonly string[]> {
  const begun = performance.now();
  const resolution = await resolveHost(host, walk.means.nameServer, walk.means.limits.resolveMs, walk.signal);
  walk.signal.throwIfAborted();
  walk.log.note({ kind: 'name-resolution', purpose, host, ...resolution, ms: Math.round(performance.now() - begun) });
  return resolution.addresses;
}

export async function reachAndGreet(
  walk: Walk,
  parts: EndpointUrlParts,
  resolved: readonly string[],
): Promise<string | null> {
  if (resolved.length === 0) return null;
  const pinned = walk.means.tunnel ? null : walk.subject.link.pinnedAddress;
  const addresses = pinned === null ? resolved : [pinned];
  await lookAtFirewalls(walk, addresses);
  walk.begin('reach', 'the connection');
  const sockets = await Promise.all(addresses.map((address) => connect(walk, address, parts.port, 'link')));
  const socket = sockets.find((one) => one !== null);
  const answering = addresses.find((_, index) => sockets[index]);
  for (const other of sockets) if (other !== socket || walk.signal.aborted) other?.destroy();
  walk.signal.throwIfAborted();
  if (answering === undefined || !socket) {
    if (!walk.means.tunnel) await tryNeighbouringPorts(walk, addresses, parts.port);
    return null;
  }
  walk.begin('hello', 'the Hello');
  const said = await sayHello(socket, walk.subject.link.endpointUrl, walk.means.limits.helloMs, walk.signal);
  if (said.outcome === 'cancelled') throw walk.signal.reason;
  const place = { kind: 'hello' as const, address: answering, port: parts.port, ms: said.ms };
  if (said.outcome !== 'answered') {
    walk.log.note({ ...place, outcome: said.outcome });
    return null;
  }
  const { answer } = said;
  if (answer.kind === 'acknowledge') walk.log.note({ ...place, outcome: 'acknowledged', limits: answer.limits });
  else if (answer.kind === 'error')
    walk.log.note({ ...place, outcome: 'error', code: answer.codeName, reason: answer.reason });
  else walk.log.note({ ...place, outcome: 'other', looksLike: answer.looksLike, firstBytesHex: answer.firstBytesHex });
  return answer.kind === 'acknowledge' ? answering : null;
}

/** Notes what the firewalls on the way make of what the link needs, by their rules as they are known. */
export async function lookAtFirewalls(walk: Walk, addresses: readonly string[]): Promise<void> {
  walk.begin('passage', 'the firewalls on the way');
  for (const fact of await walk.means.passage(addresses)) walk.log.note(fact, 'reckoned');
}

/** Dials an address, and notes what came of it; an open socket is the caller’s to close. */
export async function connect(walk: Walk, address: string, port: number, purpose: Purpose): Promise<Socket | null> {
  if (!isDeclared(address, walk.means.declaredRanges)) {
    walk.log.note({ kind: 'not-tried', reason: 'outside the declared ranges', purpose, what: address }, 'reckoned');
    return null;
  }
  const from = near(walk, address);
  const { outcome, ms, socket } = await dialTcp(address, port, from, walk.means.limits.connectMs, walk.signal);
  if (outcome === 'cancelled') return null;
  if (outcome === 'not bound')
    walk.log.note({ kind: 'not-tried', reason: 'no such near address', purpose, what: from ?? '' });
  else walk.log.note({ kind: 'tcp-connect', purpose, from, address, port, outcome, ms });
  return socket;
}

export function near(walk: Walk, address: string): string | null {
  const own = walk.subject.clientMachine.addresses[0] ?? null;
  return walk.means.dialFromClientAddress && own?.includes(':') === address.includes(':') ? own : null;
}

async function tryNeighbouringPorts(walk: Walk, addresses: readonly string[], port: number): Promise<void> {
  const [address] = addresses;
  const ports = walk.subject.server.ports.filter((known) => known !== port);
  if (address === undefined) return;
  for (const other of ports) (await connect(walk, address, other, 'neighbour'))?.destroy();
}
