import { familyOf, sayAddresses, sayNumbers } from './addresses.js';
import { pointsIn } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import type { Ranges } from './ranges.js';

/** Flows in words: from where to where, by what, one line a box. */
export const sayFlows = (flows: FlowSet): readonly string[] => flows.map(sayRegion);

function sayRegion(region: Region): string {
  const said = (name: 'source' | 'destination'): string => {
    const ranges = pointsIn(region, name) ?? [];
    const parts = sayAddresses(ranges);
    const isAll = parts.length === 1 && (parts[0] === '0.0.0.0/0' || parts[0] === '::/0');
    return isAll ? `any IPv${familyOf(ranges[0]?.from ?? 0)} address` : parts.join(', ');
  };
  const numbers = (name: 'protocol' | 'destinationPort' | 'sourcePort'): string =>
    sayNumbers(pointsIn(region, name) ?? []).join(', ');
  const protocols = numbers('protocol');
  const names: Readonly<Record<string, string>> = { '6': 'TCP', '17': 'UDP', '1': 'ICMP', '58': 'ICMPv6' };
  const by = protocols === '' ? 'any protocol' : (names[protocols] ?? `protocol ${protocols}`);
  const ports = numbers('destinationPort');
  const interfaces = (['inInterface', 'outInterface'] as const).map((name) => sayInterface(pointsIn(region, name)));
  const through = [
    interfaces[0] === '' ? '' : `in by ${interfaces[0]}`,
    interfaces[1] === '' ? '' : `out by ${interfaces[1]}`,
  ].filter((part) => part !== '');
  return [
    `${said('source')} to ${said('destination')}`,
    `${by}${ports === '' ? '' : ` port ${ports}`}`,
    ...through,
  ].join(', ');
}

function sayInterface(ranges: Ranges | null): string {
  if (!ranges) return '';
  const names = ranges.flatMap(({ from, to }) => (String(to) === `${String(from)}\0` ? [String(from)] : []));
  return names.length === ranges.length ? names.join(', ') : 'some interfaces';
}
