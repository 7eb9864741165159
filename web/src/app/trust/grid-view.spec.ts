import type { GridCellView, TrustOverview, UserTrust } from '@loyal-hinge/contract';
import { shownGrid } from './grid-view';
import type { GridLook } from './grid-view';
import { toneOfCell } from './trust-mark';

const party = (applicationId: string, zone: string) => ({
  applicationId,
  name: applicationId,
  kind: 'server' as const,
  zone,
  certificate: null,
  way: 'push' as const,
  restarts: false,
  readAt: null,
  fault: null,
  trusted: 0,
  issuers: 0,
  crls: 0,
  rejected: 0,
  reading: false,
});
const column = (name: string, isAuthority: boolean, shownBy: string[]) => ({
  thumbprint: name,
  name,
  subject: `CN=${name}`,
  isAuthority,
  notAfter: '2030-01-01T00:00:00.000Z',
  shownBy,
  revoked: false,
});
const cell = (holderId: string, thumbprint: string, differs: Partial<GridCellView> = {}): GridCellView => ({
  holderId,
  thumbprint,
  standing: 'directly',
  status: 'Good',
  says: '',
  linkIds: ['a link'],
  ...differs,
});
const overview: TrustOverview = {
  from: 0,
  fitting: 3,
  reading: 0,
  parties: [party('furnace', 'Hot End'), party('lehr', 'Cold End'), party('cutter', 'Cold End')],
  columns: [column('stranger', false, []), column('display', false, ['display']), column('works', true, [])],
  cells: [
    cell('furnace', 'display'),
    cell('lehr', 'display', { standing: 'not at all', status: 'BadCertificateUntrusted' }),
    cell('lehr', 'stranger', { linkIds: [] }),
  ],
  links: {},
};

describe('the trust grid as it is shown', () => {
  it('has everything by zone: authorities first, then what is shown, then what nobody shows', () => {
    const { zones, columns } = shownGrid(overview);
    expect(zones.map(({ zone, rows }) => [zone, rows.map(({ party: { name } }) => name)])).toEqual([
      ['Hot End', ['furnace']],
      ['Cold End', ['lehr', 'cutter']],
    ]);
    expect(columns.map(({ name }) => name)).toEqual(['works', 'display', 'stranger']);
    expect(zones[1]?.rows[0]?.cells.get('stranger')?.standing).toBe('directly');
  });

  it('tells certificates of the same name apart by their thumbprints', () => {
    const [first, ...others] = overview.columns;
    if (!first) throw new Error('there is no column');
    const twice = { ...overview, columns: [first, { ...first, thumbprint: '0123456789ABCDEF' }, ...others] };
    const names = shownGrid(twice).columns.map(({ name }) => name);
    expect(names.filter((name) => name.startsWith(`${first.name} (`))).toEqual([
      `${first.name} (01234567)`,
      `${first.name} (${first.thumbprint.slice(0, 8)})`,
    ]);
  });
});

describe('user certificates in the grid', () => {
  const users: UserTrust = {
    columns: [
      { thumbprint: 'night', name: 'night shift', subject: 'CN=Night', notAfter: null },
      { thumbprint: 'gone', name: 'CN=Gone', subject: 'CN=Gone', notAfter: null },
    ],
    cells: [
      cell('lehr', 'night', { standing: 'not at all' }),
      cell('lehr', 'gone', { linkIds: [] }),
      cell('elsewhere', 'gone', { linkIds: [] }),
    ],
  };
  const shown = (look: Partial<GridLook> = {}) => {
    const { columns, zones } = shownGrid(overview, users, { find: '', only: 'all', ...look });
    const lehr = zones.flatMap(({ rows }) => rows).find(({ party: { applicationId } }) => applicationId === 'lehr');
    const names = columns.filter(({ isUser }) => isUser).map(({ name }) => name);
    return { names, last: columns.at(-1)?.name, standing: lehr?.cells.get('night')?.standing };
  };

  it('stand behind all others, with the cells of the servers that are shown', () => {
    expect(shown()).toEqual({ names: ['CN=Gone', 'night shift'], last: 'night shift', standing: 'not at all' });
    expect(shownGrid(overview).columns.some(({ isUser }) => isUser)).toBe(false);
  });

  it('are found by words, and by what links need', () => {
    expect(shown({ find: 'night' }).names).toEqual(['night shift']);
    expect(shown({ only: 'refused' }).names).toEqual(['night shift']);
    expect(shown({ only: 'idle' }).names).toEqual(['CN=Gone']);
    expect(shown({ find: 'furnace' }).names).toEqual([]);
  });
});

describe('the tone of a cell', () => {
  it.each([
    [{}, 'holds'],
    [{ status: 'BadCertificateTimeInvalid' }, 'fails'],
    [{ standing: 'set aside', status: 'BadCertificateUntrusted' }, 'fails'],
    [{ standing: 'set aside', status: 'BadCertificateUntrusted', linkIds: [] }, 'weak'],
    [{ linkIds: [] }, 'unknown'],
    [{ standing: 'not known', status: '' }, 'unknown'],
  ] as const)('%j is %s', (differs, tone) => {
    expect(toneOfCell(cell('a', 'b', differs as Partial<GridCellView>))).toBe(tone);
  });
});
