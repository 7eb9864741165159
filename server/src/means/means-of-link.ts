import { accountsOf, floorFor, signInNameOf } from '@loyal-hinge/core';
import type { CertificateSummary, Fact, LinkInPlant, WriterOfItem } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { keyOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import { declaredRangesOf, devicePauseOf, nameServerOf, readSetting } from '../database/settings.js';
import { knownListsOf, trustListOf } from '../trust/lists/store.js';
import { lastChangeOf, newestChangeOf } from '../orders/store.js';
import { clientCertificateOf } from '../certificates/store.js';
import { waiversInForce } from '../trust/waivers/store.js';
import { usualLimits } from '../probe/means.js';
import type { CheckMeans, ServerLists } from '../probe/means.js';
import { exceptionsInForce, plantFloorOf } from '../entry/floor/store.js';
import { userCertificateFor } from '../accounts/certificates/store.js';
import { signInGuard } from '../accounts/tries/guard.js';
import { seenByOthers } from './seen-by-others.js';
import { reportedRights } from '../dcom/reported-rights.js';
import { knownPassage } from '../passage/known.js';
import { knownRedundant } from '../passage/redundant.js';
import { passageFacts } from '../passage/ways.js';
import { knownOrigins } from '../field/known-origins.js';
import { alone } from '../probe/field/means.js';
import { knownTunnels, tunnelOfLink } from '../tunnels/known.js';
import { passwordFor } from './kept-passwords.js';
import { assessmentOf, factsOfCheck } from '../facts/store.js';

/** Gathers what a check of this link needs; secrets are opened here and stay in memory. The server’s own lists are the caller’s to add. */
export async function meansOfLink(db: Queryable, secrets: SecretStore, subject: LinkInPlant): Promise<CheckMeans> {
  const { link, client, server } = subject;
  const tunnels = knownTunnels(db);
  const [
    nameServer,
    declaredRanges,
    near,
    crlsDemanded,
    devicePauseMs,
    certificate,
    key,
    clientTrust,
    kept,
    userCertificate,
    earlier,
    waivers,
    knownServerLists,
    made,
    plantFloor,
    exceptions,
    classicRights,
    passage,
    known,
  ] = await Promise.all([
    nameServerOf(db),
    declaredRangesOf(db),
    readSetting(db, 'dialFromClientAddress'),
    readSetting(db, 'crlsDemanded'),
    devicePauseOf(db),
    clientCertificateOf(db, client.id),
    secrets.findFor(db, keyOf(client.id), { applicationUri: client.applicationUri }),
    trustListOf(db, client.id),
    passwordFor(db, secrets, subject),
    link.identity.kind === 'certificate' ? userCertificateFor(db, secrets, link.identity.certificate) : null,
    earlierFacts(db, link.id),
    waiversInForce(db, [client.id, server.id]),
    listsAsTheyAre(db, server.id),
    newestChangeOf(db, server.id),
    plantFloorOf(db),
    exceptionsInForce(db, [link.id, server.id]),
    reportedRights(db, subject),
    knownPassage(db, tunnels),
    tunnels,
  ]);
  const privateKeyPem = key && 'secret' in key ? key.secret : null;
  return {
    nameServer,
    declaredRanges,
    dialFromClientAddress: near === true,
    credentials:
      certificate && privateKeyPem ? { applicationUri: client.applicationUri, certificate, privateKeyPem } : null,
    clientTrust,
    crlsDemanded: crlsDemanded === true,
    floor: floorFor({ linkId: link.id, serverId: server.id }, plantFloor, exceptions, new Date().toISOString()),
    plantFloor,
    waivers: { client: waivers.get(client.id) ?? [], server: waivers.get(server.id) ?? [] },
    ...kept,
    userCertificate,
    signIns: signInGuard(db, secrets, subject, kept.password),
    earlierCertificate: serverCertificateIn(earlier),
    earlierTypes: typesIn(earlier),
    writes: null,
    earlierWrites: writesIn(earlier, subject),
    seenByOthers: (paths) => seenByOthers(db, link, paths),
    knownServerLists,
    changeMade: made && !openedAfter(earlier, made.since) ? made : null,
    readServerLists: null,
    classicRights,
    passage: (addresses) => passageFacts(passage, subject, addresses),
    redundant: (uris) => knownRedundant(db, passage, subject, uris),
    tunnel: tunnelOfLink(known, link.id)?.fact ?? null,
    origins: await knownOrigins(db, passage, subject, earlier),
    atDevice: alone,
    devicePauseMs,
    limits: usualLimits,
  };
}

/** What is known of the server’s lists; nothing where they were changed after they were last read. */
async function listsAsTheyAre(db: Queryable, serverId: string): Promise<ServerLists | null> {
  const [lists, changedAt] = await Promise.all([knownListsOf(db, serverId), lastChangeOf(db, serverId)]);
  return lists && changedAt !== null && changedAt > lists.readAt ? null : lists;
}

/** Whether a check saw the channel open after a moment. */
const openedAfter = (facts: readonly Fact[], since: string): boolean =>
  facts.some((fact) => fact.kind === 'channel' && fact.outcome === 'open' && Date.parse(fact.at) > Date.parse(since));

async function earlierFacts(db: Queryable, linkId: string): Promise<readonly Fact[]> {
  const kept = await assessmentOf(db, linkId);
  return kept ? factsOfCheck(db, kept.checkId) : [];
}

/** The data types of items as they were read, or as the check before had them where they were not. */
const typesIn = (facts: readonly Fact[]): ReadonlyMap<string, string> =>
  new Map(
    facts.flatMap((fact) => {
      if (fact.kind === 'earlier-item-type') return [[fact.path, fact.dataType] as const];
      return fact.kind === 'item-read' && fact.code === 'Good' && fact.dataType !== null
        ? [[fact.path, fact.dataType] as const]
        : [];
    }),
  );

/** Items that were written as the link’s user at its server, now or before. */
function writesIn(facts: readonly Fact[], { link, server }: LinkInPlant): CheckMeans['earlierWrites'] {
  const userName = signInNameOf(link.identity);
  const isSame = ({ as }: { readonly as: WriterOfItem }): boolean =>
    as.userName === userName && as.applicationUri === accountsOf(server);
  return new Map(
    facts.flatMap((fact) => {
      if (fact.kind === 'earlier-write' && isSame(fact)) return [[fact.path, fact] as const];
      return fact.kind === 'item-written' && fact.outcome === 'same value' && isSame(fact)
        ? [[fact.path, { on: fact.at, by: fact.by, as: fact.as }] as const]
        : [];
    }),
  );
}

/** The server’s certificate as the endpoints show it. */
export function serverCertificateIn(facts: readonly Fact[]): CertificateSummary | null {
  for (const fact of facts) {
    if (fact.kind !== 'endpoints' || fact.outcome !== 'listed') continue;
    const certificate = fact.endpoints.find((endpoint) => endpoint.certificate)?.certificate;
    if (certificate) return certificate;
  }
  return null;
}
