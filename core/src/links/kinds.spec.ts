import { linkKinds, stepColumns } from './kinds.js';

const words = (kinds: Parameters<typeof stepColumns>[0], isBehind = false) =>
  stepColumns(kinds, isBehind).map(
    ({ step, kinds: own }) => `${step.id}${own.length === 1 && kinds.length > 1 ? ` ${own[0]}` : ''}`,
  );

describe('the columns of a board', () => {
  it.each(['ua', 'classic'] as const)('are the steps of %s where there is no other kind', (kind) => {
    expect(words([kind], true)).toEqual(linkKinds[kind].steps.map(({ id }) => id));
    expect(words([kind])).toEqual(words([kind], true).slice(0, -5));
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
