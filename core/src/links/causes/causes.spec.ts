import { assess } from '../assess.js';
import { usualRules } from '../cause.js';
import type { Fact } from '../facts.js';
import {
  certificate,
  endpoint,
  fact,
  facts,
  healthy,
  listed,
  now,
  subject,
  validation,
} from '../../testing/builders.js';
import type { LinkInPlant } from '../../plant/plant.js';
import type { CertificateProblem } from '../../trust/validation/problem.js';
import { causes } from './index.js';

interface Case {
  readonly cause: string;
  readonly fires: readonly Fact[];
  readonly justNot: readonly Fact[];
  readonly on?: LinkInPlant;
}

const about = { subject: 'CN=Furnace server, O=Works', thumbprint: 'AB'.repeat(20) };
const day = 86_400_000;
const before = (ms: number): string => new Date(Date.parse(now) - ms).toISOString();
const none = endpoint('None', 'None', { certificate: null });
const secured = endpoint('Basic256Sha256', 'SignAndEncrypt');
const anonymousToo = endpoint('Basic256Sha256', 'SignAndEncrypt', {
  userTokens: [...secured.userTokens, { policyId: 'anonymous', tokenType: 'Anonymous', securityPolicyUri: '' }],
});
const target = {
  applicationUri: 'urn:works:furnace',
  endpointUrl: 'opc.tcp://furnace:4840',
  pinnedAddress: null,
  userName: 'display',
};
const otherTarget = { ...target, pinnedAddress: '10.0.0.66' };
const encryptedToken = {
  policyId: 'user',
  tokenType: 'UserName' as const,
  securityPolicyUri: secured.securityPolicyUri,
};
const writes = subject({ needs: [{ path: 'Furnace/Crown', uses: ['write'] }] });
const byCertificate = subject({ identity: { kind: 'certificate', certificate: 'control-room' } });
const userCertificate = (notAfter: string): Fact =>
  fact(
    {
      kind: 'user-certificate',
      name: 'control-room',
      certificate: certificate({ subject: 'CN=control-room', notAfter: `${notAfter}T12:00:00.000Z` }),
    },
    'reckoned',
  );
const seenByOther = (path = 'Furnace/Crown'): Fact =>
  fact({ kind: 'item-seen-by-other', path, as: 'technician', on: before(day), by: 'a check' }, 'reported');
const unsecured = { policies: ['None' as const], modes: ['None' as const] };
const closedHello = fact({ kind: 'hello', address: '10.0.0.7', port: 48_400, ms: 3, outcome: 'closed' });
const used = facts.url('opc.tcp://furnace.works.example:4840');
const astray = listed(endpoint('Basic256Sha256', 'SignAndEncrypt', { endpointUrl: 'opc.tcp://cabinet-7:4840' }));
const earlier = (thumbprint: string): Fact =>
  fact({ kind: 'earlier-server-certificate', certificate: certificate({ thumbprint }) }, 'reported');
const rejected = fact(
  { kind: 'listed-certificate', list: 'rejected', thumbprint: 'EF'.repeat(20), since: before(day), by: 'a file' },
  'reported',
);
const helloOther = fact({
  kind: 'hello',
  address: '10.0.0.1',
  port: 4840,
  ms: 2,
  outcome: 'other',
  looksLike: 'HTTP',
  firstBytesHex: '48545450',
});
const helloError = fact({
  kind: 'hello',
  address: '10.0.0.1',
  port: 4840,
  ms: 2,
  outcome: 'error',
  code: 'BadTcpEndpointUrlInvalid',
  reason: '',
});

/** A certificate cause: it fires on its problem, and not on a validation that passes. */
const certificateCase = (problem: CertificateProblem, of: 'server' | 'client' = 'server'): Case => ({
  cause: problem.kind,
  fires: [validation(of, problem)],
  justNot: [validation(of)],
});

const cases: readonly Case[] = [
  {
    cause: 'url-malformed',
    fires: [facts.url('opc.tcp://furnace :4840', [{ kind: 'blank', says: 'It holds a blank.' }])],
    justNot: [used],
  },
  {
    cause: 'name-unknown',
    fires: [facts.resolved([], 'furnca.works.example')],
    justNot: [facts.resolved(['10.0.0.1'])],
  },
  {
    cause: 'name-elsewhere',
    fires: [facts.resolved(['10.0.0.3'])],
    justNot: [facts.resolved(['10.0.0.3', '10.0.0.1'])],
  },
  {
    cause: 'many-addresses',
    fires: [facts.dialled('refused', 1, '10.0.0.9'), facts.dialled('open')],
    justNot: [facts.dialled('open', 1, '10.0.0.9'), facts.dialled('open')],
  },
  {
    cause: 'rules-stop',
    fires: [facts.passage('drop'), facts.dialled('silent')],
    justNot: [facts.passage('drop'), facts.dialled('open')],
  },
  {
    cause: 'rules-out-of-date',
    fires: [facts.passage('reject'), facts.dialled('open')],
    justNot: [facts.passage('accept'), facts.dialled('open')],
  },
  {
    cause: 'stopped-elsewhere',
    fires: [facts.passage('accept'), facts.dialled('silent')],
    justNot: [facts.passage('accept'), facts.dialled('refused')],
  },
  {
    cause: 'redundant-stopped',
    fires: [facts.passage('accept'), facts.dialled('open'), facts.passage('drop', { purpose: 'redundant' })],
    justNot: [facts.passage('accept'), facts.dialled('open'), facts.passage('unknown', { purpose: 'redundant' })],
  },
  {
    cause: 'redundant-unchecked',
    fires: [facts.redundant({ applicationUri: 'urn:other', name: null, isLinked: false })],
    justNot: [facts.redundant({ applicationUri: 'urn:other', name: 'Other', isLinked: true })],
  },
  {
    cause: 'tunnel-down',
    fires: [facts.tunnel('joined', 'away'), facts.dialled('refused')],
    justNot: [facts.tunnel('joined', 'joined'), facts.dialled('refused')],
  },
  {
    cause: 'tunnel-down',
    fires: [facts.tunnel('joined', 'waiting'), facts.dialled('open'), closedHello],
    justNot: [facts.tunnel('joined', 'waiting'), facts.dialled('open'), facts.hello()],
  },
  {
    cause: 'tunnel-target-silent',
    fires: [facts.tunnel('joined', 'joined'), facts.dialled('open'), closedHello],
    justNot: [facts.tunnel('joined', 'away'), facts.dialled('open'), closedHello],
  },
  {
    cause: 'port-refused',
    fires: [facts.dialled('refused')],
    justNot: [facts.dialled('refused'), facts.dialled('silent')],
  },
  { cause: 'port-silent', fires: [facts.dialled('silent')], justNot: [facts.dialled('silent'), facts.dialled('open')] },
  { cause: 'far-too-slow', fires: [facts.dialled('open', 1001)], justNot: [facts.dialled('open', 1000)] },
  { cause: 'not-ua', fires: [helloOther], justNot: [helloError] },
  { cause: 'hello-refused', fires: [helloError], justNot: [facts.hello()] },
  {
    cause: 'buffers-too-small',
    fires: [facts.hello({ sendBufferSize: 8191 })],
    justNot: [facts.hello({ sendBufferSize: 8192 })],
  },
  {
    cause: 'endpoints-refused',
    fires: [fact({ kind: 'endpoints', outcome: 'failed', code: 'BadTimeout', reason: '', ms: 9 })],
    justNot: [listed(secured)],
  },
  {
    cause: 'advertised-unreachable',
    fires: [used, astray, facts.resolved([], 'cabinet-7', 'advertised')],
    justNot: [
      used,
      astray,
      facts.resolved(['10.0.0.1'], 'cabinet-7', 'advertised'),
      facts.dialled('open', 1, '10.0.0.1', 4840, 'advertised'),
    ],
  },
  {
    cause: 'wrong-application',
    fires: [listed(endpoint('Basic256Sha256', 'Sign', { applicationUri: 'urn:other' }))],
    justNot: [listed(secured)],
  },
  {
    cause: 'certificate-changed',
    fires: [listed(secured), earlier('00'.repeat(20))],
    justNot: [listed(secured), earlier('AB'.repeat(20))],
  },
  {
    cause: 'plant-floor',
    on: subject({}, { policies: ['Basic256'] }),
    fires: [listed(endpoint('Basic256', 'Sign')), facts.floor({ policy: 'Aes128_Sha256_RsaOaep' })],
    justNot: [listed(endpoint('Basic256', 'Sign')), facts.floor({ policy: 'Basic256' })],
  },
  {
    cause: 'by-exception',
    on: subject({}, { policies: ['Basic256'] }),
    fires: [listed(endpoint('Basic256', 'Sign')), facts.floor({ policy: 'Basic256' }, { policy: 'Basic256Sha256' })],
    justNot: [listed(endpoint('Basic256', 'Sign')), facts.floor({ policy: 'Basic256' }, { mode: 'Sign' })],
  },
  { cause: 'no-common-policy', fires: [listed(endpoint('Basic256', 'Sign'))], justNot: [listed(secured)] },
  {
    cause: 'unsecured-chosen',
    fires: [listed(none)],
    justNot: [listed(none, endpoint('Basic256Sha256', 'Sign'))],
    on: subject({}, { policies: ['None', 'Basic256Sha256'], modes: ['None', 'Sign'] }),
  },
  { cause: 'unsecured-offered', fires: [listed(secured, none)], justNot: [listed(none)] },
  {
    cause: 'policy-deprecated',
    fires: [listed(endpoint('Basic256', 'Sign'))],
    justNot: [listed(secured)],
    on: subject({}, { policies: ['Basic256', 'Basic256Sha256'] }),
  },
  {
    cause: 'below-floor',
    fires: [listed(endpoint('Basic256Sha256', 'Sign'))],
    justNot: [listed(secured)],
    on: subject({ floor: 'encrypted' }),
  },
  { cause: 'sign-only', fires: [listed(endpoint('Basic256Sha256', 'Sign'))], justNot: [listed(secured)] },
  certificateCase({ kind: 'cert-malformed', status: 'BadCertificateInvalid', ...about, says: 'It is cut off.' }),
  certificateCase({
    kind: 'chain-incomplete',
    status: 'BadCertificateChainIncomplete',
    ...about,
    missingIssuer: 'CN=Works CA',
    missingKeyId: '0A',
    namesake: 'BC'.repeat(20),
  }),
  certificateCase({ kind: 'signature-wrong', status: 'BadCertificateInvalid', ...about, issuer: 'CN=Works CA' }),
  certificateCase({
    kind: 'signature-wrong',
    status: 'BadCertificateInvalid',
    ...about,
    issuer: 'CN=Works CA',
    uncheckable: 'MD5',
  }),
  certificateCase({
    kind: 'key-below-policy',
    status: 'BadCertificatePolicyCheckFailed',
    ...about,
    policy: 'Basic256Sha256',
    says: '1024 bits.',
  }),
  certificateCase({
    kind: 'not-trusted',
    status: 'BadCertificateUntrusted',
    ...about,
    issuer: 'CN=Works CA',
    selfIssued: false,
  }),
  certificateCase({
    kind: 'wrong-list',
    status: 'BadCertificateUntrusted',
    ...about,
    says: 'It is in the issuers list.',
  }),
  certificateCase({
    kind: 'issuer-expired',
    status: 'BadCertificateIssuerTimeInvalid',
    ...about,
    notBefore: before(900 * day),
    notAfter: before(day),
  }),
  certificateCase({ kind: 'expired', status: 'BadCertificateTimeInvalid', ...about, notAfter: before(day) }),
  certificateCase({ kind: 'not-yet-valid', status: 'BadCertificateTimeInvalid', ...about, notBefore: before(-day) }),
  certificateCase({ kind: 'expires-soon', status: 'Good', ...about, notAfter: before(-9 * day), days: 9 }),
  certificateCase({
    kind: 'host-mismatch',
    status: 'BadCertificateHostNameInvalid',
    ...about,
    used: 'furnace',
    made: ['lehr'],
  }),
  certificateCase({
    kind: 'uri-mismatch',
    status: 'BadCertificateUriInvalid',
    ...about,
    expected: 'urn:a',
    found: ['urn:b'],
  }),
  certificateCase({
    kind: 'usage-wrong',
    status: 'BadCertificateUseNotAllowed',
    ...about,
    says: 'It lacks digitalSignature.',
    ofIssuer: false,
  }),
  certificateCase({
    kind: 'crl-missing',
    status: 'BadCertificateRevocationUnknown',
    ...about,
    issuer: 'CN=Works CA',
    ofIssuer: false,
  }),
  certificateCase({
    kind: 'crl-unreadable',
    status: 'BadCertificateRevocationUnknown',
    ...about,
    issuer: 'CN=Works CA',
    count: 1,
    says: 'It is cut off.',
  }),
  certificateCase({
    kind: 'crl-stale',
    status: 'BadCertificateRevocationUnknown',
    ...about,
    issuer: 'CN=Works CA',
    nextUpdate: before(day),
    ofIssuer: false,
  }),
  certificateCase({
    kind: 'issuer-revoked',
    status: 'BadCertificateIssuerRevoked',
    ...about,
    issuer: 'CN=Works CA',
    since: before(day),
  }),
  certificateCase({
    kind: 'revoked',
    status: 'BadCertificateRevoked',
    ...about,
    issuer: 'CN=Works CA',
    since: before(day),
  }),
  { cause: 'lying-in-rejected', fires: [facts.channelRefused(), rejected], justNot: [facts.channel(), rejected] },
  { cause: 'channel-refused', fires: [facts.channelRefused()], justNot: [facts.channel()] },
  { cause: 'clock-apart', fires: [facts.session(5001)], justNot: [facts.session(5000)] },
  {
    cause: 'sessions-full',
    fires: [facts.sessionRefused('BadTooManySessions', 'CreateSession')],
    justNot: [facts.sessionRefused('BadUserAccessDenied')],
  },
  {
    cause: 'user-refused',
    fires: [facts.sessionRefused('BadUserAccessDenied')],
    justNot: [facts.sessionRefused('BadTooManySessions')],
  },
  {
    cause: 'user-refused',
    fires: [
      facts.withheld({
        reason: 'refused before',
        code: 'BadUserAccessDenied',
        refusals: 2,
        until: '2026-03-01T02:40:00.000Z',
      }),
    ],
    justNot: [facts.withheld({ reason: 'no password kept' })],
  },
  {
    cause: 'session-refused',
    fires: [facts.sessionRefused('BadInternalError')],
    justNot: [facts.sessionRefused('BadUserAccessDenied')],
  },
  {
    cause: 'token-floor',
    fires: [listed(secured), facts.floor({ tokens: ['Certificate'] })],
    justNot: [listed(secured), facts.floor({ tokens: ['UserName'] })],
  },
  {
    cause: 'token-not-offered',
    fires: [listed(endpoint('Basic256Sha256', 'SignAndEncrypt', { userTokens: [] }))],
    justNot: [listed(secured)],
  },
  {
    cause: 'password-in-clear',
    fires: [listed({ ...none, userTokens: secured.userTokens })],
    justNot: [listed({ ...none, userTokens: [encryptedToken] })],
    on: subject({ floor: 'any' }, unsecured),
  },
  {
    cause: 'password-not-kept',
    fires: [facts.withheld({ reason: 'no password kept' })],
    justNot: [facts.withheld({ reason: 'password in clear' })],
  },
  {
    cause: 'user-refused',
    fires: [userCertificate('2030-01-01'), facts.sessionRefused('BadIdentityTokenRejected')],
    justNot: [userCertificate('2030-01-01'), facts.session()],
    on: byCertificate,
  },
  {
    cause: 'user-certificate-missing',
    fires: [facts.withheld({ reason: 'no user certificate', name: 'control-room' })],
    justNot: [facts.withheld({ reason: 'no password kept' })],
    on: byCertificate,
  },
  {
    cause: 'user-certificate-out-of-date',
    fires: [userCertificate('2026-02-28'), facts.sessionRefused('BadIdentityTokenRejected')],
    justNot: [userCertificate('2026-03-02'), facts.sessionRefused('BadIdentityTokenRejected')],
    on: byCertificate,
  },
  {
    cause: 'user-certificate-ends-soon',
    fires: [userCertificate('2026-04-29'), facts.session()],
    justNot: [userCertificate('2026-05-01'), facts.session()],
    on: byCertificate,
  },
  {
    cause: 'password-elsewhere',
    fires: [facts.withheld({ reason: 'kept for another target', keptFor: otherTarget, wanted: target })],
    justNot: [facts.withheld({ reason: 'no password kept' })],
  },
  {
    cause: 'server-unproved',
    fires: [facts.withheld({ reason: 'server not proved', says: 'It shows no certificate.' })],
    justNot: [facts.withheld({ reason: 'password in clear' })],
  },
  {
    cause: 'server-signature-wrong',
    fires: [facts.sessionRefused('BadApplicationSignatureInvalid', 'CreateSession')],
    justNot: [facts.sessionRefused('BadApplicationSignatureInvalid', 'ActivateSession')],
  },
  {
    cause: 'anonymous-in',
    fires: [listed(anonymousToo), fact({ kind: 'anonymous', accepted: true, code: 'Good', writable: 'Furnace/Crown' })],
    justNot: [
      listed(anonymousToo),
      fact({ kind: 'anonymous', accepted: false, code: 'BadIdentityTokenRejected', writable: null }),
    ],
  },
  { cause: 'item-missing', fires: [facts.missing()], justNot: [facts.found()] },
  { cause: 'item-missing', fires: [facts.missing(), seenByOther('Other')], justNot: [facts.missing(), seenByOther()] },
  { cause: 'item-hidden', fires: [facts.missing(), seenByOther()], justNot: [facts.missing(), seenByOther('Other')] },
  { cause: 'item-denied', fires: [facts.read('BadUserAccessDenied')], justNot: [facts.read('BadNoCommunication')] },
  { cause: 'item-bad', fires: [facts.read('UncertainLastUsableValue')], justNot: [facts.read()] },
  { cause: 'item-stale', fires: [facts.read('Good', before(60_001))], justNot: [facts.read('Good', before(60_000))] },
  { cause: 'watch-silent', fires: [facts.watched(null)], justNot: [facts.watched()] },
  {
    cause: 'type-changed',
    fires: [facts.read(), fact({ kind: 'earlier-item-type', path: 'Furnace/Crown', dataType: 'Float' }, 'reported')],
    justNot: [facts.read(), fact({ kind: 'earlier-item-type', path: 'Furnace/Crown', dataType: 'Double' }, 'reported')],
  },
  {
    cause: 'write-denied',
    fires: [facts.rights()],
    justNot: [facts.rights(['CurrentRead', 'CurrentWrite'])],
    on: writes,
  },
  {
    cause: 'write-open',
    fires: [facts.rights(['CurrentRead', 'CurrentWrite'])],
    justNot: [facts.rights(['CurrentRead', 'CurrentWrite'], ['Browse', 'Read'])],
  },
  {
    cause: 'write-refused',
    fires: [facts.written('refused', 'BadNotWritable')],
    justNot: [facts.written()],
    on: writes,
  },
  { cause: 'write-altered', fires: [facts.written('other value')], justNot: [facts.written('not read')], on: writes },
  {
    cause: 'history-refused',
    fires: [facts.history(0, 'BadHistoryOperationUnsupported')],
    justNot: [facts.history(0)],
  },
  {
    cause: 'history-refused',
    fires: [facts.history(0, 'Good', ['CurrentRead'])],
    justNot: [facts.history(1, 'Good', ['CurrentRead'])],
  },
  { cause: 'history-empty', fires: [facts.history(0)], justNot: [facts.history(1)] },
  { cause: 'alarms-refused', fires: [facts.alarms(0, 'BadUserAccessDenied')], justNot: [facts.alarms(0)] },
  { cause: 'alarms-refused', fires: [facts.alarms(0, 'Good', false)], justNot: [facts.alarms(1, 'Good', false)] },
  {
    cause: 'name-server-silent',
    fires: [facts.unanswered()],
    justNot: [facts.resolved([], 'furnace.works.example')],
  },
  {
    cause: 'outside-ranges',
    fires: [facts.notTried('outside the declared ranges', '10.9.0.1')],
    justNot: [facts.notTried('no such near address', '10.9.0.1')],
  },
  {
    cause: 'near-address-missing',
    fires: [facts.notTried('no such near address', '10.0.0.2')],
    justNot: [facts.notTried('outside the declared ranges', '10.0.0.2')],
  },
  {
    cause: 'policy-not-spoken',
    fires: [listed(secured), facts.notTried('policy not spoken here', 'ECC_nistP256')],
    justNot: [listed(secured), facts.notTried('no client key', 'Display client')],
  },
  {
    cause: 'no-client-key',
    fires: [facts.notTried('no client key', 'Line display')],
    justNot: [facts.channel()],
  },
  {
    cause: 'needs-restart',
    fires: [facts.channelRefused(), facts.changeMade()],
    justNot: [facts.channel(), facts.changeMade()],
  },
  {
    cause: 'needs-restart',
    fires: [facts.changeMade(true), validation('client'), facts.channelRefused()],
    justNot: [facts.changeMade(true), facts.channelRefused()],
  },
  { cause: 'watch-slowed', fires: [facts.watched(80, 501)], justNot: [facts.watched(80, 500)] },
];

const findingsOf = (on: LinkInPlant, seen: readonly Fact[]) =>
  assess(on, seen, usualRules, now).steps.flatMap((step) =>
    step.findings.flatMap((finding) => [finding, ...finding.folded]),
  );

describe('every cause', () => {
  it('has facts that fire it and facts that just don’t', () => {
    expect(new Set(cases.map((entry) => entry.cause))).toEqual(new Set(causes.map((cause) => cause.id)));
  });

  it.each(cases)('$cause fires on its facts, says why, and names the facts', ({ cause, fires, on = subject() }) => {
    const finding = findingsOf(on, fires).find((candidate) => candidate.causeId === cause);
    expect(finding).toBeDefined();
    expect(finding?.meaning).toMatch(/\w.*\.$/s);
    expect(finding?.meaning).not.toMatch(/undefined|null|NaN|\[object/);
    expect(finding?.evidence.length).toBeGreaterThan(0);
    const known = new Set(fires.map((seen) => seen.id));
    for (const line of finding?.evidence ?? []) expect(known).toContain(line.factId);
    for (const remedy of finding?.remedies ?? [])
      expect(`${remedy.title}${remedy.before}${remedy.after}`).not.toMatch(/undefined|NaN/);
  });

  it.each(cases)('$cause stays silent where it just does not apply', ({ cause, justNot, on = subject() }) => {
    expect(findingsOf(on, justNot).map((finding) => finding.causeId)).not.toContain(cause);
  });

  it.each(cases)('$cause stays silent on a healthy link', ({ cause }) => {
    expect(findingsOf(subject(), healthy()).map((finding) => finding.causeId)).not.toContain(cause);
  });
});
