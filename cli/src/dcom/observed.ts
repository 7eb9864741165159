import { codeText, nearest, sayCode } from '@loyal-hinge/core';
import { bindingText, qualityKind, qualityWords, variantText, variantTypeName } from '@loyal-hinge/classic';
import type { ClassicWalk, Observation, Problem, ReadItem, SeenPlace } from '@loyal-hinge/classic';

/** What is told of a step. */
export interface ReadStep {
  readonly result: 'holds' | 'weak' | 'fails' | 'unknown' | 'not-needed';
  readonly code?: string;
  readonly detail: string;
}

const holds = (detail: string): ReadStep => ({ result: 'holds', detail });
const weak = (detail: string): ReadStep => ({ result: 'weak', detail });
const fails = (detail: string): ReadStep => ({ result: 'fails', detail });

/** A problem, with its code and what it means. */
function failed(problem: Problem, what: string): ReadStep {
  if (problem.by === 'way') return fails(`${what}: ${problem.says}`);
  return { result: 'fails', code: codeText(problem.code), detail: `${what}: ${sayCode(problem.code)}.` };
}

/** What an observation says of its step by itself. */
export function readObservation(seen: Observation, walk: ClassicWalk): ReadStep {
  switch (seen.step) {
    case 'name':
      return seen.addresses.length === 0
        ? fails(`${walk.host} means no address here.`)
        : holds(`${walk.host} means ${seen.addresses.join(', ')}.`);
    case 'reach': {
      const told = seen.tried.map(({ address, outcome }) => `${address}: ${outcome}`).join(', ');
      return seen.tried.some(({ outcome }) => outcome === 'open')
        ? holds(`Port ${walk.mapperPort} is open (${told}).`)
        : fails(`Port ${walk.mapperPort} does not answer (${told}).`);
    }
    case 'mapper':
      return seen.problem
        ? failed(seen.problem, 'The mapper can’t be asked')
        : holds(
            `COM ${seen.version?.major ?? 0}.${seen.version?.minor ?? 0} answers, and advertises ${placesText(seen.bindings)}.`,
          );
    case 'bindings':
      return readPlaces(seen.places, 'advertised');
    case 'sign-in':
      return readSignIn(seen);
    case 'class':
      return readClass(seen);
    case 'activation':
      return seen.problem
        ? failed(seen.problem, 'The server is not made')
        : holds(
            `The server was made; its objects are at ${placesText(seen.places)}${seen.level ? `, and want level ${seen.level}` : ''}.`,
          );
    case 'object-port':
      return readPlaces(seen.places, 'object');
    case 'access':
      if (!seen.status) return failed(seen.problem ?? { by: 'method', code: 0x80004005 }, 'The server can’t be called');
      return (seen.status.state === 'running' ? holds : weak)(
        `${seen.status.vendor || 'The server'}, version ${seen.status.version}, is ${seen.status.state ?? 'in a state that has no name'}.`,
      );
    case 'browse':
      return readBrowse(seen);
    case 'read':
      return readItems(seen);
    case 'watch':
      return readWatch(seen);
    case 'write':
      return { result: 'not-needed', detail: 'Nothing is written from here.' };
  }
}

const placesText = (places: readonly Pick<SeenPlace, 'host' | 'port'>[]): string =>
  places.length === 0 ? 'no place' : places.map(bindingText).join(', ');

function readPlaces(places: readonly SeenPlace[], kind: 'advertised' | 'object'): ReadStep {
  const open = places.filter(({ outcome }) => outcome === 'open');
  const others = places
    .filter(({ outcome }) => outcome !== 'open')
    .map(
      (place) =>
        `${bindingText(place)} ${place.addresses.length === 0 ? 'means no address here' : (place.outcome ?? 'was not dialled')}`,
    );
  if (open.length === 0)
    return fails(
      places.length === 0
        ? `The server says of no place where it is.`
        : `No ${kind} place can be used from here: ${others.join('; ')}.`,
    );
  const told = `${placesText(open)} can be used from here`;
  return others.length === 0 ? holds(`${told}.`) : weak(`${told}; ${others.join('; ')}.`);
}

const mostClockMs = 5 * 60_000;

function readSignIn(seen: Extract<Observation, { readonly step: 'sign-in' }>): ReadStep {
  const who = seen.user ?? 'nobody';
  const target = seen.target?.computer ?? seen.target?.name;
  const clock =
    seen.clockMs === null || Math.abs(seen.clockMs) < mostClockMs
      ? ''
      : ` Its clock is ${Math.round(Math.abs(seen.clockMs) / 60_000)} minutes ${seen.clockMs > 0 ? 'ahead' : 'behind'}.`;
  const at = target ? ` at ${target}` : '';
  const other =
    seen.at === 'mapper'
      ? ''
      : `, tried on ${seen.at === 'management' ? 'the management interface' : 'the endpoint mapper'} of RPC`;
  if (seen.problem?.by === 'way' && other !== '')
    return { result: 'unknown', detail: `Signing in could not be tried: ${seen.problem.says}` };
  if (seen.problem) {
    const read = failed(seen.problem, `Signing in as ${who}${at} at level ${seen.level} is refused${other}`);
    return { ...read, detail: `${read.detail}${clock}` };
  }
  if (seen.level === 'none') return weak('Nobody was asked who they are: level none.');
  const proof = seen.isProven ? '' : ' At this level an answer does not prove that the password is right.';
  const detail = `${who} is let in${at} at level ${seen.level}${other}.${proof}${clock}`;
  return clock === '' && seen.user !== null && seen.isProven ? holds(detail) : weak(detail);
}

const programUnknown = 0x800401f3;

function readClass(seen: Extract<Observation, { readonly step: 'class' }>): ReadStep {
  if (seen.clsid !== null)
    return holds(
      seen.by === 'given'
        ? `The class is ${seen.clsid}, as given.`
        : `${seen.progId ?? ''} is the class ${seen.clsid}.`,
    );
  const near = nearest(
    seen.progId ?? '',
    seen.others.map(({ progId }) => progId),
  );
  const problem = seen.problem ?? { by: 'method' as const, code: programUnknown };
  if (problem.by === 'way' || problem.code !== programUnknown)
    return failed(problem, 'The machine’s server list can’t be asked');
  const read = failed(problem, `The class of ${seen.progId ?? ''} is not known`);
  return near === null ? read : { ...read, detail: `${read.detail} The nearest name there is ${near}.` };
}

function readBrowse(seen: Extract<Observation, { readonly step: 'browse' }>): ReadStep {
  if (seen.problem) return failed(seen.problem, 'The items can’t be browsed');
  const told = `${seen.count} items, ${seen.nameSpace === 'flat' ? 'in one list' : 'in branches'}`;
  if (seen.missing.length === 0) return holds(`${told}.`);
  const missing = seen.missing.map((item) => {
    const near = nearest(item, seen.some);
    return near === null ? item : `${item} (the nearest is ${near})`;
  });
  return { result: 'fails', code: codeText(0xc0040007), detail: `${told}; not there: ${missing.join(', ')}.` };
}

function readItems(seen: Extract<Observation, { readonly step: 'read' }>): ReadStep {
  if (seen.problem) return failed(seen.problem, 'The items can’t be read');
  const bad = seen.items.filter(({ error }) => error >>> 31 === 1);
  const [first] = bad;
  const told = seen.items.map(itemText).join('; ');
  if (first) return { result: 'fails', code: codeText(first.error), detail: `${told}.` };
  const isGood = seen.items.every(({ quality }) => quality !== null && qualityKind(quality) === 'good');
  return (
    isGood ? holds : seen.items.some(({ quality }) => quality !== null && qualityKind(quality) === 'bad') ? fails : weak
  )(`${told}.`);
}

function itemText({ itemId, error, quality, value, type, timestamp }: ReadItem): string {
  if (error >>> 31 === 1) return `${itemId}: ${sayCode(error)}`;
  const time = timestamp === null ? '' : `, ${new Date(timestamp).toISOString()}`;
  return `${itemId} = ${value ? variantText(value) : ''} (${variantTypeName(type ?? 0)}, ${qualityWords(quality ?? 0)}${time})`;
}

function readWatch(seen: Extract<Observation, { readonly step: 'watch' }>): ReadStep {
  const back = seen.back
    ? ` We were to be called back at ${seen.back.hosts.join(', ')}, ports ${seen.back.resolver} and ${seen.back.objects}.`
    : '';
  const [unproven] = seen.unproven;
  if (unproven && seen.calls.length === 0)
    return weak(
      `Called back from ${unproven.from} as ${unproven.account}, whose password is not known here: the way is open, and the call could not be taken.`,
    );
  if (seen.problem) {
    const read = failed(seen.problem, 'Changes can’t be had');
    return { ...read, detail: `${read.detail}${back}` };
  }
  const [first] = seen.calls;
  if (!first) return fails(`Advising worked, and nobody called back.${back}`);
  const rate = seen.revisedMs ?? seen.wantedMs;
  const as = first.account === null ? 'nobody' : first.account;
  const told = `Called back from ${first.from} as ${as} at level ${first.level} after ${first.afterMs} ms; ${seen.calls.length} calls, every ${rate} ms at most`;
  if (rate > 2 * seen.wantedMs) return weak(`${told}: ${seen.wantedMs} ms were wanted.`);
  return first.account === null ? weak(`${told}. Anybody may call back like this.`) : holds(`${told}.`);
}
