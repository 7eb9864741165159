/** How times without a zone or a year are to be understood. */
export interface LogClock {
  /** Minutes east of UTC, or the name of a zone with its summer time (`Europe/Berlin`). */
  readonly zone: number | string;
  /** Milliseconds since 1970: no event can be later; times without a year lie in the year before that. */
  readonly latest: number;
}

const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const dayMs = 86_400_000;

/** `2026-11-20T02:10:00.123+01:00`, with a blank for the T, a comma for the point, and without a zone. */
const iso = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d):(\d\d)(?:[.,](\d{1,9}))?(?:\s?(Z|[+-]\d\d:?\d\d))?/;
/** `Nov 20 02:10:00`, as syslog writes it (RFC 3164 §4.1.2). */
const syslog = /^([A-Z][a-z]{2})\s{1,2}(\d{1,2}) (\d\d):(\d\d):(\d\d)(?:\.(\d{1,9}))?/;

/** A time at the beginning of a text. */
export interface FoundTime {
  /** ISO 8601 in UTC, as exactly as it was written. */
  readonly time: string;
  /** Letters that it takes. */
  readonly length: number;
}

/** @returns null: the text begins with no time */
export function timeAt(text: string, clock: LogClock): FoundTime | null {
  const first = text.charCodeAt(0);
  if (first >= 48 && first <= 57) {
    const parts = iso.exec(text);
    if (!parts) return null;
    const [whole, year, month, day, hour, minute, second, fraction, zone] = parts;
    const local = Date.UTC(Number(year), Number(month) - 1, Number(day), Number(hour), Number(minute), Number(second));
    /* A month or a day that there isn’t would become another one. */
    if (new Date(local).getUTCDate() !== Number(day) || Number(month) > 12) return null;
    const offset = zone === undefined ? offsetAt(local, clock.zone) : offsetOf(zone);
    return found(local - offset * 60_000, fraction, whole.length);
  }
  const parts = syslog.exec(text);
  const month = parts ? months.indexOf((parts[1] ?? '').toLowerCase()) : -1;
  if (!parts || month < 0) return null;
  const [whole, , day, hour, minute, second, fraction] = parts;
  const inYear = (year: number): number => {
    const local = Date.UTC(year, month, Number(day), Number(hour), Number(minute), Number(second));
    return local - offsetAt(local, clock.zone) * 60_000;
  };
  const year = new Date(clock.latest).getUTCFullYear();
  const isLater = inYear(year) > clock.latest + dayMs;
  return found(inYear(isLater ? year - 1 : year), fraction, whole.length);
}

/** The minute that was last written out: many lines are of the same one. */
let writtenOut = { minute: Number.NaN, text: '' };

function found(at: number, fraction: string | undefined, length: number): FoundTime | null {
  if (Number.isNaN(at)) return null;
  const minute = Math.floor(at / 60_000);
  if (writtenOut.minute !== minute) writtenOut = { minute, text: new Date(at).toISOString().slice(0, 17) };
  const second = at / 1000 - minute * 60;
  const text = `${writtenOut.text}${second < 10 ? '0' : ''}${second}`;
  return { time: fraction === undefined ? `${text}Z` : `${text}.${fraction}Z`, length };
}

function offsetOf(zone: string): number {
  if (zone === 'Z') return 0;
  const sign = zone.startsWith('-') ? -1 : 1;
  return sign * (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(-2)));
}

const formats = new Map<string, Intl.DateTimeFormat>();
/** The hour for which an offset was last looked up: the next line is mostly of the same one. */
let lookedUp = { zone: '', hour: Number.NaN, offset: 0 };

/** Minutes east of UTC at a local time: milliseconds since 1970 as if that were in UTC. */
export function offsetAt(local: number, zone: number | string): number {
  if (typeof zone === 'number') return zone;
  const hour = Math.floor(local / 3_600_000);
  if (lookedUp.zone === zone && lookedUp.hour === hour) return lookedUp.offset;
  /* The offset at the time that the local one would be in UTC, and once more at the time that this gives. */
  const guess = offsetInUtc(local, zone);
  const offset = offsetInUtc(local - guess * 60_000, zone);
  lookedUp = { zone, hour, offset };
  return offset;
}

/** Minutes east of UTC at a moment. */
export const offsetNow = (at: number, zone: number | string): number =>
  typeof zone === 'number' ? zone : offsetInUtc(at, zone);

function offsetInUtc(at: number, zone: string): number {
  const format = formats.get(zone) ?? new Intl.DateTimeFormat('en-US', { timeZone: zone, timeZoneName: 'longOffset' });
  formats.set(zone, format);
  const name = format.formatToParts(at).find(({ type }) => type === 'timeZoneName')?.value ?? 'GMT';
  return name === 'GMT' ? 0 : offsetOf(name.replace('GMT', ''));
}

/** @returns what a person means by a zone (`+01:00`, `UTC`, `Europe/Berlin`); null: there is none of this name */
export function zoneOf(text: string): number | string | null {
  if (/^[+-]\d\d:?\d\d$/.test(text)) return offsetOf(text);
  try {
    new Intl.DateTimeFormat('en-US', { timeZone: text });
    return text === 'UTC' ? 0 : text;
  } catch {
    return null;
  }
}
