import { linkKinds, stepColumns, verdictsOnBoard } from './kinds.js';

const words = (kinds: Parameters<typeof stepColumns>[0], isBehind = false) =>
  stepColumns(kinds, isBehind).map(
    ({ step, kinds: own }) => `${step.id}${own.length === 1 && kinds.length > 1 ? ` ${own[0]}` : ''}`,
  );

describe('what is behind a server', () => {
  const on = (...behind: readonly ('holds' | 'fails' | 'unknown' | 'not-needed')[]) => {
    const verdicts = linkKinds.ua.steps.map((_, index, { length }) => behind[index - length + 5] ?? ('holds' as const));
    return verdictsOnBoard('ua', verdicts).at(-1);
  };

  it('is one verdict on a board, the gravest', () => {
    expect(on('holds', 'fails', 'unknown', 'unknown', 'unknown')).toBe('fails');
    expect(on('holds', 'holds', 'holds', 'holds', 'unknown')).toBe('unknown');
    expect(on('holds', 'holds', 'holds', 'holds', 'holds')).toBe('holds');
    expect(on('not-needed', 'not-needed', 'not-needed', 'not-needed', 'not-needed')).toBe('not-needed');
  });
});

describe('the columns of a board', () => {
  it.each(['ua', 'classic'] as const)('are the steps of %s where there is no other kind', (kind) => {
    const own = linkKinds[kind].steps.map(({ id }) => id).slice(0, -5);
    expect(words([kind])).toEqual(own);
    expect(words([kind], true)).toEqual([...own, 'origin-value']);
  });

  it('share what has the same name, and keep each kind’s own in its order', () => {
    expect(words(['classic', 'ua'])).toEqual([
      'name',
      'passage',
      'reach',
      'hello ua',
      'endpoints ua',
      'policy ua',
      'server-certificate ua',
      'secure-channel ua',
      'client-certificate ua',
      'identity ua',
      'mapper classic',
      'bindings classic',
      'sign-in classic',
      'class classic',
      'activation classic',
      'object-port classic',
      'access classic',
      'browse',
      'read',
      'watch',
      'write',
      'history ua',
      'alarms ua',
    ]);
  });

  it('are none where there are no links', () => {
    expect(stepColumns([])).toEqual([]);
  });
});
