import { accountsOf, nearest, sayCode, signInNameOf } from '@loyal-hinge/core';
import type { ClassicFailure, ClassicItem, ConnectOutcome, SeenPlace as SeenPlaceInFact } from '@loyal-hinge/core';
import { bindingText, itemRights, qualityWords, variantText, variantTypeName } from '@loyal-hinge/classic';
import type { ClassicWalk, Observation, PortOutcome, Problem, ReadItem, SeenPlace } from '@loyal-hinge/classic';
import type { Walk } from '../walk.js';

/** Writes down what was seen at a step of a classic link, as facts. */
export function noteObservation(walk: Walk, seen: Observation, classic: ClassicWalk): void {
  const { log } = walk;
  switch (seen.step) {
    case 'name':
      for (const what of seen.addresses.filter((address) => !classic.mayDial(address)))
        log.note({ kind: 'not-tried', reason: 'outside the declared ranges', purpose: 'link', what }, 'reckoned');
      return;
    case 'reach': {
      const from = classic.localAddress ?? null;
      for (const { address, outcome, ms } of seen.tried)
        if (outcome === 'not-bound')
          log.note({ kind: 'not-tried', reason: 'no such near address', purpose: 'link', what: from ?? '' });
        else
          log.note({
            kind: 'tcp-connect',
            purpose: 'link',
            from,
            address,
            port: classic.mapperPort,
            outcome: connectOutcome(outcome),
            ms,
          });
      return;
    }
    case 'mapper': {
      const version = seen.version && `${seen.version.major}.${seen.version.minor}`;
      const advertised = seen.bindings.map(bindingText);
      return void log.note({ kind: 'classic-mapper', version, advertised, failure: failureIn(seen.problem) });
    }
    case 'bindings':
      return void log.note({ kind: 'classic-bindings', places: seen.places.map(placeIn) });
    case 'sign-in':
      return void log.note({
        kind: 'classic-sign-in',
        level: seen.level,
        userName: seen.user,
        outcome: seen.problem ? 'refused' : 'let in',
        failure: failureIn(seen.problem),
        withheld: null,
        computer: seen.target?.computer ?? seen.target?.name ?? null,
        clockApartMs: seen.clockMs,
        isProven: seen.isProven,
        isAtMapper: seen.at === 'mapper',
      });
    case 'class': {
      const known = seen.others.map(({ progId }) => progId);
      const { progId, clsid, by } = seen;
      const program = progId ?? clsid ?? '';
      return void log.note({
        kind: 'classic-class',
        program,
        clsid,
        by,
        nearest: nearest(program, known),
        known: known.slice(0, mostKnown),
        failure: failureIn(seen.problem),
      });
    }
    case 'activation':
      return void log.note({
        kind: 'classic-activation',
        level: classic.identity.level,
        places: seen.places.map(bindingText),
        wantedLevel: seen.level,
        failure: failureIn(seen.problem),
      });
    case 'object-port':
      return void log.note({ kind: 'classic-object-port', places: seen.places.map(placeIn) });
    case 'access':
      return void log.note({
        kind: 'classic-access',
        state: seen.status?.state ?? null,
        vendor: seen.status?.vendor ?? '',
        version: seen.status?.version ?? '',
        startTime: instantOf(seen.status?.startTime ?? null),
        failure: failureIn(seen.problem),
      });
    case 'browse': {
      for (const { text, items, isWhole, ms } of seen.patterns)
        log.note({ kind: 'item-pattern', pattern: text, paths: [...items], isWhole, ms });
      const missing = seen.missing.map((path) => ({ path, nearest: nearest(path, seen.some) }));
      return void log.note({
        kind: 'classic-browse',
        nameSpace: seen.nameSpace,
        count: seen.count,
        missing,
        failure: failureIn(seen.problem),
      });
    }
    case 'read':
      noteEarlierWrites(walk);
      return void log.note({ kind: 'classic-read', items: seen.items.map(itemIn), failure: failureIn(seen.problem) });
    case 'write': {
      const { link, server } = walk.subject;
      const as = { userName: signInNameOf(link.identity), applicationUri: accountsOf(server) };
      for (const { itemId: path, outcome, error, before, after } of seen.items)
        log.note({
          kind: 'item-written',
          path,
          nodeId: path,
          outcome,
          code: error >>> 31 === 1 ? `${sayCode(error)}.` : 'Good',
          before: before && variantText(before),
          after: after && variantText(after),
          by: walk.means.writes?.by ?? '',
          as,
          ms: 0,
        });
      return;
    }
    case 'watch':
      return void log.note({
        kind: 'classic-watch',
        wantedMs: seen.wantedMs,
        revisedMs: seen.revisedMs,
        back: seen.back && { hosts: seen.back.hosts, resolverPort: seen.back.resolver, objectPort: seen.back.objects },
        calls: seen.calls.map(({ from, account, level, afterMs }) => ({ from, account, level, afterMs })),
        unproven: seen.unproven,
        strangers: seen.strangers,
        failure: failureIn(seen.problem),
      });
  }
}

const mostKnown = 20;
const instantOf = (millis: number | null): string | null => (millis === null ? null : new Date(millis).toISOString());

function failureIn(problem: Problem | null): ClassicFailure | null {
  if (problem?.by !== 'way') return problem;
  const { by, kind, says } = problem;
  return { by, kind: kind === 'not-bound' ? 'unreachable' : kind, says };
}

const connectOutcome = (outcome: PortOutcome): ConnectOutcome =>
  outcome === 'open' || outcome === 'refused' || outcome === 'silent'
    ? outcome
    : outcome === 'ended'
      ? 'reset'
      : 'unreachable';

const placeIn = ({ host, port, addresses, outcome }: SeenPlace): SeenPlaceInFact => ({
  host,
  port,
  addresses,
  outcome: outcome && connectOutcome(outcome),
});

const itemIn = ({ itemId, error, type, accessRights, quality, value, timestamp }: ReadItem): ClassicItem => ({
  path: itemId,
  code: error >>> 31 === 1 ? error : 0,
  dataType: type === null ? null : variantTypeName(type),
  mayRead: accessRights === null ? null : (accessRights & itemRights.read) !== 0,
  mayWrite: accessRights === null ? null : (accessRights & itemRights.write) !== 0,
  quality,
  qualitySays: quality === null ? null : qualityWords(quality),
  value: value && variantText(value),
  timestamp: instantOf(timestamp),
});

/** Items that earlier checks wrote and read back prove the step still. */
function noteEarlierWrites({ log, means, subject: { link } }: Walk): void {
  for (const { path, uses } of link.needs) {
    const earlier = uses.includes('write') ? means.earlierWrites.get(path) : undefined;
    if (earlier) log.note({ kind: 'earlier-write', path, on: earlier.on, by: earlier.by, as: earlier.as }, 'reported');
  }
}
