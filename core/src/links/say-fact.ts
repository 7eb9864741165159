import { sayClassicFact } from './classic/say-fact.js';
import { sayFieldFact } from './field/say-fact.js';
import { sayPasswordTarget } from './password-target.js';
import { sayProblem } from '../trust/validation/problem.js';
import { explainedStatusCode } from '../ua/status-codes.js';
import { redundancySupports } from '../ua/redundancy.js';
import { tokenWords } from '../ua/user-tokens.js';
import { endpointName } from '../entry/endpoint.js';
import { sayFloor } from '../entry/floor.js';
import type { Fact, FactOf, TcpConnectFact, TunnelEndSeen } from './facts.js';
import { counted, listed } from './wording.js';
import { dayOf, spanOf } from '../time.js';

/** One sentence for a fact, as it stands under “how we know”. */
export function sayFact(fact: Fact): string {
  switch (fact.kind) {
    case 'endpoint-url':
      return fact.flaws.length > 0
        ? `The endpoint URL is “${fact.given}”. ${fact.flaws.map((flaw) => flaw.says).join(' ')}`
        : `The endpoint URL is ${fact.given}.`;
    case 'name-resolution':
      return sayResolution(fact);
    case 'tunnel':
      return sayTunnel(fact);
    case 'passage':
      return sayPassage(fact);
    case 'tcp-connect':
      return `${fact.address} port ${fact.port} ${outcomes[fact.outcome]} after ${spanOf(fact.ms)}${fact.from ? `, dialled from ${fact.from}` : ''}.`;
    case 'hello':
      return sayHello(fact);
    case 'servers':
      return fact.failure
        ? `FindServers failed: ${fact.failure}.`
        : `FindServers reports ${listed(fact.servers.map((server) => server.applicationUri))}.`;
    case 'endpoints':
      return fact.outcome === 'listed'
        ? `GetEndpoints lists ${counted(fact.endpoints.length, 'endpoint')}: ${listed(fact.endpoints.map((endpoint) => `${endpointName(endpoint)} at ${endpoint.endpointUrl}`))}.`
        : `GetEndpoints failed: ${explainedStatusCode(fact.code)} ${fact.reason}`.trimEnd();
    case 'entry-floor':
      return fact.exception
        ? `By an exception until ${dayOf(fact.exception.until)}, what is accepted here is: ${sayFloor(fact.floor)}.`
        : `The plant accepts: ${sayFloor(fact.floor)}.`;
    case 'earlier-server-certificate':
      return `The check before saw the certificate ${fact.certificate.thumbprint}, valid until ${dayOf(fact.certificate.notAfter)}.`;
    case 'certificate-validation':
      return sayValidation(fact);
    case 'listed-certificate':
      return `The client’s certificate ${fact.thumbprint} is in the server’s ${fact.list} list${fact.since ? ` since ${dayOf(fact.since)} at the latest` : ''} (read over ${fact.by}).`;
    case 'channel':
      return sayChannel(fact);
    case 'anonymous':
      return fact.accepted
        ? 'An anonymous session was accepted.'
        : `An anonymous session was refused: ${explainedStatusCode(fact.code)}`;
    case 'user-certificate':
      return `The user certificate “${fact.name}” is ${fact.certificate.subject} (${fact.certificate.thumbprint}), valid from ${dayOf(fact.certificate.notBefore)} to ${dayOf(fact.certificate.notAfter)}.`;
    case 'redundancy':
      return sayRedundancy(fact);
    case 'session':
      return saySession(fact);
    case 'item-found':
      return fact.outcome === 'found'
        ? `${fact.path} is the node ${fact.nodeId}.`
        : `${fact.path} was not found among ${counted(fact.seen, 'node')}: ${explainedStatusCode(fact.code)}${fact.nearest ? ` The nearest is ${fact.nearest}.` : ''}`;
    case 'item-pattern':
      return `${fact.pattern} fits ${counted(fact.paths.length, 'variable')}${fact.isWhole ? '' : ', and there may be more'}: ${listed(fact.paths.slice(0, mostTold))}${fact.paths.length > mostTold ? ' and others' : ''}.`;
    case 'item-seen-by-other':
      return `${fact.path} was found there by ${fact.as === '' ? 'an anonymous user' : `“${fact.as}”`}, in ${fact.by} on ${dayOf(fact.on)}.`;
    case 'item-read':
      return fact.code === 'Good'
        ? `${fact.path} is ${fact.value ?? 'empty'}, source time ${fact.sourceTimestamp ?? 'not given'}.`
        : `${fact.path} gave ${explainedStatusCode(fact.code)}`;
    case 'item-rights':
      return sayRights(fact);
    case 'item-written':
      return sayWritten(fact);
    case 'earlier-write':
      return `${fact.path} was written and read back on ${dayOf(fact.on)}, by ${fact.by}.`;
    case 'item-history':
      return sayHistory(fact);
    case 'item-alarms':
      return sayAlarms(fact);
    case 'earlier-item-type':
      return `The check before saw ${fact.path} as ${fact.dataType}.`;
    case 'lists-unread':
      return `The server’s lists could not be read: ${fact.reason}`;
    case 'change-made':
      return fact.inLists
        ? `${fact.says} Done by ${fact.by} on ${dayOf(fact.since)}; its lists show it.`
        : `${fact.says} Done by ${fact.by} on ${dayOf(fact.since)}, and not proved yet.`;
    case 'not-tried':
      return `${fact.what}: not tried (${fact.reason}).`;
    case 'item-watched':
      return sayWatched(fact);
    case 'check-stopped':
      return `The check stopped during ${fact.during}: ${fact.reason}`;
    case 'field-origin':
    case 'field-name':
    case 'field-reach':
    case 'field-answer':
    case 'field-compared':
    case 'field-unmoved':
      return sayFieldFact(fact);
    default:
      return sayClassicFact(fact);
  }
}

/** Of many paths so many are named. */
const mostTold = 5;

const outcomes: Readonly<Record<TcpConnectFact['outcome'], string>> = {
  open: 'accepted the connection',
  refused: 'refused the connection',
  silent: 'did not answer',
  unreachable: 'can’t be reached',
  reset: 'accepted the connection and reset it',
};

function sayResolution({ host, means, asked, addresses, failure, ms }: FactOf<'name-resolution'>): string {
  if (means === 'literal') return `${host} is an address; nothing has to be resolved.`;
  const who = asked ? `the name server ${asked}` : 'the operating system';
  return addresses.length > 0
    ? `${host} is ${listed(addresses)}, says ${who} (${spanOf(ms)}).`
    : `${host} has no address, says ${who} (${failure ?? 'no answer'}, ${spanOf(ms)}).`;
}

function sayHello(fact: FactOf<'hello'>): string {
  const where = `${fact.address} port ${fact.port}`;
  switch (fact.outcome) {
    case 'acknowledged':
      return `${where} acknowledged the Hello: buffers of ${fact.limits.receiveBufferSize} and ${fact.limits.sendBufferSize} bytes.`;
    case 'error':
      return `${where} answered the Hello with ${explainedStatusCode(fact.code)} ${fact.reason}`.trimEnd();
    case 'other':
      return `${where} answered the Hello with ${fact.looksLike} (first bytes ${fact.firstBytesHex}).`;
    case 'silent':
      return `${where} did not answer the Hello within ${spanOf(fact.ms)}.`;
    case 'closed':
      return `${where} closed the connection on the Hello.`;
  }
}

function sayValidation({ of, validation }: FactOf<'certificate-validation'>): string {
  const whose =
    of === 'server'
      ? 'The server’s certificate against the client’s trust list'
      : 'The client’s certificate against the server’s trust list';
  const failed = validation.steps.filter((step) => step.result === 'failed');
  if (failed.length === 0) {
    const warnings = validation.problems.map(sayProblem);
    return `${whose}: all steps of Part 4 §6.1.3 pass.${warnings.length > 0 ? ` ${warnings.join(' ')}` : ''}`;
  }
  return `${whose} fails at ${listed(failed.map((step) => `step ${step.number} (${step.step})`))}: ${failed.map((step) => step.says).join(' ')}`;
}

function sayChannel(fact: FactOf<'channel'>): string {
  const what = endpointName(fact);
  if (fact.outcome === 'open') return `The secure channel opened with ${what} in ${spanOf(fact.ms)}.`;
  if (fact.outcome === 'refused')
    return `OpenSecureChannel with ${what} was refused: ${explainedStatusCode(fact.code)} ${fact.reason}`.trimEnd();
  return `The server closed the connection on OpenSecureChannel with ${what}. ${fact.reason}`.trimEnd();
}

function sayRedundancy({ support, others }: FactOf<'redundancy'>): string {
  const names = others.map(({ applicationUri, name }) =>
    name === null ? applicationUri : `${name} (${applicationUri})`,
  );
  const how = redundancySupports[support];
  return names.length === 0 ? `${how}.` : `${how}: ${listed(names)}.`;
}

function saySession(fact: FactOf<'session'>): string {
  if (fact.outcome === 'active') {
    const clock = fact.clockApartMs === null ? '' : ` The clocks are ${spanOf(fact.clockApartMs)} apart.`;
    return `The session became active (${tokenWords[fact.tokenType]}) in ${spanOf(fact.ms)}.${clock}`;
  }
  if (fact.outcome === 'refused')
    return `${fact.during} was refused: ${explainedStatusCode(fact.code)} ${fact.reason}`.trimEnd();
  switch (fact.reason) {
    case 'password in clear':
      return 'The password was not sent: nothing would have encrypted it.';
    case 'no password kept':
      return 'No password is stored for this link, so no session was tried.';
    case 'kept for another target':
      return `The password was not sent: it is stored for ${sayPasswordTarget(fact.keptFor)}, and this is ${sayPasswordTarget(fact.wanted)}.`;
    case 'server not proved':
      return `The user was not signed in: nothing proves which server this is. ${fact.says}`;
    case 'no user certificate':
      return `No certificate and key are stored for the user certificate “${fact.name}”, so no session was tried.`;
    case 'refused before':
      return `The password was not sent: the account was refused ${counted(fact.refusals, 'time')} in a row. ${explainedStatusCode(fact.code)}`;
  }
}

function sayRights({
  path,
  userAccessLevel,
  userPermissions,
  accessRestrictions,
  unread,
}: FactOf<'item-rights'>): string {
  const parts = [
    userAccessLevel === null ? null : `UserAccessLevel is ${listed(userAccessLevel) || 'empty'}`,
    userPermissions === null ? null : `the user’s permissions are ${listed(userPermissions) || 'none'}`,
    accessRestrictions === null ? null : `AccessRestrictions is ${listed(accessRestrictions) || 'empty'}`,
    unread.length === 0 ? null : `not read: ${unread.join('; ')}`,
  ].filter((part) => part !== null);
  return `${path}: ${parts.join('; ')}.`;
}

function sayWritten({ path, outcome, code, before, after, by }: FactOf<'item-written'>): string {
  switch (outcome) {
    case 'same value':
      return `${path} was written with the value that it had (${before ?? 'empty'}), and read back, for ${by}.`;
    case 'other value':
      return `${path} accepted the value that it had (${before ?? 'empty'}), and shows ${after ?? 'nothing'} afterwards.`;
    case 'refused':
      return `Writing ${path} with the value that it had was refused: ${explainedStatusCode(code)}`;
    case 'not read':
      return `${path} was not written, since its value could not be read: ${explainedStatusCode(code)}`;
  }
}

function sayHistory({ path, code, values, from, to, oldest, newest }: FactOf<'item-history'>): string {
  const span = spanOf(Date.parse(to) - Date.parse(from));
  if (code.startsWith('Bad')) return `The history of ${path} can’t be read: ${explainedStatusCode(code)}`;
  return values === 0
    ? `${path} has no value in the last ${span}.`
    : `${path}: ${counted(values, 'value')} of the last ${span}, from ${oldest ?? 'no time'} to ${newest ?? 'no time'}.`;
}

function sayAlarms({ path, code, refreshCode, events, first, waitedMs }: FactOf<'item-alarms'>): string {
  if (code !== 'Good') return `The events of ${path} can’t be listened to: ${explainedStatusCode(code)}`;
  const refresh =
    refreshCode === '' || refreshCode === 'Good' ? '' : ` ConditionRefresh: ${explainedStatusCode(refreshCode)}`;
  return first === null
    ? `${path}: no event came in ${spanOf(waitedMs)}.${refresh}`
    : `${path}: ${counted(events, 'event')} in ${spanOf(waitedMs)}, first “${first.message}” of ${first.sourceName || 'no source'}, severity ${first.severity}.${refresh}`;
}

function sayWatched(fact: FactOf<'item-watched'>): string {
  if (fact.code !== 'Good') return `${fact.path} can’t be watched: ${explainedStatusCode(fact.code)}`;
  const first =
    fact.firstNotificationMs === null
      ? `no notification within ${spanOf(fact.waitedMs)}`
      : `first notification after ${spanOf(fact.firstNotificationMs)}`;
  return `${fact.path}: ${first}, ${counted(fact.changes, 'change')}, ${counted(fact.keepAlives, 'keep-alive')}; sampling every ${spanOf(fact.revisedSamplingIntervalMs)}.`;
}

/** How a tunnel that a link goes through stands. */
function sayTunnel({ name, entrance, target, ends }: FactOf<'tunnel'>): string {
  const each = ends.map(({ machine, state, fault }) =>
    fault === null ? `the end on ${machine} ${tunnelEndWords[state]}` : `the end on ${machine} can’t: ${fault}`,
  );
  return `Through ${name}, from ${entrance.address} port ${entrance.port} to ${target.address} port ${target.port}: ${listed(each)}.`;
}

/** How an end of a tunnel stands, in words. */
export const tunnelEndWords: Readonly<Record<TunnelEndSeen['state'], string>> = {
  joined: 'is joined',
  waiting: 'waits for the other one',
  stopping: 'is stopping',
  away: 'is silent',
  unset: 'was never heard',
};

/** What the firewalls’ rules make of an opening. */
function sayPassage(fact: FactOf<'passage'>): string {
  const what = `TCP port ${listed(fact.ports)} of ${listed(fact.to)} from ${listed(fact.from)}`;
  const each = fact.firewalls.map((firewall) => {
    const rule = firewall.rule
      ? `rule ${firewall.rule.index + 1} of ${firewall.rule.chain}, “${firewall.rule.text}”`
      : null;
    const by =
      firewall.verdict === 'unknown'
        ? rule
          ? `${rule} can’t be told`
          : (firewall.why ?? 'it can’t be told')
        : (rule ?? 'no rule of its own');
    const taken = firewall.takenAt === null ? '' : `, rules of ${dayOf(firewall.takenAt)}`;
    const leads = firewall.translated === null ? '' : `, leads to ${firewall.translated}`;
    const does = firewall.isAnswer ? answerVerdictWords[firewall.verdict] : passageVerdictWords[firewall.verdict];
    return `${firewall.name} ${does} (${firewall.takenAt === null ? 'its rules are not known' : by}${leads}${taken})`;
  });
  return each.length === 0 ? `There is no firewall on the way to ${what}.` : `To ${what}: ${listed(each)}.`;
}

/** What a firewall does, in words. */
export const passageVerdictWords: Readonly<Record<FactOf<'passage'>['verdict'], string>> = {
  accept: 'lets it through',
  drop: 'drops it',
  reject: 'refuses it',
  partly: 'lets some of it through',
  unknown: 'can’t be told',
  'not-told': 'is not known',
};
/** What a firewall does to the answers of a connection that is opened through it. */
export const answerVerdictWords: typeof passageVerdictWords = {
  ...passageVerdictWords,
  drop: 'drops the answers',
  reject: 'refuses the answers',
  partly: 'lets some of the answers through',
};
