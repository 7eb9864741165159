import type { AuditEntry, AuditPage } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';

const entry = (sequence: number, differs: Partial<AuditEntry> = {}): AuditEntry => ({
  sequence,
  at: '2026-11-01T08:00:00.000Z',
  actor: 'engineer',
  action: 'person changed',
  subject: 'night shift',
  details: { before: { role: 'viewer' }, after: { role: 'engineer' } },
  ...differs,
});
const page = (entries: AuditEntry[], differs: Partial<AuditPage> = {}): AuditPage => ({
  entries,
  next: null,
  actors: ['administrator', 'engineer'],
  actions: ['person changed', 'signed in'],
  ...differs,
});

describe('the page of the audit trail', () => {
  it('tells who did what, with what it was before and after', async () => {
    const site = await Site.open('/trail', { audit: page([entry(2), entry(1, { action: 'signed in', details: {} })]) });
    expect(site.headline).toBe('2 rows of the audit trail.');
    expect(site.rows()[0]?.slice(1)).toEqual(['engineer', 'person changed', 'night shift', 'role viewer → engineer']);
  });

  it('keeps its filters in the address, and lets the server look', async () => {
    const site = await Site.open('/trail?actor=engineer', { audit: page([entry(2)]) });
    await site.fill(/^What$/, 'signed in');
    expect(site.url).toBe('/trail?actor=engineer&action=signed%20in');
    await site.press(/night shift/);
    expect(site.url).toContain('subject=night%20shift');
    expect(site.headline).toBe('1 row of the audit trail about night shift.');
    await site.press(/Show all, not only/);
    expect(site.url).toBe('/trail?actor=engineer&action=signed%20in');
  });

  it('names files and cases, which have an id alone, by what their rows tell of them', async () => {
    const subject = '651b7283-bad7-45cf-90d4-567e8041eef4';
    const about = (details: AuditEntry['details']) => ({ action: 'evidence read', subject, details });
    const rows = [entry(3, about({ attempts: 4 })), entry(2, about({ name: 'press.log', bytes: 577 }))];
    const site = await Site.open('/trail', { audit: page(rows) });
    expect(site.rows().map((cells) => cells[3])).toEqual(['651b7283 …', 'press.log']);
    await site.press(/^press\.log$/);
    expect(site.url).toBe(`/trail?subject=${subject}`);
    expect(site.headline).toBe('2 rows of the audit trail about press.log.');
    expect(site.text).toContain('Show all, not only “press.log”');
  });

  it('adds older rows behind those that are there', async () => {
    const site = await Site.open('/trail', { audit: page([entry(9), entry(8)], { next: 8 }) });
    expect(site.headline).toBe('The newest 2 rows of the audit trail.');
    site.answers.audit = page([entry(7)]);
    await site.press(/Show older rows/);
    expect(site.rows()).toHaveLength(3);
    expect(site.headline).toBe('3 rows of the audit trail.');
  });

  it('says that the trail is whole, or every place where it is not', async () => {
    const whole = { rows: 12, isWhole: true, faults: [], sealed: { upTo: 12, at: '2026-11-01T08:00:00Z' }, seals: 2 };
    const site = await Site.open('/trail', { audit: page([entry(1)]), verifyAudit: whole });
    await site.press(/Verify the trail/);
    expect(site.text).toMatch(
      /The audit trail is whole: 12 rows\. It was last sealed on 1 Nov 2026, .*; 2 seals match\./,
    );
    site.answers.verifyAudit = { ...whole, isWhole: false, faults: ['Its end is missing.', 'It is broken at 4.'] };
    await site.press(/Verify the trail/);
    expect(site.all('[role=alert] li').map(({ textContent }) => textContent)).toEqual([
      'Its end is missing.',
      'It is broken at 4.',
    ]);
  });

  it('shows a refusal, and offers nothing to a viewer', async () => {
    const site = await Site.open('/trail', { audit: refused('Not now.') });
    expect(site.text).toContain('Not now.');
    const looking = await Site.open('/trail', {}, 'viewer');
    expect(looking.text).toContain('This needs the role engineer.');
    expect(looking.calls.map(({ name }) => name)).not.toContain('audit');
  });
});
