import type { Barrier } from './night-network.js';
import type { RecordedEnd } from './recorded-connection.js';

/** What a machine’s own firewall writes down, in W3C’s extended form; its times are those of UTC. */
export class OwnFirewall implements Barrier {
  private readonly lines: string[] = [];

  /** @param open ports at which it lets others in */
  constructor(
    private readonly address: string,
    private readonly open: readonly number[],
  ) {}

  stops(from: string, { address, port }: RecordedEnd): boolean {
    return address === this.address && from !== address && !this.open.includes(port);
  }

  note(from: RecordedEnd, to: RecordedEnd): void {
    const time = new Date().toISOString().slice(0, 19).replace('T', ' ');
    this.lines.push(
      `${time} DROP TCP ${from.address} ${to.address} ${from.port} ${to.port} 60 S 1 0 64240 - - - RECEIVE`,
    );
  }

  get text(): string {
    const fields =
      'date time action protocol src-ip dst-ip src-port dst-port size tcpflags tcpsyn tcpack tcpwin icmptype icmpcode info path';
    return [
      '#Version: 1.5',
      '#Software: made up',
      '#Time Format: Local',
      `#Fields: ${fields}`,
      '',
      ...this.lines,
      '',
    ].join('\r\n');
  }
}

/** The firewall between the process’s zones, as its kernel writes it down. It lets nothing but OPC UA through to where it stands in front of. */
export class ZoneFirewall implements Barrier {
  private readonly lines: string[] = [];

  constructor(
    private readonly from: { readonly prefix: string; readonly interface: string },
    private readonly behind: readonly { readonly prefix: string; readonly interface: string }[],
    private readonly open: readonly number[],
  ) {}

  stops(from: string, { address, port }: RecordedEnd): boolean {
    return from.startsWith(this.from.prefix) && this.zoneOf(address) !== undefined && !this.open.includes(port);
  }

  note(from: RecordedEnd, to: RecordedEnd): void {
    const now = new Date();
    const seconds = (now.getTime() % 86_400_000) / 1000;
    const zone = this.zoneOf(to.address)?.interface ?? '';
    this.lines.push(
      `${now.toISOString().slice(0, 23)}+00:00 process-firewall kernel: [${seconds.toFixed(6)}] process drop: IN=${this.from.interface} OUT=${zone} SRC=${from.address} DST=${to.address} LEN=60 TOS=0x00 PREC=0x00 TTL=63 ID=${this.lines.length + 1} DF PROTO=TCP SPT=${from.port} DPT=${to.port} WINDOW=64240 RES=0x00 SYN URGP=0`,
    );
  }

  get text(): string {
    return `${this.lines.join('\n')}\n`;
  }

  private zoneOf(address: string) {
    return this.behind.find(({ prefix }) => address.startsWith(prefix));
  }
}
