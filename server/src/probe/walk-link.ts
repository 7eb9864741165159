import { failureOf } from '../ua/failure.js';
import { validateServer } from './certificates.js';
import { choose, discover } from './discover.js';
import type { CheckLog, CheckMeans, LinkInPlant } from './means.js';
import { dialledParts, judgeUrl, near, reachAndGreet, resolve } from './reach.js';
import { talk } from './talk.js';
import type { UseSession } from './talk.js';
import { noteOrigins } from './field/look-behind.js';
import { useItems } from './use-items.js';
import { Walk, whyEnded } from './walk.js';

/**
 * Walks a link through its steps, live, as the link's client would, and notes what it observes.
 * It judges nothing: where a step can't go on, the later ones simply have no facts.
 * Sessions, channels and connections are closed whatever happens; a thrown error ends in a fact.
 * @param use what to do with the session instead of looking for the link's items; it is closed when this ends
 */
export async function walkLink(
  subject: LinkInPlant,
  means: CheckMeans,
  log: CheckLog,
  signal: AbortSignal,
  use: UseSession | null = null,
): Promise<void> {
  const walk = new Walk(subject, means, log, signal, use === null);
  try {
    await stepByStep(walk, use ?? ((session) => useItems(walk, session)));
    signal.throwIfAborted();
  } catch (error) {
    const reason = signal.aborted ? whyEnded(signal) : failureOf(error).reason || failureOf(error).code;
    log.note({ kind: 'check-stopped', during: walk.during, reason });
  }
}

async function stepByStep(walk: Walk, use: UseSession): Promise<void> {
  if (walk.looksAround) noteOrigins(walk);
  const parts = judgeUrl(walk);
  if (!parts) return;
  const dialled = dialledParts(walk, parts);
  const addresses = await resolve(walk, dialled.host, 'link');
  const address = await reachAndGreet(walk, dialled, addresses);
  if (address === null) return;
  const dial = {
    endpointUrl: walk.subject.link.endpointUrl,
    address,
    port: dialled.port,
    from: near(walk, address),
    timeoutMs: walk.means.limits.callMs,
  };
  const endpoints = await discover(walk, dial, parts);
  if (!endpoints) return;
  const chosen = choose(walk, endpoints);
  if (chosen && (await validateServer(walk, chosen, parts))) await talk(walk, dial, chosen, parts.host, use);
}
