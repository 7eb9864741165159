import { chooseEndpoint, wishOf } from '../entry/choose-endpoint.js';
import type { EndpointChoice } from '../entry/choose-endpoint.js';
import { endpointName } from '../entry/endpoint.js';
import { noFloor } from '../entry/floor.js';
import type { Sight } from './cause.js';
import type { Fact, FactBook, FactSource } from './facts.js';
import type { LinkInPlant } from '../plant/plant.js';
import { commonName } from '../trust/certificate.js';
import type { FieldStepId, StepId, UaStepId } from './steps.js';
import { counted, listed } from './wording.js';
import { isNeededNow, isStopped, seenThrough, stopperOf } from './passage-seen.js';
import { writeAccess } from './write-access.js';
import { spanOf } from '../time.js';
import { tokenWords } from '../ua/user-tokens.js';

export type Verdict = 'holds' | 'weak' | 'fails' | 'unknown' | 'not-needed';

/** What the bare facts say of a step, before any cause speaks. */
export interface StepReading {
  readonly verdict: Exclude<Verdict, 'weak'>;
  readonly summary: string;
  readonly source: FactSource | null;
  readonly facts: readonly Fact[];
}

/** Said of a step that no fact speaks of. */
export const nothingKnown = 'Nothing is known yet.';
export const unknown: StepReading = { verdict: 'unknown', summary: nothingKnown, source: null, facts: [] };

export const reading = (verdict: StepReading['verdict'], summary: string, facts: readonly Fact[]): StepReading => ({
  verdict,
  summary,
  source: facts[0]?.source ?? null,
  facts,
});

/** What both sides would take, as far as the facts tell. */
export function choiceFrom(subject: LinkInPlant, facts: FactBook): EndpointChoice | null {
  const listing = facts.latest('endpoints');
  if (listing?.outcome !== 'listed') return null;
  const floor = facts.latest('entry-floor')?.floor ?? noFloor;
  return chooseEndpoint(listing.endpoints, wishOf(subject, floor));
}

/** Reads a step from the facts of one check. */
export const readStep = (sight: Sight, step: StepId): StepReading => readers[step as OwnStepId](sight);

type OwnStepId = Exclude<UaStepId, FieldStepId>;
const readers: Readonly<Record<OwnStepId, (sight: Sight) => StepReading>> = {
  name({ facts }) {
    const url = facts.latest('endpoint-url');
    if (url?.cleaned === null) return reading('fails', 'The endpoint URL can’t be used.', [url]);
    const resolved = facts.all('name-resolution').filter((fact) => fact.purpose === 'link');
    const last = resolved.at(-1);
    if (!last) return unknown;
    return last.addresses.length > 0
      ? reading(
          'holds',
          last.means === 'literal' ? `${last.host} is an address.` : `${last.host} is ${listed(last.addresses)}.`,
          resolved,
        )
      : reading('fails', `${last.host} has no address.`, resolved);
  },

  passage(sight) {
    const told = sight.facts.all('passage').filter(isNeededNow);
    if (told.length === 0)
      return sight.facts
        .all('name-resolution')
        .some(({ purpose, addresses }) => purpose === 'link' && addresses.length > 0)
        ? notNeeded('No firewall on the way is known to the plant.')
        : unknown;
    const onWay = told.flatMap(({ firewalls }) => firewalls);
    if (onWay.length === 0) return notNeeded('There is no firewall on the way.');
    const names = listed([...new Set(onWay.map(({ name }) => name))]);
    const stopped = told.find((fact) => isStopped(fact));
    if (stopped && seenThrough(sight, stopped) !== 'through')
      return reading('fails', `${stopperOf(stopped)?.name ?? ''} lets nothing through.`, told);
    const open = told.filter(({ verdict }) => verdict !== 'accept');
    if (open.every((fact) => seenThrough(sight, fact) === 'through'))
      return reading(
        'holds',
        open.length === 0 ? `The rules of ${names} let it through.` : `${names}: it gets through.`,
        told,
      );
    return open.every(({ verdict }) => verdict === 'not-told')
      ? notNeeded(`The rules of ${names} are not known.`)
      : reading('unknown', `What ${names} lets through can’t be told.`, told);
  },

  reach({ facts }) {
    const dialled = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    const last = dialled.at(-1);
    if (!last) return unknown;
    const open = dialled.find((fact) => fact.outcome === 'open');
    return open
      ? reading('holds', `${open.address} port ${open.port} answers in ${spanOf(open.ms)}.`, dialled)
      : reading('fails', `${last.address} port ${last.port}: ${last.outcome}.`, dialled);
  },

  hello({ facts }) {
    const hello = facts.latest('hello');
    if (!hello) return unknown;
    return hello.outcome === 'acknowledged'
      ? reading('holds', 'It is an OPC UA server.', [hello])
      : reading('fails', 'It does not answer as an OPC UA server does.', [hello]);
  },

  endpoints({ facts }) {
    const listing = facts.latest('endpoints');
    if (!listing) return unknown;
    return listing.outcome === 'listed'
      ? reading('holds', `${counted(listing.endpoints.length, 'endpoint')} offered.`, [
          listing,
          ...facts.all('servers'),
        ])
      : reading('fails', 'The server does not report its endpoints.', [listing]);
  },

  policy({ facts, choice }) {
    const listing = facts.latest('endpoints');
    if (!listing || !choice) return unknown;
    return {
      verdict: choice.chosen ? 'holds' : 'fails',
      summary: choice.chosen
        ? `Both sides have ${endpointName(choice.chosen)}.`
        : 'The two sides have nothing in common.',
      source: 'reckoned',
      facts: [listing],
    };
  },

  'server-certificate': (sight) => readCertificate(sight, 'server'),

  'secure-channel'({ facts }) {
    const channel = facts.latest('channel');
    if (!channel) return unknown;
    return channel.outcome === 'open'
      ? reading('holds', `Opened with ${endpointName(channel)}.`, [channel])
      : reading('fails', 'The server did not open it.', [channel]);
  },

  'client-certificate'(sight) {
    const channel = sight.facts.latest('channel');
    if (sight.choice?.chosen?.securityMode === 'None')
      return notNeeded('Without security, no certificate is looked at.');
    if (channel?.outcome === 'open') return reading('holds', 'The server opened a channel with it.', [channel]);
    return readCertificate(sight, 'client');
  },

  identity({ facts }) {
    const session = facts.latest('session');
    if (!session) return unknown;
    const known = [session, ...facts.all('user-certificate').slice(-1)];
    if (session.outcome === 'active') return reading('holds', `Let in (${tokenWords[session.tokenType]}).`, known);
    return reading('fails', session.outcome === 'withheld' ? 'No session was tried.' : 'Not let in.', known);
  },

  browse({ facts, subject }) {
    if (subject.link.needs.length === 0) return notNeeded('The link needs no item.');
    const found = facts.all('item-found');
    if (found.length < subject.link.needs.length) return unknown;
    const missing = found.filter((fact) => fact.outcome === 'missing');
    return missing.length === 0
      ? reading('holds', `${counted(found.length, 'needed item')} found.`, found)
      : reading('fails', `${missing.length} of ${counted(found.length, 'needed item')} missing.`, missing);
  },

  read({ facts, subject }) {
    const wanted = subject.link.needs.filter((item) => item.uses.includes('read') || item.uses.includes('watch'));
    if (wanted.length === 0) return notNeeded('The link reads nothing.');
    const read = facts.all('item-read');
    const unread = wanted.filter(({ path }) => !read.some((fact) => fact.path === path));
    if (unread.length > 0) return unprovedNeeds('read', unread);
    const bad = read.filter((fact) => fact.code.startsWith('Bad'));
    return bad.length === 0
      ? reading('holds', `${counted(read.length, 'item')} read.`, read)
      : reading('fails', `${bad.length} of ${counted(read.length, 'item')} can’t be read.`, bad);
  },

  watch({ facts, subject }) {
    if (!subject.link.needs.some((item) => item.uses.includes('watch'))) return notNeeded('The link watches nothing.');
    const watched = facts.all('item-watched');
    const unwatched = subject.link.needs.filter(
      ({ path, uses }) => uses.includes('watch') && !watched.some((fact) => fact.path === path),
    );
    if (unwatched.length > 0) return unprovedNeeds('watched', unwatched);
    const silent = watched.filter((fact) => fact.code !== 'Good' || fact.firstNotificationMs === null);
    return silent.length === 0
      ? reading('holds', `${counted(watched.length, 'item')} watched.`, watched)
      : reading('fails', `${silent.length} of ${counted(watched.length, 'item')} silent.`, silent);
  },

  write({ facts, subject, choice }) {
    const wanted = subject.link.needs.filter((item) => item.uses.includes('write'));
    if (wanted.length === 0) return notNeeded('The link writes nothing.');
    const rights = wanted.map(({ path }) => facts.all('item-rights').findLast((fact) => fact.path === path) ?? null);
    const known = rights.filter((fact) => fact !== null);
    const unproved = wanted.filter((_, index) => rights[index] === null);
    if (unproved.length > 0) return unprovedNeeds('written', unproved);
    const accesses = known.map((fact) => writeAccess(fact, choice?.chosen?.securityMode ?? 'None'));
    const verdict = accesses.some(({ may }) => may === 'denied')
      ? 'fails'
      : accesses.some(({ may }) => may === 'unknown')
        ? 'unknown'
        : 'holds';
    const written = facts.all('item-written').filter(({ outcome }) => outcome === 'same value');
    const earlier = facts.all('earlier-write');
    const isProved = (path: string): boolean =>
      written.some((fact) => fact.path === path) || earlier.some((fact) => fact.path === path);
    if (verdict === 'holds' && wanted.every(({ path }) => isProved(path)))
      return {
        ...reading('holds', `${counted(known.length, 'item')} written and read back.`, [...written, ...earlier]),
        source: written.length > 0 ? 'tried' : 'reported',
      };
    const summary =
      verdict === 'holds'
        ? `${counted(known.length, 'item')} may be written, as the server reports; nothing was written.`
        : accesses
            .filter(({ may }) => may === (verdict === 'fails' ? 'denied' : 'unknown'))
            .map(({ says }) => says)
            .join(' ');
    return { verdict, summary, source: 'reckoned', facts: known };
  },

  history({ facts, subject }) {
    const wanted = subject.link.needs.filter(({ uses }) => uses.includes('history'));
    if (wanted.length === 0) return notNeeded('The link reads no history.');
    const read = facts.all('item-history');
    const unread = wanted.filter(({ path }) => !read.some((fact) => fact.path === path));
    if (unread.length > 0) return unprovedNeeds('read from the past', unread);
    const bad = read.filter(({ code }) => code.startsWith('Bad'));
    return bad.length === 0
      ? reading('holds', `${counted(sumOf(read.map(({ values }) => values)), 'earlier value')} read.`, read)
      : reading('fails', `The history of ${bad.length} of ${counted(read.length, 'item')} can’t be read.`, bad);
  },

  alarms({ facts, subject }) {
    const wanted = subject.link.needs.filter(({ uses }) => uses.includes('alarms'));
    if (wanted.length === 0) return notNeeded('The link listens to no alarms.');
    const heard = facts.all('item-alarms');
    const untried = wanted.filter(({ path }) => !heard.some((fact) => fact.path === path));
    if (untried.length > 0) return unprovedNeeds('listened to', untried);
    const refused = heard.filter(({ code }) => code !== 'Good');
    if (refused.length > 0)
      return reading(
        'fails',
        `The events of ${refused.length} of ${counted(heard.length, 'node')} can’t be listened to.`,
        refused,
      );
    const silent = heard.filter(({ events }) => events === 0);
    return silent.length === 0
      ? reading('holds', `${counted(sumOf(heard.map(({ events }) => events)), 'event')} came.`, heard)
      : {
          ...unknown,
          summary: `The server accepted the subscription to ${listed(silent.map(({ path }) => path))}, and no event came in ${spanOf(silent[0]?.waitedMs ?? 0)}: whether they arrive is not proved.`,
          facts: heard,
        };
  },
};

const sumOf = (numbers: readonly number[]): number => numbers.reduce((sum, one) => sum + one, 0);

/** A need that nothing was tried or calculated for stays open. */
const unprovedNeeds = (word: string, needs: readonly { readonly path: string }[]): StepReading => ({
  ...unknown,
  summary: `Whether ${listed(needs.map(({ path }) => path))} can be ${word} is not known: it was neither tried nor calculated.`,
});

const notNeeded = (summary: string): StepReading => ({ verdict: 'not-needed', summary, source: null, facts: [] });

function readCertificate({ facts, choice }: Sight, of: 'server' | 'client'): StepReading {
  if (choice?.chosen?.securityMode === 'None') return notNeeded('Without security, no certificate is looked at.');
  const validated = facts.all('certificate-validation').filter((fact) => fact.of === of);
  const last = validated.at(-1);
  if (!last) return unknown;
  const subject = last.validation.certificate ? commonName(last.validation.certificate.subject) : 'The certificate';
  return last.validation.status === 'Good'
    ? reading('holds', `${subject}: all steps pass.`, [last])
    : reading(
        'fails',
        `${subject}: ${last.validation.steps.find((step) => step.result === 'failed')?.step ?? 'not valid'}.`,
        [last],
      );
}
