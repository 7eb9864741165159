import { codeText, sayCode } from '../../dcom/codes.js';
import type { ConnectOutcome, FactBody } from '../../links/facts.js';
import type { ClassicFailure } from '../../links/classic/facts.js';
import { registeredMapperPort } from '../../links/link-url.js';
import { callLevels } from '../../plant/plant.js';
import type { CallLevel } from '../../plant/plant.js';
import { securityPolicyOf } from '../../ua/security-policies.js';
import { printedStatusCode } from '../../ua/status-codes.js';
import type { Conversation, ConversationOutcome, HeardError } from '../conversation/conversation.js';
import type { Attempt, AttemptEnd, AttemptSource } from './attempt.js';
import { endsOpening, outOfDate } from './hidden-refusal.js';
import { notCalledBack } from './watch-fact.js';

/** What a conversation shows of one attempt: as far as it came, in the facts of a live check. */
export function attemptOfConversation(conversation: Conversation, { fileId, clockAheadMs }: AttemptSource): Attempt {
  const { client, server, start, end, protocol, user, position } = conversation;
  const facts = protocol === 'dcerpc' ? classicFacts(conversation) : uaFacts(conversation);
  const ended = endsOpening(conversation)
    ? refusedInSecret
    : facts.some(isLeftUnanswered)
      ? unanswered
      : endOf(conversation);
  return {
    kind: protocol === 'opc.tcp' ? 'ua' : protocol === 'dcerpc' ? 'classic' : null,
    from: { ...client, name: null },
    to: { ...server, name: null },
    as: user ?? null,
    start: start / 1000 - clockAheadMs,
    end: end / 1000 - clockAheadMs,
    ended,
    facts: [connectFact(conversation), ...facts],
    remarks: remarksOn(conversation),
    evidence: [{ fileId, position, says: ended.says }],
  };
}

/** The server closed the connection instead of answering. */
const isLeftUnanswered = (fact: FactBody): boolean =>
  (fact.kind === 'hello' || fact.kind === 'channel') && fact.outcome === 'closed';
const refusedInSecret: AttemptEnd = {
  hasFailed: true,
  code: '',
  says: 'It ended right behind the server’s answer to the opening of the channel: so a server refuses, and why is encrypted.',
};
const unanswered: AttemptEnd = {
  hasFailed: true,
  code: '',
  says: 'The connection was closed before the server had answered.',
};

const connected: Readonly<Record<ConversationOutcome, ConnectOutcome>> = {
  closed: 'open',
  'left-open': 'open',
  'cut-off': 'open',
  'reset-by-client': 'open',
  'reset-by-server': 'open',
  refused: 'refused',
  silent: 'silent',
  prohibited: 'unreachable',
};

function connectFact({ client, server, outcome, start, end }: Conversation): FactBody {
  return {
    kind: 'tcp-connect',
    purpose: 'link',
    from: client.address,
    address: server.address,
    port: server.port,
    outcome: connected[outcome],
    ms: connected[outcome] === 'open' ? 0 : Math.round((end - start) / 1000),
  };
}

/** Hello, channel and session, each only as far as it was seen; a failure is where it ended. */
function uaFacts(conversation: Conversation): FactBody[] {
  const { protocol, server, limits, services = [], error, outcome, ...told } = conversation;
  if (protocol !== 'opc.tcp' || told.endpointUrl === undefined) return [];
  const at = { address: server.address, port: server.port, ms: 0 };
  const isOver = outcome !== 'left-open' && outcome !== 'cut-off';
  const opening = services.find(({ name }) => name === 'OpenSecureChannel');
  if (!limits && !opening) {
    if (error) return [{ kind: 'hello', ...at, outcome: 'error', code: error.name, reason: error.reason }];
    return [{ kind: 'hello', ...at, outcome: isOver ? 'closed' : 'silent' }];
  }
  const facts: FactBody[] = limits ? [{ kind: 'hello', ...at, outcome: 'acknowledged', limits }] : [];
  if (!opening || told.securityPolicyUri === undefined) return facts;
  const channel = {
    kind: 'channel' as const,
    securityPolicyUri: told.securityPolicyUri,
    securityMode: modes.find((mode) => mode === told.securityMode) ?? null,
    ms: 0,
  };
  if (opening.result !== 'Good') {
    const code = opening.result ?? error?.name ?? null;
    if (code !== null) facts.push({ ...channel, outcome: 'refused', code, reason: error?.reason ?? '' });
    else if (isOver) facts.push({ ...channel, outcome: 'closed', reason: '' });
    return [...facts, ...outOfDate(conversation)];
  }
  if (endsOpening(conversation))
    return [...facts, { ...channel, outcome: 'closed', reason: '' }, ...outOfDate(conversation)];
  facts.push({ ...channel, outcome: 'open' });
  const refused = services.findLast(
    ({ name, result }) => (name === 'CreateSession' || name === 'ActivateSession') && result?.startsWith('Bad'),
  );
  const isMended = services.some(
    ({ name, result, at: when }) => refused?.name === name && result === 'Good' && when > refused.at,
  );
  if (!refused?.result || isMended) return facts;
  const session = {
    kind: 'session' as const,
    tokenType: told.signedInBy ?? 'Anonymous',
    passwordInClear: told.hasClearPassword ?? false,
    ms: 0,
  };
  const during = refused.name === 'CreateSession' ? 'CreateSession' : 'ActivateSession';
  facts.push({ ...session, outcome: 'refused', code: refused.result, reason: '', during });
  return facts;
}
const modes = ['None', 'Sign', 'SignAndEncrypt'] as const;

const activations = ['IRemoteSCMActivator.RemoteCreateInstance', 'IRemoteSCMActivator.RemoteGetClassObject'];
const advising = 'IConnectionPoint.Advise';
const accessDenied = 5;
const failedFrom = 0x80000000;

/** What the calls of RPC show: the mapper, signing in, activation, the way back. */
function classicFacts({
  server,
  services = [],
  error,
  user,
  callLevel,
  interfaces = [],
  notes,
}: Conversation): FactBody[] {
  const level: CallLevel = callLevels[(callLevel ?? 1) - 1] ?? 'none';
  const facts: FactBody[] = [];
  const failureOf = (result: string | null): ClassicFailure | null => {
    const code = result === null ? 0 : Number(result);
    if (error && error.code === code) return { by: 'fault', code };
    return code >= failedFrom ? { by: 'method', code } : null;
  };
  const answeredBy = (name: string): boolean =>
    services.some((call) => call.name === name && call.result === '0x00000000');
  if (server.port === registeredMapperPort && answeredBy('IObjectExporter.ServerAlive2'))
    facts.push({ kind: 'classic-mapper', version: null, advertised: [], failure: null });
  const activation = services.findLast(({ name }) => activations.includes(name));
  const isRefusedBefore = !activation && error?.code === accessDenied && interfaces.length > 0;
  if (isRefusedBefore && server.port === registeredMapperPort)
    facts.push({
      kind: 'classic-sign-in',
      level,
      userName: user ?? null,
      outcome: 'refused',
      failure: { by: 'fault', code: accessDenied },
      withheld: null,
      computer: null,
      clockApartMs: null,
      isProven: false,
      isAtMapper: true,
    });
  if (activation?.result)
    facts.push({
      kind: 'classic-activation',
      level,
      places: notes.flatMap((note) => /^The object is at port (\d+)\.$/.exec(note)?.[1] ?? []),
      wantedLevel: null,
      failure: failureOf(activation.result),
    });
  const advised = services.findLast(({ name }) => name === advising);
  const failure = failureOf(advised?.result ?? null);
  if (failure) facts.push(notCalledBack(failure));
  return facts;
}

const ends: Readonly<Record<ConversationOutcome, string>> = {
  closed: 'It was closed as it should be.',
  'left-open': 'It was still open when it was last seen.',
  'cut-off': 'The capture ends within it.',
  'reset-by-client': 'The client broke it off.',
  'reset-by-server': 'The server broke it off.',
  refused: 'The machine refused the connection: nothing listens at the port.',
  silent: 'Nothing answered.',
  prohibited: 'Something on the way answered that it can’t be reached.',
};
/** What wishes for changes are answered with that still wait when a session is closed as it should be (Part 4 §5.14.5). */
const usualAtTheEnd = new Set(['BadNoSubscription', 'BadSessionClosed']);

/** What the protocol itself said counts more than how the connection ended. */
function endOf({ outcome, error, hresult, notes, services = [] }: Conversation): AttemptEnd {
  const hasWorked = services.some(({ result }) => result === 'Good' || result === '0x00000000');
  if (error && !(hasWorked && outcome === 'closed' && usualAtTheEnd.has(error.name)))
    return { hasFailed: true, code: error.name, says: sayError(error) };
  if (hresult !== undefined && hresult >= failedFrom)
    return { hasFailed: true, code: codeText(hresult), says: `It ended with ${sayCode(hresult)}.` };
  const hasFailed = outcome === 'refused' || outcome === 'silent' || outcome === 'prohibited';
  const isBrokenOff = outcome === 'reset-by-server' && !hasWorked;
  const stopped = outcome === 'prohibited' ? notes.find((note) => note.includes(' answered that ')) : undefined;
  return { hasFailed: hasFailed || isBrokenOff, code: '', says: stopped ?? ends[outcome] };
}

/** A code of UA stands first, as everywhere; others are only words. */
function sayError({ name, reason }: HeardError): string {
  if (name.startsWith('Bad')) return [printedStatusCode(name), reason].filter(Boolean).join(': ');
  const says = reason.replace(/\.$/, '');
  return says.includes(name) ? `${says}.` : `${says}: ${name}.`;
}

function remarksOn({ hasClearPassword, securityPolicyUri, protocol, notes }: Conversation): string[] {
  const policy = securityPolicyUri === undefined ? null : securityPolicyOf(securityPolicyUri);
  return [
    ...(hasClearPassword ? ['A password went over the connection in clear text.'] : []),
    ...(policy && policy.deprecatedSince !== null
      ? [`The policy ${policy.name} was used, which is no longer secure.`]
      : []),
    ...(protocol === 'tls' ? notes.filter((note) => note.endsWith('is no longer secure.')) : []),
  ];
}
