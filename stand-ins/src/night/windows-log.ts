const escapes: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => escapes[sign] ?? sign);

export const auditing = { provider: 'Microsoft-Windows-Security-Auditing', channel: 'Security' } as const;
export const services = { provider: 'Service Control Manager', channel: 'System' } as const;

/** What a machine writes down of itself, as it is exported: events in XML. */
export class WindowsLog {
  private readonly events: string[] = [];

  constructor(
    private readonly computer: string,
    private readonly source: { readonly provider: string; readonly channel: string },
  ) {}

  write(eventId: number, data: Readonly<Record<string, string>>): void {
    const { provider, channel } = this.source;
    const at = new Date().toISOString().replace('Z', '0000Z');
    const fields = Object.entries(data).map(
      ([name, value]) => `<Data Name="${escaped(name)}">${escaped(value)}</Data>`,
    );
    this.events.push(
      `<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="${provider}"/><EventID>${eventId}</EventID><Level>0</Level><TimeCreated SystemTime="${at}"/><EventRecordID>${this.events.length + 1}</EventRecordID><Channel>${channel}</Channel><Computer>${escaped(this.computer)}</Computer></System><EventData>${fields.join('')}</EventData></Event>`,
    );
  }

  get text(): string {
    return `<?xml version="1.0" encoding="utf-8" standalone="yes"?>\n<Events>\n${this.events.join('\n')}\n</Events>\n`;
  }
}
