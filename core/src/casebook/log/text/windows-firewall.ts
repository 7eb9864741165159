import type { FirewallEvent, LogPlace } from '../log-event.js';
import { timeAt } from './times.js';
import type { LogClock } from './times.js';

const actions: Readonly<Record<string, FirewallEvent['action']>> = { DROP: 'drop', ALLOW: 'accept' };

/**
 * The log of the Windows firewall: W3C’s extended form, whose `#Fields` say what stands in each column; its times are local unless it
 * says otherwise.
 */
export class WindowsFirewallLog {
  private columns: readonly string[] = [];

  /** @returns null: a line about the file itself, or none that is understood */
  event(line: string, position: number, clock: LogClock): FirewallEvent | null {
    if (line.startsWith('#')) {
      const fields = /^#Fields:\s*(.+)$/i.exec(line)?.[1];
      if (fields !== undefined) this.columns = fields.trim().split(/\s+/);
      return null;
    }
    const values = line.trim().split(/\s+/);
    const value = (name: string): string => {
      const text = values[this.columns.indexOf(name)] ?? '-';
      return text === '-' ? '' : text;
    };
    const place = (address: string, port: string): LogPlace => ({
      address: value(address),
      port: /^\d{1,5}$/.test(value(port)) ? Number(value(port)) : null,
    });
    const found = timeAt(`${value('date')} ${value('time')}`, clock);
    if (!found || value('action') === '') return null;
    return {
      kind: 'firewall',
      position,
      time: found.time,
      computer: '',
      action: actions[value('action')] ?? 'unknown',
      label: actions[value('action')] ? '' : value('action'),
      in: '',
      out: value('path').toLowerCase(),
      protocol: value('protocol').toLowerCase(),
      from: place('src-ip', 'src-port'),
      to: place('dst-ip', 'dst-port'),
    };
  }

  /** Whether columns were named. */
  get hasColumns(): boolean {
    return this.columns.length > 0;
  }
}
