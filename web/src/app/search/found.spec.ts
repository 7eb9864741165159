import type { SearchHit } from '@loyal-hinge/contract';
import { foundGroups, wayTo } from './found';
import type { Found } from './found';

const page = (name: string): Found => ({ name, about: '', way: { path: ['/links'], query: {} }, keys: '' });
const hit = (differs: Partial<SearchHit> = {}): SearchHit => ({
  kind: 'link',
  id: 'a--b',
  name: 'A to B',
  about: 'Parted',
  ...differs,
});

describe('what the command field offers', () => {
  it('are pages and actions that fit, and what the server found, kind by kind', () => {
    const groups = foundGroups(
      'li',
      [page('Links'), page('Plant')],
      [{ ...page('Check the link now'), way: null, keys: 'c' }],
      [hit(), hit({ kind: 'machine', id: 'm', name: 'Lift' })],
    );
    expect(groups.map(({ label, items }) => [label, ...items.map(({ name }) => name)])).toEqual([
      ['Pages', 'Links'],
      ['Actions', 'Check the link now'],
      ['Machines', 'Lift'],
      ['Links', 'A to B'],
    ]);
  });

  it.each([
    ['machine', ['/plant'], { part: 'machines', find: 'A to B' }],
    ['application', ['/trust/lists', 'a--b'], {}],
    ['link', ['/links', 'a--b'], {}],
    ['certificate', ['/trust/certificates', 'a--b'], {}],
    ['work order', ['/orders', 'a--b'], {}],
  ] as const)('leads to a %s', (kind, path, query) => {
    expect(wayTo(hit({ kind }))).toEqual({ path, query });
  });
});
