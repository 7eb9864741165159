import type { Sight } from '../cause.js';
import type { FactOf } from '../facts.js';
import { readStep, reading, unknown } from '../read-step.js';
import type { StepReading } from '../read-step.js';
import type { ClassicStepId, FieldStepId, StepId } from '../steps.js';
import { counted, listed } from '../wording.js';
import { sayFailure } from './say-fact.js';

/** Reads a step of a classic link from the facts of one check. */
export const readClassicStep = (sight: Sight, step: StepId): StepReading => readers[step as OwnStepId](sight);

type OwnStepId = Exclude<ClassicStepId, FieldStepId>;

const notNeeded = (summary: string): StepReading => reading('not-needed', summary, []);

/** Whether the link needs one of its items for something. */
const needs = ({ subject }: Sight, use: 'read' | 'watch' | 'write'): boolean =>
  subject.link.needs.some(({ uses }) => uses.includes(use));

const readers: Readonly<Record<OwnStepId, (sight: Sight) => StepReading>> = {
  name: (sight) => readStep(sight, 'name'),
  passage: (sight) => readStep(sight, 'passage'),
  reach: (sight) => readStep(sight, 'reach'),

  mapper({ facts }) {
    const fact = facts.latest('classic-mapper');
    if (!fact) return unknown;
    return fact.failure
      ? reading('fails', 'COM does not answer there.', [fact])
      : reading('holds', `COM ${fact.version ?? ''} answers.`, [fact]);
  },

  bindings: ({ facts }) => readPlaces(facts.latest('classic-bindings'), 'advertised'),
  'object-port': ({ facts }) => readPlaces(facts.latest('classic-object-port'), 'object'),

  'sign-in'({ facts }) {
    const fact = facts.latest('classic-sign-in');
    if (!fact || (fact.failure?.by === 'way' && !fact.isAtMapper)) return unknown;
    const who = fact.userName === null ? 'Nobody' : `“${fact.userName}”`;
    if (fact.outcome !== 'let in') return reading('fails', `${who} is not let in.`, [fact]);
    return reading('holds', `${who} is let in at level ${fact.level}.`, [fact]);
  },

  class({ facts }) {
    const fact = facts.latest('classic-class');
    if (!fact) return unknown;
    return fact.clsid === null
      ? reading('fails', `The class of ${fact.program} is not known.`, [fact])
      : reading('holds', `${fact.program} is known.`, [fact]);
  },

  activation({ facts }) {
    const fact = facts.latest('classic-activation');
    if (!fact) return unknown;
    return fact.failure
      ? reading('fails', `The server is not made: ${sayFailure(fact.failure)}.`, [fact])
      : reading('holds', 'The server was made.', [fact]);
  },

  access({ facts }) {
    const fact = facts.latest('classic-access');
    if (!fact) return unknown;
    return fact.failure
      ? reading('fails', `The server can’t be called: ${sayFailure(fact.failure)}.`, [fact])
      : reading('holds', `${fact.vendor || 'The server'} ${fact.version} answers.`, [fact]);
  },

  browse({ facts, subject }) {
    const fact = facts.latest('classic-browse');
    if (subject.link.needs.length === 0) return notNeeded('No item is needed.');
    if (!fact) return unknown;
    if (fact.failure) return reading('fails', `The items can’t be browsed: ${sayFailure(fact.failure)}.`, [fact]);
    return fact.missing.length > 0
      ? reading('fails', `${listed(fact.missing.map(({ path }) => path))} is not there.`, [fact])
      : reading('holds', `${counted(fact.count, 'item')} seen, the needed ones among them.`, [fact]);
  },

  read(sight) {
    if (!needs(sight, 'read')) return notNeeded('No item is to be read.');
    const fact = sight.facts.latest('classic-read');
    if (!fact) return unknown;
    if (fact.failure) return reading('fails', `The items can’t be read: ${sayFailure(fact.failure)}.`, [fact]);
    const read = fact.items.filter(({ path }) => isNeededFor(sight, path, 'read'));
    const bad = read.filter(({ code, quality }) => code !== 0 || quality === null || (quality & 0xc0) === 0);
    return bad.length > 0
      ? reading('fails', `${listed(bad.map(({ path }) => path))} can’t be used.`, [fact])
      : reading('holds', `${counted(read.length, 'value')} read.`, [fact]);
  },

  watch(sight) {
    if (!needs(sight, 'watch')) return notNeeded('No item is to be watched.');
    const fact = sight.facts.latest('classic-watch');
    if (!fact) return unknown;
    if (fact.unproven.length > 0 && fact.calls.length === 0)
      return reading('holds', 'Calls came back to the client.', [fact]);
    if (fact.failure) return reading('fails', `Changes can’t be had: ${sayFailure(fact.failure)}.`, [fact]);
    return fact.calls.length === 0
      ? reading('fails', 'Nobody called back.', [fact])
      : reading('holds', `${counted(fact.calls.length, 'call')} came back.`, [fact]);
  },

  write(sight) {
    if (!needs(sight, 'write')) return notNeeded('No item is to be written.');
    const fact = sight.facts.latest('classic-read');
    if (!fact || fact.failure) return unknown;
    const written = fact.items.filter(({ path, code }) => code === 0 && isNeededFor(sight, path, 'write'));
    const denied = written.filter(({ mayWrite }) => mayWrite === false);
    if (written.length === 0) return unknown;
    const said = { source: 'reckoned' as const, facts: [fact] };
    const proved = sight.facts.all('item-written').filter(({ outcome }) => outcome === 'same value');
    const earlier = sight.facts.all('earlier-write');
    const isProved = (path: string): boolean => [...proved, ...earlier].some((one) => one.path === path);
    if (denied.length === 0 && written.every(({ path }) => isProved(path)))
      return {
        ...reading('holds', `${counted(written.length, 'item')} written and read back.`, [...proved, ...earlier]),
        source: proved.length > 0 ? 'tried' : 'reported',
      };
    return denied.length > 0
      ? { verdict: 'fails', summary: `${listed(denied.map(({ path }) => path))} may not be written.`, ...said }
      : {
          verdict: 'holds',
          summary: `${counted(written.length, 'item')} may be written, by what the server says.`,
          ...said,
        };
  },
};

export const isNeededFor = (
  { subject }: Pick<Sight, 'subject'>,
  path: string,
  use: 'read' | 'watch' | 'write',
): boolean => subject.link.needs.some((need) => need.path === path && need.uses.includes(use));

function readPlaces(
  fact: FactOf<'classic-bindings'> | FactOf<'classic-object-port'> | null,
  what: 'advertised' | 'object',
): StepReading {
  if (!fact) return unknown;
  const open = fact.places.filter(({ outcome }) => outcome === 'open');
  const words = what === 'advertised' ? 'Of what the machine advertises' : 'Of the server’s own places';
  return open.length > 0
    ? reading('holds', `${words}, ${listed(open.map(({ host }) => host))} can be used.`, [fact])
    : reading('fails', `${words}, nothing can be used from the client.`, [fact]);
}
