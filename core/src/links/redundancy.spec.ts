import { assess } from './assess';
import { usualRules } from './cause';
import type { Fact, FactOf } from './facts';
import { sayFact } from './say-fact';
import { facts, healthy, now, subject } from '../testing/builders';

const judge = (...more: readonly Fact[]) => assess(subject(), [...healthy(), ...more], usualRules, now);
const findingsOf = (...more: readonly Fact[]) => judge(...more).steps.flatMap(({ findings }) => findings);
const known = { applicationUri: 'urn:works:second', name: 'Second furnace server', isLinked: false };
const linked = { applicationUri: 'urn:works:third', name: 'Third furnace server', isLinked: true };
const unknown = { applicationUri: 'urn:works:fourth', name: null, isLinked: false };
const toOther = (verdict: FactOf<'passage'>['verdict'], more: Partial<FactOf<'passage'>> = {}): Fact =>
  facts.passage(verdict, { purpose: 'redundant', to: ['10.0.0.9'], ports: ['4843'], ...more });

describe('a server for which others stand in', () => {
  it('is sound where a link leads to each of them, or where nobody stands in', () => {
    const none: Fact = { ...facts.redundant(), kind: 'redundancy', support: 'None', others: [] } as Fact;
    expect([judge(none).state, judge(facts.redundant(linked)).state]).toEqual(['Sound', 'Sound']);
  });

  it.each([
    [[known], 'No link of the plant leads from this client to Second furnace server.', 1],
    [[unknown], 'The plant doesn’t know it.', 1],
    [[known, unknown, linked], 'The plant doesn’t know urn:works:fourth.', 2],
  ] as const)('strains the link where nothing checks them: %j', (others, says, remedies) => {
    const [finding, ...more] = findingsOf(facts.redundant(...others));
    expect(more).toEqual([]);
    expect(finding).toMatchObject({ causeId: 'redundant-unchecked', step: 'identity', severity: 'weak' });
    expect(finding?.meaning).toContain(says);
    expect(finding?.meaning).not.toContain('Third furnace server');
    expect(finding?.remedies).toHaveLength(remedies);
  });

  it('strains the link where a firewall stops the way there, and parts it never', () => {
    const { state, partedAt, steps } = judge(facts.passage('accept'), toOther('drop'));
    expect([state, partedAt]).toEqual(['Strained', null]);
    const passage = steps.find(({ step }) => step === 'passage');
    expect(passage?.verdict).toBe('weak');
    expect(passage?.findings).toMatchObject([{ causeId: 'redundant-stopped', severity: 'weak' }]);
    expect(passage?.findings[0]?.meaning).toContain('10.0.0.9, TCP port 4843');
  });

  it('says of the rules what lets it through: the smallest change, or the answers that are dropped', () => {
    const change = { rules: ['tcp dport 4843 accept'], commands: ['nft add …'], undo: ['nft delete …'] };
    const at = (more: object) => ({
      id: 'inner',
      name: 'Inner firewall',
      verdict: 'drop' as const,
      rule: null,
      why: null,
      translated: null,
      takenAt: now,
      change: null,
      ...more,
    });
    const remedyOf = (more: object) => findingsOf(toOther('drop', { firewalls: [at(more)] }))[0]?.remedies[0];
    expect(remedyOf({ change })).toMatchObject({
      title: 'Let TCP port 4843 of 10.0.0.9 through from 10.0.0.7 at Inner firewall',
      after: 'tcp dport 4843 accept\nnft add …',
      undo: 'nft delete …',
    });
    expect(remedyOf({})).toMatchObject({ after: 'allowed, for this one pair and port only', undo: 'Remove the rule.' });
    expect(remedyOf({ isAnswer: true })).toMatchObject({
      title: 'Let packets of open connections through at Inner firewall',
    });
  });

  it('is not strained by rules that can’t be told or are not known', () => {
    expect(findingsOf(toOther('unknown'), toOther('not-told'), toOther('partly'))).toEqual([]);
  });

  it('is told in words', () => {
    expect(sayFact(facts.redundant(known, unknown))).toBe(
      'Another server runs, and reads nothing until it is needed (warm): Second furnace server (urn:works:second) and urn:works:fourth.',
    );
  });
});
