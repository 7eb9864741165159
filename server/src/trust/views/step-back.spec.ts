import { backTo } from './step-back.js';
import type { HistoryStep } from './step-back.js';

const nothing = { trusted: [], issuers: [], trustedCrls: [], issuerCrls: [] };
const step = (before: Partial<HistoryStep['before']>, after: Partial<HistoryStep['after']>): HistoryStep => ({
  before: { ...nothing, ...before },
  after: { ...nothing, ...after },
});
const nobody = (): undefined => undefined;
const at = { holderId: 'furnace', list: 'trusted' } as const;

describe('one step back', () => {
  it('gives what was taken, and takes what was given, in each list', () => {
    const back = backTo('furnace', step({ trusted: ['A', 'B'] }, { trusted: ['B', 'C'], issuers: ['D'] }), nobody);
    expect(back).toEqual([
      { kind: 'list-certificate', ...at, thumbprint: 'A', until: null },
      { kind: 'unlist-certificate', ...at, thumbprint: 'C' },
      { kind: 'unlist-certificate', ...at, list: 'issuers', thumbprint: 'D' },
    ]);
  });

  it('puts the CRL back whose place another of the same authority took', () => {
    const issuers = new Map([
      ['older', 'works'],
      ['newer', 'works'],
      ['other', 'head office'],
    ]);
    const taken = step({ trustedCrls: ['other', 'older'] }, { trustedCrls: ['newer'] });
    expect(backTo('furnace', taken, (id) => issuers.get(id))).toEqual([
      { kind: 'unlist-crl', ...at, crlId: 'newer', instead: 'older' },
      { kind: 'list-crl', ...at, crlId: 'other', before: null },
    ]);
  });

  it('is nothing where only what is set aside changed', () => {
    expect(backTo('furnace', step({ trusted: ['A'] }, { trusted: ['A'] }), nobody)).toEqual([]);
  });
});
