import { undoOf } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import { createAuthority, proposedOrder, renewAuthority, trustChange } from '../index.js';

const saysOf = (
  schema: { safeParse(value: unknown): { error?: { issues: { message: string; path: PropertyKey[] }[] } } },
  value: unknown,
): readonly string[] =>
  schema.safeParse(value).error?.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`) ?? [];

const thumbprint = 'A'.repeat(40);
const crlId = 'B'.repeat(64);
const at = { holderId: 'furnace', list: 'trusted' } as const;
const changes: readonly TrustChange[] = [
  { kind: 'list-certificate', ...at, thumbprint, until: '2026-05-01T00:00:00.000Z' },
  { kind: 'unlist-certificate', ...at, list: 'issuers', thumbprint },
  { kind: 'list-crl', ...at, crlId, before: null },
  { kind: 'unlist-crl', ...at, crlId, instead: 'C'.repeat(64) },
  { kind: 'renew-certificate', applicationId: 'furnace', authority: thumbprint, before: thumbprint },
  { kind: 'install-certificate', applicationId: 'furnace', thumbprint, before: thumbprint },
];

describe('a change of trust', () => {
  it.each(changes)('of the kind $kind crosses the boundary as it is, and its way back, too', (change) => {
    expect(trustChange.parse(change)).toEqual(change);
    const undo = undoOf(change);
    if (undo) expect(trustChange.parse(undo)).toEqual(undo);
  });

  it('names the place of what is wrong with it', () => {
    const [give, , crl] = changes;
    expect(saysOf(trustChange, { ...give, thumbprint: 'aa' })).toEqual([
      'thumbprint: A thumbprint has 40 hexadecimal digits.',
    ]);
    expect(saysOf(trustChange, { ...give, until: 'tomorrow' })).toEqual(['until: This is no point in time.']);
    expect(saysOf(trustChange, { ...crl, before: thumbprint })).toEqual([
      'before: The id of a CRL has 64 hexadecimal digits.',
    ]);
    expect(saysOf(trustChange, { ...give, list: 'rejected' })).toHaveLength(1);
    expect(saysOf(trustChange, { ...give, kind: 'forget-everything' })).toHaveLength(1);
  });

  it('is proposed with a reason, and never alone without a line', () => {
    const line = { change: changes[0], why: 'It must.', linkIds: [] };
    expect(saysOf(proposedOrder, { title: 'Trust', lines: [line] })).toEqual([]);
    expect(saysOf(proposedOrder, { title: ' ', lines: [{ ...line, why: '' }] })).toEqual([
      'title: A title is needed.',
      'lines.0.why: Say why.',
    ]);
    expect(saysOf(proposedOrder, { title: 'Trust', lines: [] })).toEqual([
      'lines: A work order needs at least one line.',
    ]);
  });
});

describe('an authority', () => {
  it('is made with a passphrase that can’t be guessed at once, for a time that makes sense', () => {
    const wish = {
      commonName: 'Works CA',
      organization: '',
      keyKind: 'RSA 3072',
      validDays: 3650,
      pathLength: 0,
      passphrase: 'long enough to stand',
    };
    expect(saysOf(createAuthority, wish)).toEqual([]);
    expect(saysOf(createAuthority, { ...wish, passphrase: 'short', validDays: 1 })).toEqual([
      'validDays: At least 30 days.',
      'passphrase: The passphrase needs at least 12 letters.',
    ]);
    expect(saysOf(createAuthority, { ...wish, keyKind: 'RSA 1024' })).toHaveLength(1);
  });

  it('is renewed with its key or a new one, with the passphrase of today and perhaps a new one', () => {
    const wish = { newKey: null, validDays: 3650, passphrase: 'old', newPassphrase: null };
    expect(saysOf(renewAuthority, wish)).toEqual([]);
    expect(saysOf(renewAuthority, { ...wish, newKey: 'P-256', newPassphrase: 'long enough to stand' })).toEqual([]);
    expect(saysOf(renewAuthority, { ...wish, passphrase: '', newPassphrase: 'short' })).toEqual([
      'passphrase: The passphrase is needed.',
      'newPassphrase: The passphrase needs at least 12 letters.',
    ]);
  });
});
