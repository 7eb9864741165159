import type { FirewallEvent, LogPlace } from '../log-event.js';
import { timeAt } from './times.js';
import type { LogClock } from './times.js';

/** Whether a line is one that the kernel writes for a rule that logs (`nft … log`, `iptables … -j LOG`). */
export const isKernelFirewall = (line: string): boolean =>
  line.includes(' SRC=') && line.includes(' DST=') && line.includes(' PROTO=') && line.includes('IN=');

/** @returns null: the line is none of these */
export function kernelFirewallEvent(line: string, position: number, clock: LogClock): FirewallEvent | null {
  if (!isKernelFirewall(line)) return null;
  const start = line.search(/(?:^|[\s\]])IN=/);
  if (start < 0) return null;
  /* Answers of ICMP quote the packet that they answer in brackets: it is not this packet. */
  const quoted = line.indexOf(' [', start + 1);
  const fields = ` ${line.slice(start, quoted < 0 ? line.length : quoted).trim()} `;
  const found = timeAt(line, clock);
  const label = labelIn(line.slice(found?.length ?? 0, start + 1));
  const place = (address: string, port: string): LogPlace => ({
    address: fieldIn(fields, address) ?? '',
    port: portOf(fieldIn(fields, port)),
  });
  return {
    kind: 'firewall',
    position,
    time: found?.time ?? null,
    computer: label.computer,
    action: actionIn(label.text),
    label: label.text,
    in: fieldIn(fields, 'IN') ?? '',
    out: fieldIn(fields, 'OUT') ?? '',
    protocol: (fieldIn(fields, 'PROTO') ?? '').toLowerCase(),
    from: place('SRC', 'SPT'),
    to: place('DST', 'DPT'),
  };
}

/** The value of `NAME=value`; null: there is none. */
function fieldIn(fields: string, name: string): string | null {
  const at = fields.indexOf(` ${name}=`);
  if (at < 0) return null;
  const from = at + name.length + 2;
  return fields.slice(from, fields.indexOf(' ', from));
}
const portOf = (text: string | null): number | null => (text !== null && /^\d{1,5}$/.test(text) ? Number(text) : null);

/** Between time and packet: the machine, the kernel’s own name and clock, and what the rule calls itself. */
function labelIn(text: string): { readonly computer: string; readonly text: string } {
  const parts = /^\s*(?:(\S+)\s+)?kernel:\s*(?:\[\s*[\d.]+\]\s?)?(.*)$/.exec(text);
  if (!parts) return { computer: '', text: text.trim() };
  return { computer: parts[1] ?? '', text: (parts[2] ?? '').trim() };
}

/** The kernel writes no verdict down; most rules say it in what they call themselves. */
function actionIn(label: string): FirewallEvent['action'] {
  if (/reject|refus/i.test(label)) return 'reject';
  if (/drop|block|den(y|ied)|discard/i.test(label)) return 'drop';
  return /accept|allow|pass/i.test(label) ? 'accept' : 'unknown';
}
