import { originFault, originsOfPattern, overlappingOrigins, placeOf } from './origin.js';
import type { ItemOrigin } from './origin.js';

const origin = (differs: Partial<ItemOrigin> = {}, form: Partial<ItemOrigin['form']> = {}): ItemOrigin => ({
  deviceId: 'crown-panel',
  port: 502,
  unit: 1,
  table: 'holding',
  address: '40108',
  convention: 'from-1-with-digit',
  form: { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null, ...form },
  within: null,
  ...differs,
});

describe('an origin', () => {
  it('stands at its place on the wire', () => {
    expect(originFault(origin())).toBeNull();
    expect(placeOf(origin())).toBe(107);
  });

  it.each([
    [origin({ address: '30108' }), 'address'],
    [origin({ address: '465536' }, { type: 'float32' }), 'address'],
    [origin({ table: 'coil', address: '00017' }), 'type'],
    [origin({ table: 'coil', address: '00017' }, { type: 'bool', bits: { from: 1, count: 1 } }), 'bits'],
    [origin({}, { bits: { from: 12, count: 8 } }), 'bits'],
    [origin({}, { type: 'float32', bits: { from: 1, count: 1 } }), 'bits'],
    [origin({}, { type: 'bool', bits: { from: 1, count: 2 } }), 'bits'],
    [origin({}, { scale: 0 }), 'scale'],
  ])('that contradicts itself says where (%#)', (wrong, field) => {
    expect(originFault(wrong)?.field).toBe(field);
  });

  it('shares no register with another by mistake', () => {
    const at = (path: string, differs: Partial<ItemOrigin>, form: Partial<ItemOrigin['form']> = {}) => ({
      path,
      origin: origin(differs, form),
    });
    const all = [
      at('A', { address: '40001' }, { type: 'float32' }),
      at('B', { address: '40002' }),
      at('C', { address: '40003' }, { bits: { from: 0, count: 4 } }),
      at('D', { address: '40003' }, { bits: { from: 4, count: 4 } }),
      at('E', { address: '40002', unit: 2 }),
      at('F', { address: '40005' }),
      at('G', { address: '40005' }, { type: 'int16' }),
    ];
    expect(overlappingOrigins(all)).toEqual([
      { path: 'B', with: 'A' },
      { path: 'G', with: 'F' },
    ]);
  });
});

describe('a pattern of origins', () => {
  const pattern = {
    path: 'Lehr/Zone {n}/Temperature',
    from: 1,
    to: 3,
    step: 2,
    origin: origin({}, { type: 'float32' }),
  };

  it('gives each number its address', () => {
    const all = originsOfPattern(pattern);
    if (typeof all === 'string') throw new Error(all);
    expect(all.map(({ path, origin: { address } }) => [path, address])).toEqual([
      ['Lehr/Zone 1/Temperature', '40108'],
      ['Lehr/Zone 2/Temperature', '40110'],
      ['Lehr/Zone 3/Temperature', '40112'],
    ]);
  });

  it.each([
    [{ path: 'Lehr/Zone' }, 'Write {n}'],
    [{ to: 0 }, 'below the first'],
    [{ to: 501 }, 'At most 500'],
    [{ step: 40_000 }, '65,536 places'],
  ])('that can’t be says why: %j', (differs, says) => {
    expect(originsOfPattern({ ...pattern, ...differs })).toEqual(expect.stringContaining(says));
  });
});
