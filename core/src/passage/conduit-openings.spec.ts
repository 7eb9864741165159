import fc from 'fast-check';
import type { Machine } from '../plant/plant';
import { widthOfConduit } from './conduit-openings';
import { cut, isEmpty } from './flow-set';
import { flowsOfOpening } from './openings';
import { judgePacket, readPacket } from './verdict';
import { onePoint } from './ranges';
import type { Opening } from './openings';
import { readRuleSet } from './read-rule-set';
import type { RuleSet } from './rule-set';
import { sayFlows } from './say-flows';
import type { PassagePlan } from './way';

const machine = (id: string, zoneId: string, address: string): Machine => ({
  id,
  name: id,
  zoneId,
  description: '',
  addresses: [address],
  hostNames: [],
});
const [board, desk, silo, furnace] = [
  machine('board', 'office', '10.4.0.5'),
  machine('desk', 'office', '10.4.0.6'),
  machine('silo', 'process', '10.1.0.7'),
  machine('furnace', 'process', '10.1.0.8'),
] as const;
const machines = [board, desk, silo, furnace];
const zones = ['office', 'dmz', 'process'].map((id) => ({ id, name: id }));
const between = (id: string, from: string, to: string) => ({
  id,
  name: `${id} wall`,
  machineId: null,
  interfaces: [
    { name: 'eth1', zoneId: from },
    { name: 'eth0', zoneId: to },
  ],
});
const conduit = { id: 'c', name: 'Office to process', fromZoneId: 'office', toZoneId: 'process', deviceIds: [] };
const plan: PassagePlan = {
  zones,
  devices: [between('outer', 'office', 'dmz'), between('inner', 'dmz', 'process')],
  conduits: [conduit],
};
const opening = (from: Machine, to: Machine, port: number): Opening => ({
  purpose: 'endpoint',
  opens: 'client',
  between: { from, to },
  source: from.addresses,
  destination: to.addresses,
  protocol: 'tcp',
  ports: onePoint(port),
});

function nft(rules: string, nat = ''): RuleSet {
  const read = readRuleSet(
    `table ip f {\n${nat}\n chain forward {\n  type filter hook forward priority filter; policy drop;\n  ${rules}\n }\n}`,
    'nft',
  );
  if (!read.ok) throw new Error(read.says);
  return read.ruleSet;
}
const width = (outer: RuleSet | null, inner: RuleSet | null, openings: readonly Opening[]) =>
  widthOfConduit(plan, conduit, machines, openings, (id) => (id === 'outer' ? outer : inner));
const said = (outer: RuleSet, inner: RuleSet, openings: readonly Opening[]) =>
  sayFlows(width(outer, inner, openings)?.unneeded ?? []);

describe('What a conduit lets through beside what is needed', () => {
  const all = nft('accept');

  it('is nothing where its firewalls let through just that', () => {
    const exact = nft('ip saddr 10.4.0.5 ip daddr 10.1.0.7 tcp dport 4840 accept');
    expect(width(all, exact, [opening(board, silo, 4840)])).toEqual({ conduitId: 'c', unneeded: [], unsureAt: null });
  });

  it('is said of machines of its zones alone, to the last port', () => {
    const wide = nft('ip saddr 10.4.0.0/16 ip daddr 10.1.0.7 tcp dport 4840-4841 accept');
    expect(said(all, wide, [opening(board, silo, 4840)])).toEqual([
      '10.4.0.5 to 10.1.0.7, TCP port 4841',
      '10.4.0.6 to 10.1.0.7, TCP port 4840-4841',
    ]);
  });

  it('is what all of its firewalls let through, not one of them', () => {
    const one = nft('tcp dport 4840 accept');
    const other = nft('ip saddr 10.4.0.6 accept');
    expect(said(one, other, [])).toEqual(['10.4.0.6 to 10.1.0.7-10.1.0.8, TCP port 4840']);
  });

  it('is told as it comes out where addresses are translated, and what is needed with it', () => {
    const translating = nft(
      'tcp dport 4840 accept',
      ' chain pre {\n  type nat hook prerouting priority dstnat; policy accept;\n  ip daddr 10.1.0.8 tcp dport 4840 dnat to 10.1.0.7:4840\n }',
    );
    expect(said(translating, all, [opening(board, furnace, 4840)])).toEqual(['10.4.0.6 to 10.1.0.7, TCP port 4840']);
  });

  it('is just what each packet by itself gets through with and nobody needs', () => {
    const accepted = (rules: RuleSet, from: string, to: string, port: number): boolean => {
      const read = readPacket(
        {
          hook: 'forward',
          in: 'eth1',
          out: 'eth0',
          source: from,
          destination: to,
          protocol: 'tcp',
          destinationPort: port,
          sourcePort: 2000,
          state: 'new',
        },
        null,
      );
      return read.ok && judgePacket(rules, read.packet).verdict === 'accept';
    };
    const condition = fc.tuple(
      fc.constantFrom('', 'ip saddr 10.4.0.5', 'ip saddr 10.4.0.0/16', 'ip saddr != 10.4.0.5'),
      fc.constantFrom('', 'ip daddr 10.1.0.7', 'ip daddr { 10.1.0.7, 10.1.0.8 }'),
      fc.constantFrom('', 'tcp dport 4840', 'tcp dport 4840-4841', 'tcp dport != 4841'),
      fc.constantFrom('accept', 'drop'),
    );
    const ruleSets = fc
      .array(condition, { minLength: 1, maxLength: 4 })
      .map((rules) => nft(rules.map((parts) => parts.filter((part) => part !== '').join(' ')).join('\n  ')));
    const ends = [board, desk].flatMap((from) => [silo, furnace].map((to) => [from, to] as const));
    const all = ends.flatMap(([from, to]) => [4840, 4841, 22].map((port) => opening(from, to, port)));
    const needs = fc.uniqueArray(fc.constantFrom(...all), { maxLength: 5 });
    fc.assert(
      fc.property(ruleSets, ruleSets, needs, (outer, inner, wanted) => {
        const found = width(outer, inner, wanted)?.unneeded ?? [];
        for (const each of all) {
          const [from = '', to = ''] = [each.source[0], each.destination[0]];
          const [{ from: port } = { from: 0 }] = each.ports;
          const isThrough = [outer, inner].every((rules) => accepted(rules, from, to, Number(port)));
          const flows = flowsOfOpening(each);
          const isWide = flows !== null && !isEmpty(cut(found, [flows]));
          expect([from, to, port, isWide]).toEqual([from, to, port, isThrough && !wanted.includes(each)]);
        }
      }),
      { numRuns: 100 },
    );
  });

  it('is not known where rules are missing or tell not all', () => {
    expect(width(all, null, [])).toMatchObject({ unneeded: [], unsureAt: 'inner wall' });
    expect(width(nft('limit rate 5/second accept'), all, [])?.unsureAt).toBe('outer wall');
  });

  it('is nothing to tell where no firewall is on the way', () => {
    expect(widthOfConduit({ ...plan, devices: [] }, conduit, machines, [], () => null)).toBeNull();
    expect(widthOfConduit(plan, conduit, [], [], () => all)).toEqual({ conduitId: 'c', unneeded: [], unsureAt: null });
  });
});
