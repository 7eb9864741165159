import { floorFor, noFloor, sayFloor } from './floor.js';
import type { EntryException } from './floor.js';

const at = '2026-03-01T12:00:00.000Z';
const ids = { linkId: 'display--furnace', serverId: 'furnace' };
const plant = { ...noFloor, policy: 'Basic256Sha256' as const };
const exception = (differs: Partial<EntryException>): EntryException => ({
  id: '1',
  of: 'server',
  subjectId: 'furnace',
  floor: { ...noFloor, policy: 'Basic256' },
  reason: 'It is replaced in May.',
  until: '2026-05-31T00:00:00.000Z',
  by: 'approver',
  ...differs,
});

describe('the floor that holds for a link', () => {
  it('is the plant’s own where no exception is made for it', () => {
    const others = [exception({ subjectId: 'lehr' }), exception({ of: 'link', subjectId: 'furnace' })];
    expect(floorFor(ids, plant, others, at)).toEqual({ floor: plant, exception: null });
  });

  it('is that of its server’s exception, and before that of its own', () => {
    const [ofServer, ofLink] = [
      exception({}),
      exception({ of: 'link', subjectId: 'display--furnace', floor: noFloor }),
    ];
    expect(floorFor(ids, plant, [ofServer], at).exception).toBe(ofServer);
    expect(floorFor(ids, plant, [ofServer, ofLink], at)).toEqual({ floor: noFloor, exception: ofLink });
  });

  it('is the plant’s own again from the moment at which the exception ends', () => {
    expect(floorFor(ids, plant, [exception({ until: at })], at).exception).toBeNull();
    expect(floorFor(ids, plant, [exception({ until: at })], '2026-03-01T11:59:59.999Z').exception).not.toBeNull();
  });
});

describe('a floor', () => {
  it('is said in words', () => {
    expect(sayFloor(noFloor)).toBe('any policy, any mode, any kind of user');
    expect(
      sayFloor({
        policy: 'Basic256Sha256',
        mode: 'SignAndEncrypt',
        tokens: ['UserName', 'Certificate'],
        keyBits: 2048,
      }),
    ).toBe(
      'Basic256Sha256 or better, encrypted, by user name and password or user certificate, RSA keys of 2048 bits or more',
    );
  });
});
