import { readAddresses, readPorts } from '../addresses.js';
import type { Family } from '../addresses.js';
import { rangesOf } from '../ranges.js';
import type { Range } from '../ranges.js';
import type { Effect, RuleStep } from '../rule-set.js';
import type { Words } from './words.js';

/** Targets on which no verdict depends: they note something, or change what no rule here looks at. */
const harmless = new Set([
  'LOG',
  'NFLOG',
  'ULOG',
  'TCPMSS',
  'TOS',
  'DSCP',
  'TTL',
  'HL',
  'CLASSIFY',
  'CHECKSUM',
  'SET',
  'TRACE',
  'AUDIT',
  'SECMARK',
  'CONNSECMARK',
  'IDLETIMER',
  'LED',
  'TEE',
  'RATEEST',
  'ECN',
  'TCPOPTSTRIP',
  'HMARK',
]);

type Options = ReadonlyMap<string, readonly string[]>;

/** What a target does. null: it is none that is known, and then a chain’s name. */
export function targetSteps(target: string, words: Words, family: Family): readonly RuleStep[] | null {
  if (harmless.has(target)) {
    optionsOf(words);
    return [];
  }
  switch (target) {
    case 'ACCEPT':
      return [{ kind: 'accept' }];
    case 'DROP':
      return [{ kind: 'drop' }];
    case 'RETURN':
      return [{ kind: 'return' }];
    case 'REJECT':
      return [{ kind: 'reject', how: optionsOf(words).get('--reject-with')?.[0] ?? '' }];
    case 'DNAT':
      return [translation('destination', optionsOf(words), '--to-destination', family)];
    case 'SNAT':
      return [translation('source', optionsOf(words), '--to-source', family)];
    case 'MASQUERADE':
      optionsOf(words);
      return [{ kind: 'translate', end: 'source', addresses: 'own', ports: null }];
    case 'REDIRECT':
      return [redirection(optionsOf(words))];
    case 'MARK':
      return [marking(optionsOf(words))];
    case 'CONNMARK':
      return optionsOf(words).has('--restore-mark') ? [{ kind: 'mark', to: null }] : [];
    case 'NOTRACK':
      return [{ kind: 'untrack' }];
    case 'CT':
      return optionsOf(words).has('--notrack') ? [{ kind: 'untrack' }] : [];
    case 'QUEUE':
    case 'NFQUEUE':
    case 'TPROXY':
    case 'SYNPROXY':
    case 'NETMAP':
    case 'CLUSTERIP':
    case 'BALANCE':
    case 'SAME':
    case 'MIRROR':
    case 'DNPT':
    case 'SNPT':
      optionsOf(words);
      return [{ kind: 'unknown', why: `what the target ${target} does can’t be told from rules` }];
    default:
      return null;
  }
}

function optionsOf(words: Words): Options {
  const options = new Map<string, string[]>();
  let name = '';
  while (!words.isAtEnd) {
    const word = words.next();
    if (word.startsWith('--')) {
      name = word;
      options.set(name, options.get(name) ?? []);
    } else options.get(name)?.push(word);
  }
  return options;
}

const notRead = (what: string): RuleStep => ({ kind: 'unknown', why: `${what} can’t be read` });

function translation(end: 'source' | 'destination', options: Options, option: string, family: Family): RuleStep {
  const targets = options.get(option) ?? [];
  const read = targets.map((text) => targetIn(text, family));
  if (read.length === 0 || read.some((each) => each === null)) return notRead('where it translates to');
  const addresses = rangesOf(read.flatMap((each) => each?.addresses ?? []));
  const ports = rangesOf(read.flatMap((each) => each?.ports ?? []));
  return {
    kind: 'translate',
    end,
    addresses: addresses.length > 0 ? addresses : null,
    ports: ports.length > 0 ? ports : null,
  };
}

/** `10.0.0.1`, `10.0.0.1-10.0.0.9:80-90`, `:80`, `[fd00::1]:80`. */
function targetIn(text: string, family: Family): { addresses: readonly Range[]; ports: readonly Range[] } | null {
  const pattern =
    family === 4
      ? /^([0-9.]+(?:-[0-9.]+)?)?(?::([0-9-]+)(?:\/\d+)?)?$/
      : /^\[?([0-9a-f:.]+(?:\]?-\[?[0-9a-f:.]+)?)\]?(?:(?<=\]):([0-9-]+))?$/i;
  const match = pattern.exec(text);
  if (!match) return null;
  const [, host, port] = match;
  const addresses = host === undefined ? null : readAddresses(host.replaceAll(/[[\]]/g, ''));
  const ports = port === undefined ? null : readPorts(port);
  if ((host !== undefined && !addresses) || (port !== undefined && !ports)) return null;
  return { addresses: addresses ? [addresses] : [], ports: ports ? [ports] : [] };
}

function redirection(options: Options): RuleStep {
  const text = options.get('--to-ports')?.[0];
  const ports = text === undefined ? null : readPorts(text);
  if (text !== undefined && !ports) return notRead('the port that it redirects to');
  return { kind: 'translate', end: 'destination', addresses: 'own', ports: ports && [ports] } satisfies Effect;
}

function marking(options: Options): RuleStep {
  const [name = '', [text = ''] = []] = [...options][0] ?? [];
  const [value = Number.NaN, mask = 0xffffffff] = text.split('/').map(Number);
  if (Number.isNaN(value) || Number.isNaN(mask)) return { kind: 'mark', to: null };
  switch (name) {
    case '--set-mark':
      return { kind: 'mark', to: { keep: ~mask & ~value, flip: value } };
    case '--set-xmark':
      return { kind: 'mark', to: { keep: ~mask, flip: value } };
    case '--and-mark':
      return { kind: 'mark', to: { keep: value, flip: 0 } };
    case '--or-mark':
      return { kind: 'mark', to: { keep: ~value, flip: value } };
    case '--xor-mark':
      return { kind: 'mark', to: { keep: 0xffffffff, flip: value } };
    default:
      return { kind: 'mark', to: null };
  }
}
