/**
 * Cleaning and judging of endpoint URLs as people type and paste them (Part 6 §7.1, Part 4 §7.14).
 */

export type EndpointUrlFlaw =
  | { readonly kind: 'blank'; readonly says: string }
  | { readonly kind: 'invisible'; readonly says: string }
  | { readonly kind: 'scheme'; readonly says: string }
  | { readonly kind: 'placeholder'; readonly says: string }
  | { readonly kind: 'host'; readonly says: string }
  | { readonly kind: 'port'; readonly says: string }
  | { readonly kind: 'program'; readonly says: string };

export interface EndpointUrlParts {
  /** Lower case, without brackets. */
  readonly host: string;
  readonly port: number;
  /** Begins with `/`, or is empty. */
  readonly path: string;
}

export interface JudgedEndpointUrl {
  readonly given: string;
  /** The URL as it should be, or null where no URL can be made of what was given. */
  readonly cleaned: string | null;
  readonly parts: EndpointUrlParts | null;
  /** Empty: the URL can be used as given. */
  readonly flaws: readonly EndpointUrlFlaw[];
}

/** The port that OPC UA over TCP has by registration (Part 6 §7.2). */
export const registeredPort = 4840;

/** Letters that take no room on the screen and come along when text is pasted. */
const invisible =
  /[\u0000-\u0008\u000e-\u001f\u007f\u00ad\u034f\u061c\u180e\u200b-\u200f\u202a-\u202e\u2060-\u2064\u2066-\u206f\ufe00-\ufe0f\ufeff]/gu;
const blank = /[\s\u00a0\u2000-\u200a\u202f\u205f\u3000]+/gu;
const placeholderHosts =
  /^(<.*>|\{.*\}|\[(?!.*:).*\]|your[-_.]?(host|server|machine|ip)([-_.]?name)?|(host|server|machine)[-_]?name|ip[-_]?address|x{2,}(\.x{2,})*|0\.0\.0\.0|::|example\.(com|org|net))$/i;

/**
 * Judges an endpoint URL and cleans it where that can be done without guessing.
 * @param text as typed or pasted
 * @param usualPort the port to put in where none is given: one on which the server is known to listen
 */
export const judgeEndpointUrl = (text: string, usualPort: number = registeredPort): JudgedEndpointUrl =>
  judgeUrl(text, usualPort, uaScheme);

/** How URLs of a kind of link begin, and the port that they mean where none is given. */
export interface UrlScheme {
  readonly name: string;
  readonly port: number;
}
export const uaScheme: UrlScheme = { name: 'opc.tcp', port: registeredPort };

/** The same for a URL of any kind of link. */
export function judgeUrl(text: string, usualPort: number, scheme: UrlScheme): JudgedEndpointUrl {
  const flaws: EndpointUrlFlaw[] = [];
  const seen = text.replace(invisible, '');
  if (seen !== text) flaws.push({ kind: 'invisible', says: `It holds ${invisibleNames(text)}, which can’t be seen.` });
  const tight = seen.replace(blank, '');
  if (tight !== seen) flaws.push({ kind: 'blank', says: 'It holds a blank.' });
  if (tight === '') return unusable(text, [...flaws, { kind: 'host', says: 'It is empty.' }]);

  const { rest, flaw } = withoutScheme(tight, scheme.name);
  if (flaw) flaws.push(flaw);
  const slash = rest.indexOf('/');
  const authority = slash < 0 ? rest : rest.slice(0, slash);
  const path = slash < 0 ? '' : rest.slice(slash);
  if (authority.includes('@'))
    return unusable(text, [...flaws, { kind: 'host', says: 'A user name has no place in an endpoint URL.' }]);

  const split = hostAndPort(authority);
  if (placeholderHosts.test(split.host))
    return unusable(text, [...flaws, { kind: 'placeholder', says: `“${split.host}” is a placeholder, not a host.` }]);
  if (!isHost(split.host))
    return unusable(text, [...flaws, { kind: 'host', says: `“${split.host}” can’t be a host name or an address.` }]);

  const port = portOf(split.port, usualPort);
  if (port === null)
    return unusable(text, [...flaws, { kind: 'port', says: `“${split.port ?? ''}” is no port (1 to 65535).` }]);
  if (split.port === null && usualPort !== scheme.port)
    flaws.push({
      kind: 'port',
      says: `It names no port, and the server listens on ${usualPort}, not on ${scheme.port}.`,
    });

  const parts: EndpointUrlParts = { host: split.host.toLowerCase(), port, path: path === '/' ? '' : path };
  return { given: text, cleaned: urlOf(parts, scheme), parts, flaws };
}

/** Writes the parts as a URL: `opc.tcp://host:port/path`; an IPv6 literal gets its brackets. */
export const endpointUrlOf = (parts: EndpointUrlParts): string => urlOf(parts, uaScheme);

/** The same of any kind of link. */
export const urlOf = ({ host, port, path }: EndpointUrlParts, scheme: UrlScheme): string =>
  `${scheme.name}://${host.includes(':') ? `[${host}]` : host}:${port}${path}`;

/** The parts of a URL that is clean, or null. */
export const endpointUrlParts = (url: string): EndpointUrlParts | null => judgeEndpointUrl(url).parts;

function unusable(given: string, flaws: readonly EndpointUrlFlaw[]): JudgedEndpointUrl {
  return { given, cleaned: null, parts: null, flaws };
}

function withoutScheme(text: string, name: string): { rest: string; flaw: EndpointUrlFlaw | null } {
  const start = `${name}://`;
  if (text.toLowerCase().startsWith(start)) {
    const rest = text.slice(start.length);
    return text.startsWith(start)
      ? { rest, flaw: null }
      : { rest, flaw: scheme(`It should begin with ${start} in small letters.`) };
  }
  const other = /^([a-z][a-z0-9.+-]*):[\\/]+/i.exec(text);
  if (other)
    return { rest: text.slice(other[0].length), flaw: scheme(`It begins with ${other[0]} and not with ${start}.`) };
  return { rest: text.replace(/^[\\/]+/, ''), flaw: scheme(`It does not begin with ${start}.`) };
}

const scheme = (says: string): EndpointUrlFlaw => ({ kind: 'scheme', says });

function hostAndPort(authority: string): { host: string; port: string | null } {
  const bracketed = /^\[([0-9a-f:.]+)\](?::(.*))?$/i.exec(authority);
  if (bracketed) return { host: bracketed[1] ?? '', port: bracketed[2] ?? null };
  const colon = authority.lastIndexOf(':');
  if (colon < 0 || isIpv6(authority)) return { host: authority, port: null };
  return { host: authority.slice(0, colon), port: authority.slice(colon + 1) };
}

function portOf(text: string | null, usual: number): number | null {
  if (text === null) return usual;
  if (!/^\d{1,5}$/.test(text)) return null;
  const port = Number(text);
  return port >= 1 && port <= 65535 ? port : null;
}

const isIpv6 = (text: string): boolean => (text.match(/:/g)?.length ?? 0) >= 2 && /^[0-9a-f:.]+$/i.test(text);

/** True for a dotted IPv4 literal whose four numbers are in range. */
export const isIpv4 = (text: string): boolean =>
  /^\d{1,3}(\.\d{1,3}){3}$/.test(text) && text.split('.').every((part) => Number(part) <= 255);

/** True for an address literal, where nothing has to be resolved. */
export const isAddressLiteral = (host: string): boolean => isIpv4(host) || isIpv6(host);

function isHost(host: string): boolean {
  if (isIpv6(host) || isIpv4(host)) return true;
  if (/^[\d.]+$/.test(host)) return false;
  return host.length <= 253 && host.split('.').every((label) => /^[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?$/i.test(label));
}

function invisibleNames(text: string): string {
  const names = new Set(Array.from(text.match(invisible) ?? [], (letter) => `U+${codePoint(letter)}`));
  return [...names].join(', ');
}

const codePoint = (letter: string): string => (letter.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0');
