import {
  currentPolicies,
  securityPolicies,
  securityPolicyNames,
  securityPolicyOf,
  strengthOfMode,
} from './security-policies.js';
import {
  explainedStatusCode,
  printedStatusCode,
  statusCodeKnown,
  statusCodeNamed,
  statusCodes,
} from './status-codes.js';

describe('security policies', () => {
  it('are found by their URI, each by its own', () => {
    for (const name of securityPolicyNames) expect(securityPolicyOf(securityPolicies[name].uri)?.name).toBe(name);
    expect(securityPolicyOf('http://opcfoundation.org/UA/SecurityPolicy#Nothing')).toBeNull();
  });

  it('have each a strength of its own, the deprecated ones below all others', () => {
    const all = Object.values(securityPolicies).filter((policy) => policy.strength > 0);
    expect(new Set(all.map((policy) => policy.strength)).size).toBe(all.length);
    const weakest = Math.min(
      ...all.filter((policy) => policy.deprecatedSince === null).map((policy) => policy.strength),
    );
    for (const policy of all.filter(({ deprecatedSince }) => deprecatedSince !== null))
      expect(policy.strength).toBeLessThan(weakest);
  });

  it('do not take SHA-1 unless they are deprecated', () => {
    for (const { deprecatedSince, certificateHashes } of Object.values(securityPolicies))
      expect(certificateHashes.includes('SHA-1')).toBe(deprecatedSince !== null);
  });

  it('name all their algorithms, and none that relies on SHA-1 unless deprecated or by RSA-OAEP', () => {
    for (const { name, algorithms, key, deprecatedSince } of Object.values(securityPolicies)) {
      expect([algorithms === null, key === null]).toEqual([name === 'None', name === 'None']);
      const signed = Object.entries(algorithms ?? {}).filter(([what]) => what !== 'keyTransport');
      expect(signed.some(([, algorithm]) => /SHA-?1$/.test(algorithm))).toBe(deprecatedSince !== null);
    }
  });

  it('that are current stand best first', () => {
    expect(currentPolicies.map(({ name }) => name).slice(-3)).toEqual([
      'Aes256_Sha256_RsaPss',
      'Basic256Sha256',
      'Aes128_Sha256_RsaOaep',
    ]);
  });

  it('are ranked by mode', () => {
    expect(strengthOfMode('SignAndEncrypt')).toBeGreaterThan(strengthOfMode('Sign'));
    expect(strengthOfMode('Sign')).toBeGreaterThan(strengthOfMode('None'));
  });
});

describe('status codes', () => {
  it('stand once each, by number and by name', () => {
    expect(new Set(statusCodes.map(({ code }) => code)).size).toBe(statusCodes.length);
    expect(new Set(statusCodes.map(({ name }) => name)).size).toBe(statusCodes.length);
  });

  it('are named whatever their lower bits say, and shown as numbers where they are not known', () => {
    expect(statusCodeNamed(0x801f0400)).toBe('BadUserAccessDenied');
    expect(statusCodeNamed(0x8fff0000)).toBe('0x8fff0000');
  });

  it('are found with and without the underscore, and printed with it', () => {
    expect(statusCodeKnown('Bad_CertificateUntrusted')).toBe(statusCodeKnown('BadCertificateUntrusted'));
    expect([printedStatusCode('BadCertificateUntrusted'), printedStatusCode('Good')]).toEqual([
      'Bad_CertificateUntrusted',
      'Good',
    ]);
  });

  it('come with a meaning and an advice', () => {
    expect(explainedStatusCode('BadTooManySessions')).toBe(
      'Bad_TooManySessions: The server has no session left. See who holds them; close the forgotten ones.',
    );
    for (const { meaning, advice } of statusCodes) expect(`${meaning} ${advice}`).toMatch(/^[A-Z].*\. [A-Z].*\.$/);
  });
});
