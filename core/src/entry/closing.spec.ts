import { linkOf, serverOf, takes } from '../testing/doors.js';
import { largestClosing } from './closing.js';
import { doorKey, doorsOf, isWeakDoor, passageOf } from './doors.js';
import type { ServerDoors } from './doors.js';
import { endpointsUnder } from './door-rules.js';
import { noFloor } from './floor.js';
import { needKey } from './ways-in.js';
import { wayToClosing } from './way-to-closing.js';

const keys = (found: readonly { readonly door: Parameters<typeof doorKey>[0] }[]) =>
  found.map(({ door }) => doorKey(door));
const old = takes('Basic256', 'SignAndEncrypt', 'UserName');
const weakOnes = [takes('None', 'None', 'Anonymous'), old];
const strong = takes('Basic256Sha256', 'SignAndEncrypt', 'UserName');

describe('the largest set of weak doors that can be closed', () => {
  it('is all of them where every link has a better one', () => {
    const server = serverOf('furnace', [...weakOnes, strong], linkOf('a', ['Basic256', 'Basic256Sha256']));
    expect(keys(largestClosing([server], noFloor).close)).toEqual([
      'Basic256|SignAndEncrypt|UserName',
      'None|None|Anonymous',
    ]);
    expect(largestClosing([server], noFloor).keep).toEqual([]);
  });

  it('leaves the one that a link needs, and says for whom', () => {
    const server = serverOf(
      'furnace',
      [...weakOnes, strong],
      linkOf('old', ['Basic256']),
      linkOf('a', ['Basic256Sha256']),
    );
    const { close, keep } = largestClosing([server], noFloor);
    expect(keys(close)).toEqual(['None|None|Anonymous']);
    expect(keep.map(({ linkIds }) => linkIds)).toEqual([['old']]);
  });

  it('keeps as few as will do, and the less weak of two', () => {
    const doors = [
      takes('Basic128Rsa15', 'SignAndEncrypt', 'UserName'),
      takes('Basic256', 'SignAndEncrypt', 'UserName'),
      takes('Basic128Rsa15', 'None', 'UserName'),
    ];
    const links = [linkOf('a', ['Basic128Rsa15', 'Basic256']), linkOf('b', ['Basic256'])];
    expect(keys(largestClosing([serverOf('furnace', doors, ...links)], noFloor).keep)).toEqual([
      'Basic256|SignAndEncrypt|UserName',
    ]);
    const either = linkOf('c', ['None', 'Basic256'], { anonymous: true });
    const open = [takes('None', 'None', 'Anonymous'), takes('Basic256', 'SignAndEncrypt', 'Anonymous')];
    expect(keys(largestClosing([serverOf('furnace', open, either)], noFloor).keep)).toEqual([
      'Basic256|SignAndEncrypt|Anonymous',
    ]);
  });

  it('keeps nothing open for a link that does not get in now', () => {
    const server = serverOf('furnace', weakOnes, linkOf('out', ['Aes256_Sha256_RsaPss']));
    expect(keys(largestClosing([server], noFloor).close)).toHaveLength(2);
  });

  /** Tried against every subset of weak doors, on plants that are made up by a row of numbers. */
  it('is as large as the largest of all subsets that cut nobody off', () => {
    let seed = 7;
    const next = (below: number): number => (seed = (seed * 48_271) % 2_147_483_647) % below;
    for (let round = 0; round < 150; round += 1) {
      const server = madeUp(next);
      const weak = doorsOf(server.endpoints, noFloor).filter(isWeakDoor);
      const cutsOff = (mask: number): boolean => {
        const rules = weak.flatMap((door, at) =>
          mask & (1 << at) ? [{ ...door, serverId: null, to: 'closed' as const }] : [],
        );
        const left = endpointsUnder(server.id, server.endpoints, rules);
        return server.links.some(
          (link) => passageOf(server.endpoints, link).fault === null && passageOf(left, link).fault !== null,
        );
      };
      const sizes = Array.from({ length: 1 << weak.length }, (_, mask) => (cutsOff(mask) ? 0 : bitsOf(mask)));
      const { close } = largestClosing([server], noFloor);
      expect(close).toHaveLength(Math.max(...sizes));
      const mask = weak.reduce(
        (sum, door, at) =>
          close.some((one) => one.door === door || doorKey(one.door) === doorKey(door)) ? sum | (1 << at) : sum,
        0,
      );
      expect(cutsOff(mask)).toBe(false);
    }
  });
});

const bitsOf = (mask: number): number => [...mask.toString(2)].filter((digit) => digit === '1').length;

function madeUp(next: (below: number) => number): ServerDoors {
  const policies = ['None', 'Basic128Rsa15', 'Basic256', 'Basic256Sha256'] as const;
  const tokens = ['Anonymous', 'UserName'] as const;
  const endpoints = policies
    .filter(() => next(4) > 0)
    .map((policy) => {
      const some = tokens.filter(() => next(2) > 0);
      return takes(policy, policy === 'None' ? 'None' : 'SignAndEncrypt', ...(some.length > 0 ? some : tokens));
    });
  const links = Array.from({ length: 1 + next(5) }, (_, at) => {
    const has = policies.filter(() => next(2) > 0);
    return linkOf(`link-${at}`, has.length > 0 ? has : ['None'], next(2) > 0 ? { anonymous: true } : {});
  });
  return serverOf('furnace', endpoints, ...links);
}

describe('the shortest way to closing all', () => {
  const needs = (...servers: readonly ServerDoors[]) =>
    wayToClosing(servers, noFloor).needs.map(({ need, linkIds }) => [needKey(need), linkIds]);

  it('is empty where nobody needs a weak door', () => {
    expect(needs(serverOf('furnace', [...weakOnes, strong], linkOf('a', ['Basic256Sha256'])))).toEqual([]);
  });

  it('counts once what serves several links, and so opens one door rather than mending each client', () => {
    const links = ['a', 'b', 'c'].map((id) => linkOf(id, ['Basic256', 'Aes128_Sha256_RsaOaep']));
    const server = serverOf('furnace', [old, strong], ...links);
    expect(needs(server)).toEqual([['open furnace Aes128_Sha256_RsaOaep|SignAndEncrypt|UserName', ['a', 'b', 'c']]]);
  });

  it('gives one client a policy rather than opening a door on each of its servers', () => {
    const servers = ['furnace', 'lehr', 'bath'].map((id) =>
      serverOf(id, [old, strong], linkOf(`to-${id}`, ['Basic256', 'Aes128_Sha256_RsaOaep'], { clientId: 'old' })),
    );
    expect(needs(...servers)).toEqual([['policy old Basic256Sha256', ['to-furnace', 'to-lehr', 'to-bath']]]);
  });

  it('lets an anonymous link sign in, and gives a choice up where that is all', () => {
    const doors = [takes('Basic256Sha256', 'SignAndEncrypt', 'Anonymous', 'UserName'), old];
    const server = serverOf(
      'furnace',
      doors,
      linkOf('nobody', ['Basic256Sha256'], { anonymous: true }),
      linkOf('held', ['Basic256', 'Basic256Sha256'], {
        chosenEndpoint: { policy: 'Basic256', mode: 'SignAndEncrypt' },
      }),
    );
    expect(needs(server)).toEqual([
      ['identity nobody UserName', ['nobody']],
      ['choice held', ['held']],
    ]);
  });

  it('says where a way may be shorter than the one that was found, and ends all the same', () => {
    // Clients and servers in a tangle: of each pair one side has to change.
    const servers = Array.from({ length: 40 }, (_, at) => {
      const clients = new Set([1, 2, 3, 4].map((step) => `client-${(at * 7 + step * step * 11) % 40}`));
      const links = [...clients].map((clientId) =>
        linkOf(`${clientId}-${at}`, ['Basic256', 'Aes128_Sha256_RsaOaep'], { clientId }),
      );
      return serverOf(`server-${at}`, [old, strong], ...links);
    });
    const { needs: found, isShortest, stuck } = wayToClosing(servers, noFloor);
    expect([isShortest, stuck]).toEqual([false, []]);
    expect(new Set(found.flatMap(({ linkIds }) => linkIds)).size).toBe(160);
  });
});
