import { linkKinds } from '@loyal-hinge/core';
import type { LinkState, Verdict } from '@loyal-hinge/core';
import { Shown } from '../../testing/show';
import { CopyText } from './copy-text';
import { HingeSign } from './hinge-sign';
import { BarStrip } from './bar-strip';
import { Moment } from './moment';
import { VerdictBar } from './verdict-bar';

describe('the signs', () => {
  const verdicts: readonly Verdict[] = ['holds', 'weak', 'fails', 'unknown', 'not-needed'];
  const states: readonly LinkState[] = ['Sound', 'Strained', 'Parted', 'Untried'];

  it('draw every verdict in a shape of its own, with its word', () => {
    const shown = Shown.of(VerdictBar, { verdict: 'holds' });
    const drawn = verdicts.map((verdict) => {
      shown.give({ verdict });
      const svg = shown.all('svg')[0];
      return { shape: svg?.querySelector('path')?.getAttribute('d'), word: svg?.getAttribute('aria-label') };
    });
    expect(new Set(drawn.map(({ shape }) => shape)).size).toBe(verdicts.length);
    expect(drawn.map(({ word }) => word)).toEqual(['holds', 'weak', 'fails', 'unknown', 'not needed']);
  });

  it('say of a step that is being tried that it is', () => {
    const shown = Shown.of(VerdictBar, { verdict: 'unknown', working: true });
    expect(shown.all('svg')[0]?.getAttribute('aria-label')).toBe('being tried now');
  });

  it('draw every state of a link in a shape of its own', () => {
    const shown = Shown.of(HingeSign, { state: 'Sound' });
    const shapes = states.map((state) => {
      shown.give({ state });
      return shown
        .all('svg path')
        .map((path) => path.getAttribute('d'))
        .join();
    });
    expect(new Set(shapes).size).toBe(states.length);
  });

  it('give a time with its UTC on hover', () => {
    const shown = Shown.of(Moment, { at: '2026-03-01T12:00:05.250Z', show: 'day' });
    expect(shown.text).toBe('1 Mar 2026');
    expect(shown.all('time')[0]?.getAttribute('aria-description')).toBe('2026-03-01 12:00:05.250 UTC');
    shown.give({ show: 'near' });
    expect(shown.text).toBe('1 Mar 2026');
    shown.give({ at: new Date().toISOString() });
    expect(shown.text).toMatch(/^\d\d:\d\d:\d\d$/);
  });

  it('draw the verdicts of all steps side by side, each kind in one stroke', () => {
    const steps = linkKinds.ua.steps.slice(0, 5);
    const strip = Shown.of(BarStrip, { steps, verdicts });
    // The second bar begins 44 pixels further to the right, with its room of 5 before it.
    expect(strip.all('path.weak')[0]?.getAttribute('d')).toBe('M50 2h12l4 6 4-6h12v10h-32z');
    expect(strip.all('path')).toHaveLength(verdicts.length);
    expect(strip.all('svg')[0]?.getAttribute('aria-label')).toBe(
      'Name: holds, Passage: weak, Reach: fails, Hello: unknown, Endpoints: not needed',
    );
    strip.give({ steps, verdicts: [], working: 'reach' });
    expect(strip.all('svg')[0]?.getAttribute('aria-label')).toContain('Passage: unknown, Reach: being tried now');
    expect(strip.all('path.working')).toHaveLength(1);
  });

  it('copy a value on a click, and say so', async () => {
    const writeText = jest.fn(() => Promise.resolve());
    Object.defineProperty(navigator, 'clipboard', { value: { writeText }, configurable: true });
    const shown = Shown.of(CopyText, { text: 'AB12' });
    shown.press(/AB12/);
    await new Promise((resolve) => setTimeout(resolve));
    shown.fixture.detectChanges();
    expect(writeText).toHaveBeenCalledWith('AB12');
    expect(shown.text).toContain('copied');
  });
});
