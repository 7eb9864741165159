import type { Link, Machine } from '@loyal-hinge/core';
import { draftOf, idOf, neededItem, rowOf } from './fields';
import type { Offered } from './fields';

const machine: Machine = {
  id: 'furnace',
  zoneId: 'hot-end',
  name: 'Furnace',
  description: 'hot',
  hostNames: ['furnace.works.example'],
  addresses: ['10.0.0.1', '10.0.0.2'],
};
const link: Link = {
  id: 'a--b',
  name: 'A to B',
  clientId: 'a',
  serverId: 'b',
  endpointUrl: 'opc.tcp://b :4840',
  pinnedAddress: '10.0.0.1',
  chosenEndpoint: null,
  needs: [{ path: 'ns=2;s=Crown:raw', uses: ['read'] }],
  identity: { kind: 'user', userName: 'u' },
  floor: 'signed',
  kind: 'ua',
  staleAfterMs: 1500,
};
const offered: Offered = { zones: [], choices: { machines: null, clients: null, servers: null }, known: [] };

describe('a form of the plant', () => {
  it('gives back the row that it was filled from', () => {
    expect(rowOf('machines', draftOf('machines', machine, offered), machine)).toEqual(machine);
    expect(rowOf('links', draftOf('links', link, offered), link)).toEqual(link);
  });

  it('reads needed items with and without what they are for', () => {
    expect(neededItem('Furnace/Crown temperature: read, watch')).toEqual({
      path: 'Furnace/Crown temperature',
      uses: ['read', 'watch'],
    });
    expect(neededItem('Furnace/Crown')).toEqual({ path: 'Furnace/Crown', uses: ['read', 'watch'] });
    expect(neededItem('ns=2;s=a:b')).toEqual({ path: 'ns=2;s=a:b', uses: ['read', 'watch'] });
  });

  it('makes an id of a name', () => {
    expect([idOf('Tin bath control'), idOf('  Öfen #3 ')]).toEqual(['tin-bath-control', 'o-fen-3']);
  });
});
