import { assess } from './assess.js';
import { usualRules } from './cause.js';
import { expandedNeeds } from './expanded-needs.js';
import { fact, facts, healthy, now, subject } from '../testing/builders.js';

describe('a need by pattern', () => {
  it('is every item that fits, each for all that is said of it, and itself where none does', () => {
    const needs = [
      { path: 'Lehr/*/Temperature', uses: ['read'] as const },
      { path: 'Lehr/A/Temperature', uses: ['write'] as const },
      { path: 'Tin/*', uses: ['watch'] as const },
    ];
    const found = new Map([
      ['Lehr/*/Temperature', ['Lehr/A/Temperature', 'Lehr/B/Temperature']],
      ['Tin/*', []],
    ]);
    expect(expandedNeeds(needs, found)).toEqual([
      { path: 'Lehr/A/Temperature', uses: ['read', 'write'] },
      { path: 'Lehr/B/Temperature', uses: ['read'] },
      { path: 'Tin/*', uses: ['watch'] },
    ]);
  });

  it('is judged item by item: one that can’t be read parts the link', () => {
    const byPattern = subject({ needs: [{ path: 'Furnace/*', uses: ['read', 'watch'] }] });
    const fits = fact({ kind: 'item-pattern', pattern: 'Furnace/*', paths: ['Furnace/Crown'], isWhole: true, ms: 5 });
    const judged = (seen: ReturnType<typeof healthy>) => assess(byPattern, seen, usualRules, now);
    expect(judged([...healthy(), fits]).state).toBe('Sound');
    expect(
      judged([...healthy().filter(({ kind }) => kind !== 'item-read'), fits, facts.read('BadNotReadable')]).partedAt,
    ).toBe('read');
    const none = judged([...healthy().filter(({ kind }) => !kind.startsWith('item')), facts.missing('Furnace/*')]);
    expect([none.partedAt, none.leadingCause]).toEqual(['browse', 'item-missing']);
  });
});
