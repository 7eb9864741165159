import { isList, isObject, only, textOf } from './syntax.js';
import type { Json, JsonObject } from './syntax.js';

/** The statements of a rule as nftables writes them in its own text. */
export const sayStatements = (statements: readonly Json[]): string =>
  statements
    .map(sayStatement)
    .filter((part) => part !== '')
    .join(' ');

function sayStatement(statement: Json): string {
  const [kind, body] = typeof statement === 'string' ? [statement, null] : (only(statement) ?? ['', null]);
  switch (kind) {
    case 'match':
      return isObject(body) ? sayMatch(body) : kind;
    case 'vmap':
      return isObject(body) ? `${sayValue(body['key'])} vmap ${sayValue(body['data'])}` : kind;
    case 'jump':
    case 'goto':
      return `${kind} ${isObject(body) ? (textOf(body['target']) ?? '') : ''}`;
    case 'counter':
      return 'counter';
    case 'log':
      return isObject(body) && typeof body['prefix'] === 'string' ? `log prefix "${body['prefix']}"` : 'log';
    case 'reject':
      return isObject(body)
        ? `reject with ${[body['type'], body['expr']].filter((part) => typeof part === 'string').join(' ')}`
        : 'reject';
    case 'mangle':
      return isObject(body) ? `${sayValue(body['key'])} set ${sayValue(body['value'])}` : kind;
    case 'limit':
      return isObject(body) && typeof body['rate'] === 'number'
        ? `limit rate ${body['inv'] === true ? 'over ' : ''}${body['rate']}/${textOf(body['per']) ?? 'second'}`
        : kind;
    case 'dnat':
    case 'snat':
    case 'masquerade':
    case 'redirect':
      return sayTranslation(kind, body);
    case 'set':
      return isObject(body)
        ? `${textOf(body['op']) ?? 'add'} ${textOf(body['set']) ?? ''} { ${sayValue(body['elem'])} }`
        : kind;
    default:
      return body === null ? kind : `${kind} ${sayValue(body)}`;
  }
}

function sayMatch(body: JsonObject): string {
  const operator = textOf(body['op']) ?? '==';
  const sign = operator === '==' || operator === 'in' ? '' : `${operator} `;
  const [left, right] = [body['left'] ?? null, body['right'] ?? null];
  const masked = only(left);
  if (masked?.[0] === '&' && isList(masked[1]))
    return `${sayMasked(masked[1])} ${operator === 'in' ? '==' : operator} ${sayFlags(right, ' | ')}`;
  return `${sayValue(left)} ${sign}${sayFlags(right, ',')}`;
}

const sayMasked = (parts: readonly Json[]): string =>
  `${sayValue(parts[0])} & ${isList(parts[1]) ? `(${sayFlags(parts[1], ' | ')})` : sayValue(parts[1])}`;
const sayFlags = (value: Json, between: string): string =>
  isList(value) ? value.map((each) => sayValue(each)).join(between) : sayValue(value);

function sayTranslation(kind: string, body: Json): string {
  if (!isObject(body)) return kind;
  const family = textOf(body['family']);
  const addr = body['addr'] === undefined ? '' : sayValue(body['addr']);
  const port = body['port'] === undefined ? '' : `:${sayValue(body['port'])}`;
  if (addr === '' && port === '') return kind;
  const host = addr.includes(':') && port !== '' && !addr.includes(' ') ? `[${addr}]` : addr;
  return `${kind}${family === null ? '' : ` ${family}`} to ${host}${port}`;
}

function sayValue(value: Json | undefined): string {
  if (value === undefined || value === null) return '';
  if (typeof value !== 'object')
    return typeof value === 'string' && /[^\w.:/@*+-]/.test(value) ? `"${value}"` : String(value);
  if (isList(value)) {
    /* An element of a map. */
    return value.length === 2 && !isList(value[0])
      ? `${sayValue(value[0])} : ${sayVerdict(value[1])}`
      : value.map(sayValue).join(', ');
  }
  const [kind, body] = only(value) ?? ['', null];
  switch (kind) {
    case 'payload':
      return isObject(body)
        ? [body['protocol'] ?? body['base'], body['field'] ?? `${sayValue(body['offset'])},${sayValue(body['len'])}`]
            .map(sayValue)
            .join(' ')
        : kind;
    case 'meta': {
      const key = isObject(body) ? (textOf(body['key']) ?? '') : '';
      return ['iif', 'iifname', 'oif', 'oifname'].includes(key) ? key : `meta ${key}`;
    }
    case 'ct':
      return isObject(body)
        ? ['ct', textOf(body['dir']), textOf(body['key'])].filter((part) => part !== null).join(' ')
        : kind;
    case 'fib':
      return isObject(body)
        ? `fib ${(isList(body['flags']) ? body['flags'] : [body['flags']]).map(sayValue).join(' . ')} ${sayValue(body['result'])}`
        : kind;
    case 'prefix':
      return isObject(body) ? `${sayValue(body['addr'])}/${sayValue(body['len'])}` : kind;
    case 'range':
      return isList(body) ? body.map(sayValue).join('-') : kind;
    case 'set':
      return `{ ${(isList(body) ? body : [body]).map((each) => (isList(each) ? `${sayValue(each[0])} : ${sayVerdict(each[1])}` : sayValue(each))).join(', ')} }`;
    case 'concat':
      return isList(body) ? body.map(sayValue).join(' . ') : kind;
    case 'elem':
      return isObject(body) ? sayValue(body['val']) : kind;
    case 'map':
      return isObject(body) ? `${sayValue(body['key'])} map ${sayValue(body['data'])}` : kind;
    case '&':
    case '|':
    case '^':
    case '<<':
    case '>>':
      return isList(body) ? body.map(sayValue).join(` ${kind} `) : kind;
    default:
      return `${kind} ${isObject(body) ? Object.values(body).map(sayValue).join(' ') : sayValue(body)}`.trim();
  }
}

const sayVerdict = (value: Json | undefined): string =>
  isObject(value) &&
  Object.keys(value).some((key) => ['accept', 'drop', 'jump', 'goto', 'return', 'continue'].includes(key))
    ? sayStatement(value)
    : sayValue(value);
