import { isIP } from 'node:net';
import {
  fitsPattern,
  isGoodQuality,
  isSameTarget,
  judgeLinkUrl,
  linkKinds,
  passwordTargetOf,
  patternInPath,
  programOf,
  usualCalls,
} from '@loyal-hinge/core';
import type { ItemPattern, LinkInPlant, StepId, Withheld } from '@loyal-hinge/core';
import { usualGuid, walkClassic } from '@loyal-hinge/classic';
import type { ClassicWalk, Observation, ReadItem } from '@loyal-hinge/classic';
import { failureOf } from '../../ua/failure.js';
import { isDeclared } from '../address-ranges.js';
import type { CheckLog, CheckMeans } from '../means.js';
import { lookAtFirewalls, near } from '../reach.js';
import { resolveHost } from '../resolve.js';
import { lookBehind, noteOrigins } from '../field/look-behind.js';
import type { ServedValue } from '../field/device-visit.js';
import { Walk, whyEnded } from '../walk.js';
import { accountIn } from './account-in.js';
import { noteObservation } from './note-observation.js';

/**
 * Walks a classic link through its steps, live, as the link’s client would, and notes what it observes; it judges nothing.
 * What it holds of the server is given back however it ends.
 * @param use what to do with the server once it has answered, instead of what the link needs of it
 */
export async function walkClassicLink(
  subject: LinkInPlant,
  means: CheckMeans,
  log: CheckLog,
  signal: AbortSignal,
  use: ClassicWalk['use'] = undefined,
): Promise<void> {
  const walk = new Walk(subject, means, log, signal, false);
  try {
    if (!use) noteOrigins(walk);
    await stepByStep(walk, use);
    signal.throwIfAborted();
  } catch (error) {
    const reason = signal.aborted ? whyEnded(signal) : failureOf(error).reason || failureOf(error).code;
    log.note({ kind: 'check-stopped', during: walk.during, reason });
  }
}

async function stepByStep(walk: Walk, use: ClassicWalk['use']): Promise<void> {
  walk.begin('name', 'the name');
  const { link, server } = walk.subject;
  const judged = judgeLinkUrl(link.kind, link.endpointUrl, server.ports[0]);
  const { given, cleaned, parts, flaws } = judged;
  walk.log.note(
    { kind: 'endpoint-url', given, cleaned, host: parts?.host ?? null, port: parts?.port ?? null, flaws },
    'reckoned',
  );
  if (!parts || flaws.length > 0) return;
  const { classicRights } = walk.means;
  if (classicRights) walk.log.note({ kind: 'classic-rights', ...classicRights }, 'reported');
  const withheld = await whyWithheld(walk);
  const classic: ClassicWalk = {
    ...classicWalk(walk, parts, withheld !== null),
    use,
    beside: (readAgain) => besideItsItems(walk, readAgain),
  };
  const tries: Promise<void>[] = [];
  await walkClassic(classic, (observation) => {
    // What comes of being cancelled says nothing of the far side; what was written was written.
    if (!walk.signal.aborted || observation.step === 'write') noteObservation(walk, observation, classic);
    tellNext(walk, observation.step);
    tries.push(tellSignIn(walk, observation));
  });
  await Promise.all(tries);
  if (withheld) noteWithheld(walk, withheld);
}

/** Goes behind the server while it still gives its items, which are read again beside each look at a device. */
async function besideItsItems(walk: Walk, readAgain: () => Promise<readonly ReadItem[]>): Promise<void> {
  if (walk.means.origins.length === 0) return;
  const there = await readAgain();
  await lookBehind(
    walk,
    there.map(({ itemId }) => itemId),
    async (paths) => {
      const read = new Map((await readAgain()).map((item) => [item.itemId, servedIn(item)]));
      return paths.map((path) => read.get(path) ?? null);
    },
  );
}

/** The step behind one that was seen, as far as it is walked. */
function tellNext(walk: Walk, step: StepId): void {
  /* Firewalls were looked at when the name was resolved. */
  const steps = linkKinds.classic.steps.filter(({ id }) => id !== 'passage');
  const next = steps[steps.findIndex(({ id }) => id === step) + 1];
  const isWritten = walk.means.writes !== null;
  if (next && (next.id !== 'write' || isWritten) && !walk.signal.aborted)
    walk.begin(next.id, `the step “${next.title}”`);
}

function classicWalk(
  walk: Walk,
  parts: { readonly host: string; readonly port: number; readonly path: string },
  stopsBeforeSignIn: boolean,
): ClassicWalk {
  const { link, clientMachine } = walk.subject;
  const { means } = walk;
  const { level, updateRateMs } = link.classic ?? usualCalls;
  const program = programOf(parts);
  const clsid = usualGuid(program);
  const isWatched = link.needs.some(({ uses }) => uses.includes('watch'));
  return {
    host: parts.host,
    mapperPort: parts.port,
    localAddress: near(walk, clientMachine.addresses[0] ?? '') ?? undefined,
    identity: {
      account: link.identity.kind === 'user' ? accountIn(link.identity.userName, means.password ?? '') : null,
      level,
      workstation: (clientMachine.hostNames[0] ?? clientMachine.name).split('.')[0]?.toUpperCase() ?? '',
    },
    server: clsid === null ? { progId: program } : { clsid },
    needs: {
      items: link.needs.map(({ path }) => path),
      patterns: link.needs.flatMap(({ path }) => {
        const pattern = patternInPath(path);
        return pattern ? [{ text: path, fits: (itemId: string) => fitsItem(pattern, itemId) }] : [];
      }),
      browse: link.needs.length > 0,
      // What may be done with an item is told when it is added to a group and read: also where it is only watched.
      read: link.needs.length > 0,
      watch: isWatched ? { updateRateMs } : null,
      writes: means.writes?.paths ?? [],
    },
    timeoutMs: means.limits.connectMs,
    signal: walk.signal,
    stopsBeforeSignIn,
    resolve: (host) => resolve(walk, host, host === parts.host),
    mayDial: (address) => isDeclared(address, means.declaredRanges),
  };
}

async function resolve(walk: Walk, host: string, isLinks: boolean): Promise<readonly string[]> {
  const begun = performance.now();
  const { nameServer, limits } = walk.means;
  const resolution = await resolveHost(host, nameServer, limits.resolveMs, walk.signal);
  walk.signal.throwIfAborted();
  if (isLinks || isIP(host) === 0) {
    const purpose = isLinks ? ('link' as const) : ('advertised' as const);
    walk.log.note({ kind: 'name-resolution', purpose, host, ...resolution, ms: Math.round(performance.now() - begun) });
  }
  const { pinnedAddress } = walk.subject.link;
  const isPinned = isLinks && pinnedAddress !== null && resolution.addresses.length > 0;
  const addresses = isPinned ? [pinnedAddress] : resolution.addresses;
  if (isLinks && addresses.length > 0) await lookAtFirewalls(walk, addresses);
  return addresses;
}

/** Items have names, and no paths: a pattern fits a name as a whole, or the parts that points divide. */
const fitsItem = (pattern: ItemPattern, itemId: string): boolean =>
  fitsPattern(pattern, [itemId]) || fitsPattern(pattern, itemId.split('.'));

/** Why the password is not to be sent; null: it may be, or there is none to send. */
async function whyWithheld({ subject: { link, server }, means }: Walk): Promise<Withheld | null> {
  const wanted = passwordTargetOf(link, server);
  if (!wanted) return null;
  if (means.keptFor && !isSameTarget(means.keptFor, wanted))
    return { reason: 'kept for another target', keptFor: means.keptFor, wanted };
  if (means.password === null) return { reason: 'no password kept' };
  return means.signIns.whyPaused();
}

function noteWithheld({ subject: { link }, log }: Walk, withheld: Withheld): void {
  log.note(
    {
      kind: 'classic-sign-in',
      level: (link.classic ?? usualCalls).level,
      userName: link.identity.kind === 'user' ? link.identity.userName : null,
      outcome: 'withheld',
      failure: null,
      withheld,
      computer: null,
      clockApartMs: null,
      isProven: false,
      isAtMapper: true,
    },
    'reckoned',
  );
}

/** The account’s count of tries, so that no account gets locked by us. */
async function tellSignIn({ means, subject: { link } }: Walk, observation: Observation): Promise<void> {
  if (observation.step !== 'sign-in' || link.identity.kind !== 'user') return;
  const { problem } = observation;
  if (problem === null) await means.signIns.note(null);
  else if (problem.by !== 'way') await means.signIns.note('BadUserAccessDenied');
}

/** What a classic server gave for an item; null: it gave none, or none that is good. */
function servedIn({ quality, value }: ReadItem): ServedValue {
  if (value === null || !('value' in value) || !isGoodQuality(quality)) return null;
  const served: unknown = value.value;
  return typeof served === 'number' || typeof served === 'boolean' || typeof served === 'string'
    ? served
    : typeof served === 'bigint'
      ? Number(served)
      : null;
}
