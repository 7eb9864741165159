import { sayCode } from '../../dcom/codes.js';
import { dayOf, spanOf } from '../../time.js';
import { counted, listed } from '../wording.js';
import type { ClassicFact, ClassicFailure, ClassicItem, SeenPlace } from './facts.js';

/** A failure, with what its code means. Ends without a full stop. */
export const sayFailure = (failure: ClassicFailure): string =>
  failure.by === 'way' ? failure.says.replace(/\.$/, '') : sayCode(failure.code);

const placeWord = ({ host, port }: Pick<SeenPlace, 'host' | 'port'>): string =>
  port === null ? host : `${host}, port ${port}`;
/** A place, and how it looks from the client. */
export const sayPlace = (place: SeenPlace): string =>
  `${placeWord(place)} ${
    place.addresses.length === 0
      ? 'means no address here'
      : place.outcome === null
        ? 'may not be dialled from here'
        : `is ${place.outcome}`
  }`;

/** One sentence for a fact of a classic link. */
export function sayClassicFact(fact: ClassicFact): string {
  switch (fact.kind) {
    case 'classic-rights': {
      const rights = fact.rights.map(({ right, says }) => `${right}: ${says}`).join(' ');
      return `By the export of ${dayOf(fact.takenAt)}, of ${fact.application}: ${rights === '' ? 'who the account is, no export tells.' : rights}`;
    }
    case 'classic-mapper':
      return fact.failure
        ? `The mapper could not be asked: ${sayFailure(fact.failure)}.`
        : `The mapper speaks COM ${fact.version ?? ''} and advertises ${listed(fact.advertised)}.`;
    case 'classic-bindings':
      return `As seen from the client: ${listed(fact.places.map(sayPlace))}.`;
    case 'classic-object-port':
      return `Where the server’s objects are: ${listed(fact.places.map(sayPlace))}.`;
    case 'classic-sign-in': {
      const who = fact.userName === null ? 'nobody' : `“${fact.userName}”`;
      const there = fact.computer === null ? '' : ` The machine names itself ${fact.computer}.`;
      if (fact.outcome === 'withheld') return `${who} was not signed in.`;
      return fact.failure
        ? `Signing in as ${who} at level ${fact.level} was refused: ${sayFailure(fact.failure)}.${there}`
        : `${who} was let in at level ${fact.level}.${there}`;
    }
    case 'classic-class':
      return fact.clsid === null
        ? `The class of ${fact.program} was not found: ${fact.failure ? sayFailure(fact.failure) : 'it is not known'}.`
        : `${fact.program} is the class ${fact.clsid}${fact.by === 'given' ? ', as the link says' : ', by the machine’s server list'}.`;
    case 'classic-activation':
      return fact.failure
        ? `The server was not made: ${sayFailure(fact.failure)}.`
        : `The server was made; its objects are at ${listed(fact.places)}${fact.wantedLevel ? `, and want level ${fact.wantedLevel}` : ''}.`;
    case 'classic-access':
      return fact.failure
        ? `GetStatus failed: ${sayFailure(fact.failure)}.`
        : `${fact.vendor || 'The server'}, version ${fact.version}, says that it is ${fact.state ?? 'in a state without a name'}.`;
    case 'classic-browse':
      return fact.failure
        ? `The items could not be browsed: ${sayFailure(fact.failure)}.`
        : `${counted(fact.count, 'item')} are there, ${fact.nameSpace === 'flat' ? 'in one list' : 'in branches'}${fact.missing.length > 0 ? `, and not ${listed(fact.missing.map(({ path }) => path))}` : ''}.`;
    case 'classic-read':
      return fact.failure
        ? `The items could not be read: ${sayFailure(fact.failure)}.`
        : `${listed(fact.items.map(sayItem))}.`;
    case 'classic-watch': {
      const [first] = fact.calls;
      const [other] = fact.unproven;
      if (!first && other)
        return `Called back from ${other.from} as “${other.account}”, whose password is not known here: the call could not be taken.`;
      if (fact.failure) return `Changes could not be had: ${sayFailure(fact.failure)}.`;
      const rate =
        fact.revisedMs === null
          ? ''
          : ` The server keeps a rate of ${spanOf(fact.revisedMs)}; ${spanOf(fact.wantedMs)} was wanted.`;
      return first
        ? `Called back from ${first.from} as ${first.account === null ? 'nobody' : `“${first.account}”`} at level ${first.level} after ${spanOf(first.afterMs)}; ${counted(fact.calls.length, 'call')} came.${rate}`
        : `Nobody called back.${rate}`;
    }
  }
}

function sayItem({ path, code, value, qualitySays, dataType }: ClassicItem): string {
  return code === 0
    ? `${path} = ${value ?? ''} (${dataType ?? ''}, ${qualitySays ?? ''})`
    : `${path}: ${sayCode(code)}`;
}
