import type { EntryClosing } from '@loyal-hinge/contract';
import { closedKeys, keyOf, rulesIn, targetOfDoor, turned } from './rules';

const none = { policy: 'None', mode: 'None', token: 'Anonymous' } as const;
const own = { policy: 'urn:own/policy, and ~ more', mode: 'Sign', token: 'UserName' } as const;
const closing: EntryClosing = {
  close: [{ serverId: 'furnace', server: 'Furnace', door: none }],
  keep: [],
  needs: [],
  stuck: [],
  isShortest: true,
};
const nothing = { close: '', open: '', unneeded: '' };
const keyOfNone = keyOf(targetOfDoor('furnace', none));

describe('a what-if in the address', () => {
  it('gives back what was written into it, whatever a policy is called', () => {
    const close = turned(keyOfNone, keyOf(targetOfDoor('lehr', own)));
    expect(rulesIn({ ...nothing, close }, null)).toEqual([
      { serverId: 'furnace', ...none, to: 'closed' },
      { serverId: 'lehr', ...own, to: 'closed' },
    ]);
    const everywhere = keyOf({ serverId: null, policy: 'Basic256', mode: null, token: null });
    expect(rulesIn({ ...nothing, close: everywhere }, null)).toEqual([
      { serverId: null, policy: 'Basic256', mode: null, token: null, to: 'closed' },
    ]);
  });

  it('closes all that nobody needs, but for those that were taken out of it again', () => {
    expect([...closedKeys({ ...nothing, unneeded: 'all' }, closing)]).toEqual([keyOfNone]);
    expect(rulesIn({ ...nothing, unneeded: 'all', close: keyOfNone }, closing)).toEqual([]);
    expect(rulesIn({ ...nothing, unneeded: 'all' }, null)).toEqual([]);
  });

  it('opens before it closes', () => {
    const open = keyOf(targetOfDoor('furnace', own));
    expect(rulesIn({ ...nothing, open, close: keyOfNone }, null).map(({ to }) => to)).toEqual(['open', 'closed']);
  });

  it('passes over what is no door', () => {
    expect(
      rulesIn(
        {
          ...nothing,
          close: 'furnace,,a~b~c~d~e,furnace~None~Odd~Anonymous,furnace~None~None~Odd,%zz~None~None~Anonymous',
        },
        null,
      ),
    ).toEqual([{ serverId: '%zz', ...none, to: 'closed' }]);
  });

  it('is turned back by the same switch', () => {
    expect(turned(turned('', 'a'), 'b')).toBe('a,b');
    expect(turned('a,b', 'a')).toBe('b');
  });
});
