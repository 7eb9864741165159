import { steps } from '@loyal-hinge/core';
import type { Verdict } from '@loyal-hinge/core';
import type { Check, CheckDetail } from '@loyal-hinge/contract';
import { Shown } from '../../testing/show';
import { LinkHistory } from './link-history';

const check = (id: string, askedAt: string): Check => ({
  id,
  linkId: 'l',
  state: 'done',
  found: 'Sound',
  askedAt,
  askedBy: 'engineer',
  begunAt: askedAt,
  endedAt: askedAt,
  reason: null,
});
const detail = (of: Check, reach: Verdict): CheckDetail =>
  ({
    check: of,
    assessment: {
      steps: steps.map(({ id }) => ({
        step: id,
        verdict: id === 'reach' ? reach : 'holds',
        summary: id === 'reach' ? `It ${reach}.` : 'As ever.',
        findings: [],
        evidence: [],
      })),
    },
  }) as unknown as CheckDetail;
const earlier = check('one', '2026-03-01T10:00:00.000Z');
const later = check('two', '2026-03-01T11:00:00.000Z');

describe('the history of a link', () => {
  const pickBoth = (details: Readonly<Record<string, CheckDetail>>): Shown<LinkHistory> => {
    const shown = Shown.of(LinkHistory, { kind: 'ua', checks: [later, earlier], details });
    for (const box of shown.all('input[type=checkbox]')) box.click();
    shown.fixture.detectChanges();
    return shown;
  };

  it('says what changed between two checks, the earlier one first, whichever was ticked first', () => {
    const shown = pickBoth({ one: detail(earlier, 'fails'), two: detail(later, 'holds') });
    expect(shown.all('ul li').map((line) => line.textContent?.trim())).toEqual([
      expect.stringMatching(/^Reach: fails before, holds after\. It holds\.$/),
    ]);
  });

  it('says that nothing changed where nothing did', () => {
    const shown = pickBoth({ one: detail(earlier, 'holds'), two: detail(later, 'holds') });
    expect(shown.text).toContain('Nothing: every step has the same verdict.');
  });

  it('asks for what it does not know yet', () => {
    const shown = Shown.of(LinkHistory, { kind: 'ua', checks: [later, earlier], details: {} });
    const asked = shown.heard(shown.part.read);
    shown.all('input[type=checkbox]')[1]?.click();
    shown.fixture.detectChanges();
    expect(asked).toEqual(['one']);
  });
});
