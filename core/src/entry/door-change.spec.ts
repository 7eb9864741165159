import { capabilityOf, changedBy, orderedSafely, stageOfChange, wayBackOf } from '../orders/order-change.js';
import { doorsHold, sayDoorChange } from './door-change.js';
import type { DoorChange } from './door-change.js';

const none = { policy: 'None', mode: 'None', token: 'Anonymous' } as const;
const good = { policy: 'Basic256Sha256', mode: 'SignAndEncrypt', token: 'UserName' } as const;
const close: DoorChange = { kind: 'close-doors', serverId: 'furnace', doors: [none] };
const open: DoorChange = { kind: 'open-doors', serverId: 'furnace', doors: [good] };

describe('a change of doors', () => {
  it('holds as the server offers just what it wants', () => {
    expect([doorsHold(open, [good]), doorsHold(open, [none])]).toEqual([true, false]);
    expect([doorsHold(close, [good]), doorsHold(close, [none, good])]).toEqual([true, false]);
  });

  it('is said with its way back', () => {
    expect(sayDoorChange({ ...close, doors: [none, good] }, 'Furnace server')).toEqual({
      title: 'Close on Furnace server: no security, anonymous; Basic256Sha256 (SignAndEncrypt), user name and password',
      target: 'Furnace server',
      before: 'open: no security, anonymous; Basic256Sha256 (SignAndEncrypt), user name and password',
      after: 'closed: no security, anonymous; Basic256Sha256 (SignAndEncrypt), user name and password',
      undo: 'Open them again at the server.',
    });
  });

  it('is a line of a work order like others: doors open before doors close, and each can be taken back', () => {
    expect([capabilityOf(close), changedBy(close)]).toEqual(['entry', 'furnace']);
    expect(stageOfChange(open)).toBeLessThan(stageOfChange(close));
    expect(orderedSafely([{ change: close }, { change: open }])).toEqual([{ change: open }, { change: close }]);
    expect(wayBackOf(close)).toEqual({ ...close, kind: 'open-doors' });
  });
});
