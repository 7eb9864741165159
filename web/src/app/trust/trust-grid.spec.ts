import type { GridCellView } from '@loyal-hinge/contract';
import { Shown } from '../../testing/show';
import type { ShownGrid } from './grid-view';
import { TrustGridView, wordsOf } from './trust-grid';

const cell: GridCellView = {
  holderId: 'furnace',
  thumbprint: 'AA',
  standing: 'set aside',
  status: 'BadCertificateUntrusted',
  says: '',
  linkIds: ['l'],
};
const party = (applicationId: string, fault: string | null = null) => ({
  applicationId,
  name: applicationId,
  kind: 'server' as const,
  zone: 'Hot End',
  certificate: null,
  way: 'push' as const,
  restarts: false,
  readAt: null,
  fault,
  trusted: 0,
  issuers: 0,
  crls: 0,
  rejected: 0,
  reading: false,
});
const column = (thumbprint: string, revoked = false) => ({
  thumbprint,
  name: `certificate ${thumbprint}`,
  subject: `CN=${thumbprint}`,
  isAuthority: false,
  notAfter: '2030-01-01T00:00:00.000Z',
  shownBy: ['x'],
  isUser: false,
  revoked,
});
const grid: ShownGrid = {
  zones: [
    {
      zone: 'Hot End',
      rows: [
        { party: party('furnace'), cells: new Map([['AA', cell]]) },
        { party: party('lehr', 'The connection was lost.'), cells: new Map() },
      ],
    },
  ],
  columns: [column('AA'), column('BB', true)],
};
const press = (key: string): void =>
  void document.activeElement?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));

describe('the trust grid', () => {
  it('says of each cell how it stands, and of each row what is the matter', () => {
    const shown = Shown.of(TrustGridView, { grid });
    expect(shown.all('[role=gridcell]').map((one) => one.getAttribute('aria-label'))).toEqual([
      'furnace, certificate AA: set aside, refused, needed',
      'furnace, certificate BB: not at all',
      'lehr, certificate AA: not at all',
      'lehr, certificate BB: not at all',
    ]);
    expect(shown.text).toContain('lehr not reached');
    expect(shown.all('a.revoked').map((one) => one.textContent)).toEqual(['certificate BB']);
  });

  it('is walked by the arrows, stays inside, and opens a cell with Enter', () => {
    const shown = Shown.of(TrustGridView, { grid });
    const picked = shown.heard(shown.part.pick);
    shown.all('[role=gridcell]')[0]?.focus();
    for (const key of ['ArrowUp', 'ArrowLeft', 'ArrowRight', 'ArrowDown', 'ArrowDown']) press(key);
    expect(document.activeElement?.id).toBe('cell-lehr-BB');
    press('Enter');
    expect(picked).toEqual([{ holderId: 'lehr', thumbprint: 'BB' }]);
  });
});

describe('a grid of hundreds of columns', () => {
  const names = Array.from({ length: 200 }, (_, index) => `C${String(index).padStart(3, '0')}`);
  const wide = { ...grid, columns: names.map((name) => column(name)) };

  it('is drawn where it is looked at', () => {
    const shown = Shown.of(TrustGridView, { grid: wide });
    const heads = shown.all('thead th[scope=col] a').map((one) => one.textContent);
    expect([heads.length, heads[0], heads.at(-1)]).toEqual([56, 'certificate C000', 'certificate C055']);
    expect(shown.all('thead .room')).toHaveLength(1);
  });

  it('is walked to its last column by the arrows', () => {
    const shown = Shown.of(TrustGridView, { grid: wide });
    shown.all('[role=gridcell]')[0]?.focus();
    for (let step = 0; step < 250; step += 1) press('ArrowRight');
    expect(document.activeElement?.id).toBe('cell-furnace-C199');
    expect(shown.all('thead .room')).toHaveLength(1);
  });
});

describe('how a cell stands, in words', () => {
  it.each([
    [{ standing: 'directly', status: 'Good' }, 'trusted directly, needed'],
    [{ standing: 'through an issuer', status: 'BadCertificateRevoked' }, 'trusted through an issuer, refused, needed'],
    [{ standing: 'not at all' }, 'not trusted, needed'],
    [{ standing: 'not known', status: '', linkIds: [] }, 'not known'],
  ] as const)('%j', (differs, words) => {
    expect(
      wordsOf({ ...cell, ...differs, linkIds: [...('linkIds' in differs ? differs.linkIds : cell.linkIds)] }),
    ).toBe(words);
  });

  it('folds a zone away: its rows are gone, and the keyboard skips them', () => {
    const shown = Shown.of(TrustGridView, { grid, folded: ['Hot End'] });
    expect(shown.all('[role=gridcell]')).toEqual([]);
    const told = shown.heard(shown.part.fold);
    expect(shown.button(/Hot End/).getAttribute('aria-expanded')).toBe('false');
    shown.press(/Hot End/);
    expect(told).toEqual(['Hot End']);
  });
});
