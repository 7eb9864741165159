const mostLetters = 16_384;
/** `<13>` at the beginning (RFC 5424 §6.2.1, RFC 3164 §4.1.1). */
const priority = /^<\d{1,3}>/;
/** Version, time, machine, program, process, kind of message, structured data, text (RFC 5424 §6). */
const structured = /^1 (\S+) (\S+) (\S+) (\S+) (\S+) (?:-|(?:\[(?:[^\]\\]|\\.)*\])+)(?: \ufeff?(.*))?$/s;
const older = /^[A-Z][a-z]{2} [ \d]\d \d{2}:\d{2}:\d{2} \S/;

/**
 * A message of syslog as a line of a log: what it says of time and machine stands first; what says neither gets the time at which
 * it came, and from whom.
 * @param sender the address that it came from
 * @param receivedAt milliseconds since 1970
 * @returns null: there is nothing in it
 */
export function syslogLine(message: string, sender: string, receivedAt: number): string | null {
  const whole = message
    .slice(0, mostLetters)
    .replace(/[\r\n\u0000]+/g, ' ')
    .trim();
  const text = whole.replace(priority, '');
  if (text === '') return null;
  const parts = structured.exec(text);
  if (parts) {
    const [, time = '-', host = '-', program = '-', processId = '-', , words = ''] = parts;
    const by = program === '-' ? '' : `${program}${processId === '-' ? '' : `[${processId}]`}: `;
    const when = time === '-' ? new Date(receivedAt).toISOString() : time;
    return `${when} ${host === '-' ? sender : host} ${by}${words}`.trim();
  }
  return older.test(text) ? text : `${new Date(receivedAt).toISOString()} ${sender} ${text}`;
}
