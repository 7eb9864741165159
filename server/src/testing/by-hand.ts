import { isPlantFault, linkInPlant, noFloor, readCertificate } from '@loyal-hinge/core';
import type { Fact, FactBody, FactSource, LinkInPlant } from '@loyal-hinge/core';
import type { CheckLog, CheckMeans, ServerLists } from '../probe/means.js';
import { alone } from '../probe/field/means.js';
import { unguarded, usualLimits } from '../probe/means.js';
import { walkLink } from '../probe/walk-link.js';
import type { Handover } from '../setup/made-up-plant/handover.js';
import { pushLink } from '../trust/lists/push-link.js';
import type { PushManagement } from '../ua/push-management.js';
import { derOf } from './given.js';

/** Links of the made-up plant walked past the server, by the test itself. */

export function subjectOf(taken: Handover, linkId: string): LinkInPlant {
  const subject = linkInPlant(taken.plant, linkId);
  if (isPlantFault(subject)) throw new Error(subject.says);
  return subject;
}

export function meansOf(taken: Handover, { link, client, server }: LinkInPlant): CheckMeans {
  const known = taken.clients.find(({ applicationId }) => applicationId === client.id);
  if (!known && client.speaks !== 'classic') throw new Error(`no client ${client.id}`);
  return {
    nameServer: taken.nameServer,
    declaredRanges: ['127.0.0.0/8'],
    dialFromClientAddress: true,
    credentials: known
      ? {
          applicationUri: client.applicationUri,
          certificate: derOf(known.certificatePem),
          privateKeyPem: known.privateKeyPem,
        }
      : null,
    clientTrust: {
      trusted: (known?.trustedPem ?? []).map(derOf),
      issuers: [],
      crls: (known?.crlsPem ?? []).map(derOf),
    },
    crlsDemanded: true,
    tunnel: null,
    floor: { floor: noFloor, exception: null },
    plantFloor: noFloor,
    waivers: { client: [], server: [] },
    password: passwordFor(taken, link.id),
    keptFor: null,
    userCertificate: userCertificateIn(taken, link),
    signIns: unguarded,
    earlierCertificate: null,
    earlierTypes: new Map(),
    origins: taken.origins
      .filter(({ serverId }) => serverId === server.id)
      .map(({ path, origin }) => ({
        path,
        origin,
        device: taken.plant.machines.find(({ id }) => id === origin.deviceId) ?? null,
        stoppedBy: [],
        before: null,
      })),
    atDevice: alone,
    devicePauseMs: 20,
    writes: null,
    earlierWrites: new Map(),
    seenByOthers: null,
    knownServerLists: null,
    changeMade: null,
    readServerLists: isPushed(taken, server.id) ? () => listsOverPush(taken, server.id) : null,
    classicRights: null,
    passage: () => [],
    redundant: (uris) => ({
      others: uris.map((applicationUri) => ({ applicationUri, name: null, isLinked: false })),
      passage: [],
    }),
    limits: usualLimits,
  };
}

function userCertificateIn(taken: Handover, { identity }: LinkInPlant['link']): CheckMeans['userCertificate'] {
  const kept = taken.userCertificates.find(
    ({ name }) => identity.kind === 'certificate' && name === identity.certificate,
  );
  if (!kept) return null;
  const read = readCertificate(derOf(kept.certificatePem));
  return read.ok ? { certificate: read.certificate, privateKeyPem: kept.privateKeyPem } : null;
}

const passwordFor = (taken: Handover, linkId: string): string | null => {
  const push = taken.ways.find(({ applicationId }) => linkId === `push--${applicationId}`);
  return push?.way === 'push'
    ? push.password
    : (taken.passwords.find((kept) => kept.linkId === linkId)?.password ?? null);
};

const isPushed = (taken: Handover, serverId: string): boolean =>
  taken.ways.some(({ applicationId, way }) => applicationId === serverId && way === 'push');

/** The link over which a server of the made-up plant is configured. */
export function pushSubjectOf(taken: Handover, serverId: string): LinkInPlant {
  const way = taken.ways.find(({ applicationId }) => applicationId === serverId);
  if (way?.way !== 'push') throw new Error(`${serverId} has no push management`);
  const link = pushLink(way, serverId);
  return subjectOf(
    { ...taken, plant: { ...taken.plant, links: link ? [link as Handover['plant']['links'][number]] : [] } },
    `push--${serverId}`,
  );
}

/** Opens an administrator’s session on a server of the made-up plant. */
export async function overPush<Result>(
  taken: Handover,
  serverId: string,
  use: (push: PushManagement) => Promise<Result>,
): Promise<Result> {
  const subject = pushSubjectOf(taken, serverId);
  const log = memoryLog();
  let outcome: { readonly result: Result } | null = null;
  const means = { ...meansOf(taken, subject), readServerLists: null };
  await walkLink(subject, means, log, new AbortController().signal, async (session) => {
    outcome = { result: await use(session.pushManagement()) };
  });
  if (!outcome) throw new Error(`no session on ${serverId}: ${JSON.stringify(log.facts.at(-1))}`);
  return (outcome as { readonly result: Result }).result;
}

async function listsOverPush(taken: Handover, serverId: string): Promise<ServerLists> {
  return overPush(taken, serverId, async (push) => {
    const lists = await push.readLists();
    return {
      trusted: lists.trustedCertificates,
      issuers: lists.issuerCertificates,
      crls: [...lists.trustedCrls, ...lists.issuerCrls],
      rejected: await push.readRejected(),
      by: 'push management',
      rejectedSince: () => null,
    };
  });
}

/** Keeps facts in memory. */
export function memoryLog(): CheckLog & { readonly facts: Fact[]; readonly begun: string[] } {
  const facts: Fact[] = [];
  const begun: string[] = [];
  return {
    facts,
    begun,
    begin: (step) => void begun.push(step),
    keep: () => undefined,
    note(body: FactBody, source: FactSource = 'tried') {
      const fact: Fact = { ...body, id: `f${facts.length + 1}`, source, at: new Date().toISOString() };
      facts.push(fact);
      return fact;
    },
  };
}
