import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { LinkState } from '@loyal-hinge/core';
import { sharesText, StackedBars } from './stacked-bars';
import type { StackedBar } from './stacked-bars';

const ms = (differs: Partial<Record<LinkState, number>> = {}): Record<LinkState, number> => ({
  Sound: 0,
  Strained: 0,
  Parted: 0,
  Untried: 0,
  ...differs,
});
const bar = (of: Record<LinkState, number>, differs: Partial<StackedBar> = {}): StackedBar => ({
  from: 1,
  ms: of,
  says: '3 Nov: 75.0 % sound',
  x: 10,
  wide: 20,
  name: '',
  ...differs,
});

function drawn(bars: readonly StackedBar[], more: { foot?: number; isFluid?: boolean } = {}) {
  TestBed.resetTestingModule();
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(StackedBars);
  const inputs = { bars, words: 'Days of the plant', width: 300, height: 101, ...more };
  for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
  fixture.detectChanges();
  const svg = (fixture.nativeElement as HTMLElement).querySelector('svg') as SVGSVGElement;
  const parts = [...svg.querySelectorAll('rect:not(.whole)')].map((rect) => ({
    state: rect.getAttribute('class') ?? '',
    y: Number(rect.getAttribute('y')),
    high: Number(rect.getAttribute('height')),
  }));
  return { svg, parts };
}

describe('bars of states', () => {
  it('stand on the ground, what holds below, each as high as its share', () => {
    const { parts } = drawn([bar(ms({ Sound: 60, Strained: 20, Parted: 10, Untried: 10 }))]);
    expect(parts).toEqual([
      { state: 'Sound', y: 41, high: 60 },
      { state: 'Strained', y: 21, high: 20 },
      { state: 'Parted', y: 11, high: 10 },
    ]);
  });

  it('show a minute of a year, and never stand out at the top', () => {
    const { parts } = drawn([bar(ms({ Sound: 1_000_000, Parted: 1 }))]);
    expect(parts.map(({ state, high }) => [state, Math.round(high * 10) / 10])).toEqual([
      ['Sound', 100],
      ['Parted', 1.5],
    ]);
    for (const { y } of parts) expect(y).toBeGreaterThanOrEqual(1);
  });

  it('are empty where nobody looked', () => {
    const { svg, parts } = drawn([bar(ms()), bar(ms({ Untried: 5 }), { from: 2 })]);
    expect(parts).toEqual([]);
    expect(svg.querySelectorAll('rect.whole')).toHaveLength(2);
  });

  it('leave room below for their names, on a ground', () => {
    const { svg, parts } = drawn([bar(ms({ Sound: 1 }), { name: '3 Nov' }), bar(ms(), { from: 2 })], { foot: 21 });
    expect([...svg.querySelectorAll('text')].map(({ textContent }) => textContent)).toEqual(['3 Nov']);
    expect(svg.querySelector('.ground')?.getAttribute('y1')).toBe('80');
    expect(parts).toEqual([{ state: 'Sound', y: 1, high: 79 }]);
    expect(drawn([bar(ms())]).svg.querySelector('.ground')).toBeNull();
  });

  it('say in words what they show, whole and one by one', () => {
    const { svg } = drawn([bar(ms({ Sound: 1 }))]);
    expect(svg.getAttribute('aria-label')).toBe('Days of the plant');
    expect(svg.querySelector('title')?.textContent).toBe('3 Nov: 75.0 % sound');
    expect(svg.style.width).toBe('300px');
    expect(drawn([], { isFluid: true }).svg.style.width).toBe('100%');
  });

  it('are said as shares of the whole time, which may be none', () => {
    expect(sharesText(ms({ Sound: 10, Strained: 1, Parted: 1 }))).toBe('83.3 % sound, 8.3 % strained, 8.3 % parted');
    expect(sharesText(ms({ Sound: 1, Untried: 3 }))).toBe('25.0 % sound, 0.0 % strained, 0.0 % parted');
    expect(sharesText(ms())).toBe('0.0 % sound, 0.0 % strained, 0.0 % parted');
  });
});
