import { fact, facts, healthy, listed, endpoint, validation } from '../testing/builders.js';
import { sayFact } from './say-fact.js';

describe('a fact in words', () => {
  it('is one or more whole sentences, with nothing left open', () => {
    for (const seen of healthy()) expect(sayFact(seen)).toMatch(/^\S.*\.$/s);
    for (const seen of healthy()) expect(sayFact(seen)).not.toMatch(/undefined|null|NaN|\[object/);
  });

  it.each([
    [facts.dialled('refused', 4), '10.0.0.1 port 4840 refused the connection after 4 ms.'],
    [facts.dialled('silent', 2500), '10.0.0.1 port 4840 did not answer after 3 s.'],
    [facts.resolved([], 'lost'), 'lost has no address, says the name server 10.0.0.53 (the name is not known, 2 ms).'],
    [
      facts.missing('A/B', 'A/C'),
      'A/B was not found among 6 nodes: Bad_NoMatch: The browse path leads to no node. Find the nearest path by browsing. The nearest is A/C.',
    ],
    [facts.written(), 'Furnace/Crown was written with the value that it had (1585), and read back, for engineer.'],
    [facts.written('other value'), 'Furnace/Crown accepted the value that it had (1585), and shows 1586 afterwards.'],
    [facts.history(0), 'Furnace/Crown has no value in the last 60 minutes.'],
    [facts.alarms(), 'Furnace: 1 event in 6 s, first “Crown too hot” of Crown, severity 700.'],
    [facts.alarms(0), 'Furnace: no event came in 6 s.'],
    [
      fact({
        kind: 'earlier-write',
        path: 'Furnace/Crown',
        on: '2026-03-01T12:00:00.000Z',
        by: 'engineer',
        as: { userName: 'display', applicationUri: 'urn:works:furnace' },
      }),
      'Furnace/Crown was written and read back on 1 March 2026, by engineer.',
    ],
    [facts.withheld({ reason: 'password in clear' }), 'The password was not sent: nothing would have encrypted it.'],
    [
      facts.watched(null, 250, 3),
      'Furnace/Crown: no notification within 900 ms, 1 change, 3 keep-alives; sampling every 250 ms.',
    ],
    [
      fact({ kind: 'check-stopped', during: 'reading', reason: 'it was cancelled.' }),
      'The check stopped during reading: it was cancelled.',
    ],
  ])('%# tells what was seen', (seen, words) => {
    expect(sayFact(seen)).toBe(words);
  });

  it('never shows a code without what it means', () => {
    for (const seen of [
      facts.channelRefused(),
      facts.sessionRefused('BadUserAccessDenied'),
      facts.read('BadNotReadable'),
    ])
      expect(sayFact(seen)).toMatch(/Bad_\w+: [A-Z].*\./);
  });

  it('lists the endpoints, and names the steps at which a certificate fails', () => {
    expect(sayFact(listed(endpoint('Basic256Sha256', 'Sign')))).toContain(
      '1 endpoint: Basic256Sha256 (Sign) at opc.tcp://',
    );
    const about = { subject: 'CN=a', thumbprint: null, status: 'BadCertificateUntrusted' };
    expect(
      sayFact(validation('client', { kind: 'not-trusted', ...about, issuer: 'CN=b', selfIssued: false })),
    ).toContain('fails at step 5 (trust list)');
  });
});
