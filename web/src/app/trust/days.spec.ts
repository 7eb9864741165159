import { daysWords, nearness } from './days';

const now = Date.parse('2026-03-01T12:00:00.000Z');
const day = 86_400_000;

describe('how long something lasts', () => {
  it.each([
    [12.4, '12 days left', 'weak'],
    [0.5, 'ends today', 'weak'],
    [1, '1 day left', 'weak'],
    [-41, 'ended 41 days ago', 'fails'],
    [200, '7 months left', 'holds'],
    [1500, '4 years left', 'holds'],
  ] as const)('%d days from now: %s', (days, words, tone) => {
    expect([daysWords(now + days * day, now), nearness(now + days * day, now)]).toEqual([words, tone]);
  });
});
