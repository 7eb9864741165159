import { assess, usualRules } from '@loyal-hinge/core';
import type { Fact, LinkAssessment, LinkInPlant, NeededItem, StepId } from '@loyal-hinge/core';
import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { plantGiven } from '../testing/given.js';
import { silenceLibrary } from '../ua/quiet.js';
import type { CheckMeans } from './means.js';
import { walkLink } from './walk-link.js';

silenceLibrary();
const taken = plantGiven();

interface Walked extends LinkAssessment {
  readonly facts: readonly Fact[];
}

async function walk(linkId: string, needs: readonly NeededItem[], differs: Partial<CheckMeans> = {}): Promise<Walked> {
  const kept = subjectOf(taken, linkId);
  const subject: LinkInPlant = { ...kept, link: { ...kept.link, needs } };
  const log = memoryLog();
  await walkLink(subject, { ...meansOf(taken, subject), ...differs }, log, new AbortController().signal);
  return { ...assess(subject, log.facts, usualRules, new Date().toISOString()), facts: log.facts };
}
const step = ({ steps }: LinkAssessment, id: StepId) => steps.find(({ step }) => step === id);
const factOf = <Kind extends Fact['kind']>({ facts }: Walked, kind: Kind) =>
  facts.find((fact): fact is Extract<Fact, { kind: Kind }> => fact.kind === kind);

describe('an item that a link must write', () => {
  const path = 'Lehr/Roller speed wanted';
  const needs: readonly NeededItem[] = [{ path, uses: ['read', 'write'] }];
  const password = taken.passwords.find(({ linkId }) => linkId === 'maintenance--furnace')?.password ?? null;
  const writes = { paths: [path], by: 'engineer', why: 'It is tried.' };

  it('is written with the value that it has, only where a person asked for it, and read back', async () => {
    const without = await walk('maintenance--lehr', needs, { password });
    expect(factOf(without, 'item-written')).toBeUndefined();
    expect(step(without, 'write')).toMatchObject({ verdict: 'holds', source: 'reckoned' });
    const proved = await walk('maintenance--lehr', needs, { password, writes });
    const written = factOf(proved, 'item-written');
    expect(written).toMatchObject({
      outcome: 'same value',
      code: 'Good',
      by: 'engineer',
      as: { userName: 'technician' },
    });
    expect(written?.before).toBe(written?.after);
    expect(step(proved, 'write')).toMatchObject({
      verdict: 'holds',
      source: 'tried',
      summary: '1 item written and read back.',
    });
    const later = new Map([
      [path, { on: written?.at ?? '', by: 'engineer', as: { userName: '', applicationUri: '' } }],
    ]);
    const told = step(await walk('maintenance--lehr', needs, { password, earlierWrites: later }), 'write');
    expect(told).toMatchObject({ verdict: 'holds', source: 'reported', summary: '1 item written and read back.' });
  });

  it('is refused where the user may not, and that is told as it came', async () => {
    const found = await walk('history--lehr', needs, { writes });
    expect(factOf(found, 'item-written')).toMatchObject({ outcome: 'refused', code: 'BadUserAccessDenied' });
    expect(found).toMatchObject({ state: 'Parted', partedAt: 'write', leadingCause: 'write-refused' });
  });

  it('is never written where the link does not need to', async () => {
    const found = await walk('maintenance--lehr', [{ path, uses: ['read'] }], { password, writes });
    expect(factOf(found, 'item-written')).toBeUndefined();
  });
});

describe('the history of an item', () => {
  it('is read where the server keeps it', async () => {
    const found = await walk('history--lehr', [{ path: 'Lehr/Zone A/Temperature', uses: ['history'] }]);
    const history = factOf(found, 'item-history');
    expect(history?.code).toBe('Good');
    expect(history?.values).toBeGreaterThan(0);
    expect(Date.parse(history?.newest ?? '')).toBeGreaterThanOrEqual(Date.parse(history?.oldest ?? ''));
    expect(step(found, 'history')?.verdict).toBe('holds');
    expect(step(found, 'read')?.verdict).toBe('not-needed');
  });

  it('parts the link where the server keeps none', async () => {
    const found = await walk('history--lehr', [{ path: 'Lehr/Zone B/Temperature', uses: ['read', 'history'] }]);
    expect(found).toMatchObject({ state: 'Parted', partedAt: 'history', leadingCause: 'history-refused' });
  });
});

describe('alarms', () => {
  it('are heard from a node that sends events', async () => {
    const found = await walk('history--lehr', [{ path: 'Lehr', uses: ['alarms'] }]);
    expect(factOf(found, 'item-alarms')).toMatchObject({ code: 'Good', refreshCode: 'Good' });
    expect(factOf(found, 'item-alarms')?.first?.message).not.toBe('');
    expect(step(found, 'alarms')?.verdict).toBe('holds');
    expect(found.state).toBe('Sound');
  });

  it('part the link at a node that sends none', async () => {
    const found = await walk('history--lehr', [{ path: 'Lehr/Roller speed', uses: ['alarms'] }]);
    expect(found).toMatchObject({ state: 'Parted', partedAt: 'alarms', leadingCause: 'alarms-refused' });
  });

  it('are not called proved where none came', async () => {
    const found = await walk('energy--furnace', [{ path: 'Server', uses: ['alarms'] }], {
      limits: { ...meansOf(taken, subjectOf(taken, 'energy--furnace')).limits, alarmsMs: 400 },
    });
    expect(factOf(found, 'item-alarms')).toMatchObject({ code: 'Good', events: 0, first: null });
    expect(step(found, 'alarms')).toMatchObject({ verdict: 'unknown' });
    expect(step(found, 'alarms')?.summary).toMatch(/whether they arrive is not proved\.$/);
    expect(found.state).toBe('Untried');
  });
});
