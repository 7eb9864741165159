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
    expect(verdicts.slice(0, 4)).toEqual(['holds', 'fails', 'unknown', 'unknown']);
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
    const policyOf = (floor: 'any' | 'signed') => judge([none], subject({ floor }, ends)).steps[4]?.verdict;
    expect([policyOf('signed'), policyOf('any')]).toEqual(['fails', 'weak']);
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
