import { endpoint, fact, facts, healthy, listed, now, subject, validation } from '../testing/builders.js';
import { assess } from './assess.js';
import { usualRules } from './cause.js';
import type { Fact } from './facts.js';

const judge = (seen: readonly Fact[], on = subject()) => assess(on, seen, usualRules, now);
const verdictsOf = (seen: readonly Fact[]) => judge(seen).steps.map((step) => step.verdict);

describe('assess', () => {
  it('calls a link sound where everything that it needs holds', () => {
    const { state, partedAt, headline } = judge(healthy());
    expect({ state, partedAt }).toEqual({ state: 'Sound', partedAt: null });
    expect(headline).toBe('All that this link needs holds.');
  });

  it('calls a link without facts untried', () => {
    expect(judge([])).toMatchObject({ state: 'Untried', headline: 'This link has never been checked.' });
  });

  it('leaves the steps after a failed one unknown, not failed', () => {
    const verdicts = verdictsOf([
      facts.url('opc.tcp://furnace.works.example:4840'),
      facts.resolved(['10.0.0.1']),
      facts.dialled('refused'),
    ]);
    expect(verdicts.slice(0, 5)).toEqual(['holds', 'not-needed', 'fails', 'unknown', 'unknown']);
    expect(verdicts).not.toContain('weak');
  });

  it('calls a link strained where it works with a weakness', () => {
    const weak = healthy().map((seen) => (seen.kind === 'tcp-connect' ? facts.dialled('open', 1500) : seen));
    expect(judge(weak)).toMatchObject({ state: 'Strained', leadingCause: 'far-too-slow' });
  });

  it('lets a certificate set aside explain the refused channel before it', () => {
    const rejected = fact(
      { kind: 'listed-certificate', list: 'rejected', thumbprint: 'EF', since: null, by: 'a file' },
      'reported',
    );
    const seen = [...healthy().slice(0, 6), facts.channelRefused(), rejected];
    expect(judge(seen)).toMatchObject({
      state: 'Parted',
      partedAt: 'secure-channel',
      leadingCause: 'lying-in-rejected',
    });
  });

  it('does not call for moving a certificate that would be refused all the same', () => {
    const rejected = fact(
      { kind: 'listed-certificate', list: 'rejected', thumbprint: 'EF', since: null, by: 'a file' },
      'reported',
    );
    const missing = validation('client', {
      kind: 'crl-missing',
      status: 'BadCertificateRevocationUnknown',
      subject: 'CN=Display',
      thumbprint: 'EF',
      issuer: 'CN=Works CA',
      ofIssuer: false,
    });
    const seen = [...healthy().slice(0, 6), facts.channelRefused(), rejected, missing];
    expect(judge(seen)).toMatchObject({ state: 'Parted', leadingCause: 'crl-missing' });
  });

  it('folds what another finding of the step explains under it', () => {
    const about = { subject: 'CN=a', thumbprint: null };
    const seen = [
      validation(
        'server',
        {
          kind: 'chain-incomplete',
          status: 'BadCertificateChainIncomplete',
          ...about,
          missingIssuer: 'CN=b',
          missingKeyId: null,
        },
        { kind: 'not-trusted', status: 'BadCertificateUntrusted', ...about, issuer: 'CN=b', selfIssued: false },
      ),
    ];
    const findings = judge(seen).steps.find((step) => step.step === 'server-certificate')?.findings ?? [];
    expect(findings.map((finding) => finding.causeId)).toEqual(['chain-incomplete']);
    expect(findings[0]?.folded.map((finding) => finding.causeId)).toEqual(['not-trusted']);
  });

  it('fails an unsecured link where the plant demands security, and only weakens it where it does not', () => {
    const none = listed(endpoint('None', 'None', { certificate: null }));
    const ends = { policies: ['None' as const], modes: ['None' as const] };
    const policyOf = (floor: 'any' | 'signed') => judge([none], subject({ floor }, ends)).steps[5]?.verdict;
    expect([policyOf('signed'), policyOf('any')]).toEqual(['fails', 'weak']);
  });

  it.each([
    ['accept', 'open', 'holds'],
    ['drop', 'silent', 'fails'],
    ['drop', 'open', 'weak'],
    ['accept', 'silent', 'weak'],
    ['unknown', 'open', 'holds'],
    ['unknown', 'silent', 'unknown'],
    ['not-told', 'silent', 'not-needed'],
  ] as const)('by rules that %s it and a port that is %s says of the passage: %s', (verdict, outcome, wanted) => {
    const { steps } = judge([...healthy().slice(0, 2), facts.passage(verdict), facts.dialled(outcome)]);
    expect(steps.find(({ step }) => step === 'passage')?.verdict).toBe(wanted);
  });

  it('names the firewall that drops the answers, and none that stands behind it', () => {
    const on = (id: string, verdict: 'accept' | 'drop', isAnswer = false) => ({
      id,
      name: `${id} firewall`,
      verdict,
      rule: null,
      why: null,
      translated: null,
      isAnswer,
      takenAt: now,
      change: null,
    });
    const firewalls = [on('Outer', 'accept'), on('Middle', 'drop', true), on('Inner', 'accept')];
    const { headline } = judge([
      ...healthy().slice(0, 2),
      facts.passage('drop', { firewalls }),
      facts.dialled('silent'),
    ]);
    expect(headline).toContain('Middle firewall drops the answers');
    expect(headline).not.toContain('Inner');
  });

  it('tells that a check was stopped', () => {
    const stopped = fact({ kind: 'check-stopped', during: 'reading', reason: 'it was cancelled.' });
    expect(judge([...healthy().slice(0, 9), stopped])).toMatchObject({
      state: 'Untried',
      headline: 'The check stopped during reading: it was cancelled.',
    });
  });

  it('gives the same verdicts for the same facts', () => {
    const seen = healthy();
    expect(judge(seen)).toEqual(judge(seen));
  });
});

describe('a link is never called sound too early', () => {
  const writing = subject({ needs: [{ path: 'Furnace/Crown', uses: ['read', 'write'] }] });
  const twoItems = subject({
    needs: [
      { path: 'Furnace/Crown', uses: ['read', 'watch'] },
      { path: 'Furnace/Hearth', uses: ['read', 'watch'] },
    ],
  });

  it('while it must write and nothing is known of that', () => {
    expect(judge(healthy(), writing)).toMatchObject({
      state: 'Untried',
      partedAt: null,
      headline: 'Whether Furnace/Crown can be written is not known: it was neither tried nor calculated.',
    });
    expect(judge([...healthy(), facts.rights(null)], writing)).toMatchObject({
      state: 'Untried',
      headline: expect.stringContaining('does not report UserAccessLevel'),
    });
  });

  it('and is, once its right to write is calculated', () => {
    const seen = [...healthy(), facts.rights(['CurrentRead', 'CurrentWrite'])];
    expect(judge(seen, writing)).toMatchObject({ state: 'Sound' });
    expect(judge(seen, writing).steps.find(({ step }) => step === 'write')).toMatchObject({
      verdict: 'holds',
      source: 'reckoned',
    });
    expect(judge([...healthy(), facts.rights()], writing)).toMatchObject({ state: 'Parted', partedAt: 'write' });
  });

  it('while one of its items was found, and not read or watched', () => {
    const seen = [...healthy(), facts.found('Furnace/Hearth')];
    expect(judge(seen, twoItems)).toMatchObject({
      state: 'Untried',
      headline: expect.stringContaining('Furnace/Hearth'),
    });
    const verdicts = judge(seen, twoItems).steps.map(({ verdict }) => verdict);
    expect(verdicts.slice(11, 13)).toEqual(['unknown', 'unknown']);
  });

  it('but says what kept it from being tried', () => {
    const stopped = [...healthy().slice(0, 6), facts.notTried('no client key', 'Line display')];
    expect(judge(stopped)).toMatchObject({
      state: 'Untried',
      headline: expect.stringContaining('no certificate with its private key'),
    });
    const outside = [
      facts.url('opc.tcp://furnace.works.example:4840'),
      facts.resolved(['10.0.0.1']),
      facts.notTried('outside the declared ranges', '10.0.0.1'),
    ];
    expect(judge(outside)).toMatchObject({
      state: 'Untried',
      partedAt: null,
      headline: expect.stringContaining('10.0.0.1 is outside'),
    });
  });
});

describe('a client’s certificate that the lists speak against', () => {
  const refused = validation('client', {
    kind: 'not-trusted',
    status: 'BadCertificateUntrusted',
    subject: 'CN=Line display',
    thumbprint: 'EF'.repeat(20),
    issuer: 'CN=Line display',
    selfIssued: true,
  });

  it('is a weakness where the server opened the channel all the same', () => {
    const { state, steps } = judge([...healthy(), refused]);
    expect(state).toBe('Strained');
    expect(steps.find(({ step }) => step === 'client-certificate')).toMatchObject({
      verdict: 'weak',
      summary: expect.stringContaining('opened the channel all the same'),
    });
  });
});

describe('a refused channel', () => {
  const base = [...healthy().slice(0, 6), facts.channelRefused()];
  const rankOf = (...more: Fact[]): string =>
    judge([...base, ...more]).steps.find(({ step }) => step === 'secure-channel')?.findings[0]?.meaning ?? '';

  it('ranks what it can be by the facts at hand', () => {
    expect(rankOf()).toMatch(/\(1\) it does not trust .* its lists are not known here\. \(2\) the clocks/);
    expect(rankOf(fact({ kind: 'lists-unread', reason: 'The connection was lost.' }))).toMatch(
      /\(1\) .*could not be read to see \(The connection was lost\)/,
    );
    expect(rankOf(validation('client'))).toMatch(/\(1\) the clocks .*\(2\) its lists are not as they were last read/);
    const set = fact(
      { kind: 'listed-certificate', list: 'rejected', thumbprint: 'EF'.repeat(20), since: now, by: 'a file' },
      'reported',
    );
    expect(rankOf(set)).toMatch(/\(1\) the certificate of .* is in its rejected list/);
    expect(
      judge([...healthy().slice(0, 6), facts.channelRefused('BadSecurityPolicyRejected')]).steps[7]?.findings[0]
        ?.meaning,
    ).toMatch(/\(1\) Furnace server no longer accepts this policy/);
  });
});
