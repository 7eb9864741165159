import { lookup, Resolver } from 'node:dns/promises';
import { isAddressLiteral } from '@loyal-hinge/core';

export interface Resolution {
  readonly means: 'literal' | 'name server' | 'operating system';
  readonly asked: string | null;
  readonly addresses: readonly string[];
  readonly failure: string | null;
  /** Whether there was an answer at all: only an answer can say that a name has no address. */
  readonly lookUp: 'answered' | 'not answered';
}

/** Resolves a host as the client's machine would: by the plant's name server where one is set, or else by the operating system. */
export async function resolveHost(
  host: string,
  nameServer: string | null,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<Resolution> {
  if (isAddressLiteral(host))
    return { means: 'literal', asked: null, addresses: [host], failure: null, lookUp: 'answered' };
  const means = nameServer ? 'name server' : 'operating system';
  try {
    const addresses = nameServer ? await askNameServer(host, nameServer, timeoutMs, signal) : await askSystem(host);
    const failure = addresses.length > 0 ? null : 'the name has no address';
    return { means, asked: nameServer, addresses, failure, lookUp: 'answered' };
  } catch (error) {
    return { means, asked: nameServer, addresses: [], failure: failureWords(error), lookUp: lookUpOf(error) };
  }
}

async function askNameServer(
  host: string,
  nameServer: string,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<readonly string[]> {
  const resolver = new Resolver({ timeout: timeoutMs, tries: 1 });
  resolver.setServers([nameServer]);
  const cancel = (): void => resolver.cancel();
  signal.addEventListener('abort', cancel, { once: true });
  try {
    return await bothKinds(resolver, host);
  } finally {
    signal.removeEventListener('abort', cancel);
  }
}

/** IPv4 addresses first, then IPv6; where one kind has an answer, the failure of the other does not matter. */
async function bothKinds(resolver: Resolver, host: string): Promise<readonly string[]> {
  const [ipv4, ipv6] = await Promise.allSettled([resolver.resolve4(host), resolver.resolve6(host)]);
  const found = [ipv4, ipv6].flatMap((asked) => (asked.status === 'fulfilled' ? asked.value : []));
  if (found.length > 0) return found;
  if (ipv4.status === 'rejected') throw ipv4.reason;
  if (ipv6.status === 'rejected') throw ipv6.reason;
  return [];
}

const askSystem = async (host: string): Promise<readonly string[]> =>
  (await lookup(host, { all: true, verbatim: true })).map(({ address }) => address);

const words: Readonly<Record<string, string>> = {
  ENOTFOUND: 'the name is not known',
  ENODATA: 'the name has no address',
  ETIMEOUT: 'no answer in time',
  ESERVFAIL: 'the name server failed',
  ECONNREFUSED: 'the name server does not answer',
  ECANCELLED: 'cancelled',
  EAI_AGAIN: 'the name server does not answer',
};

/** Codes that are answers: the name is not there, or has no address of this kind. */
const answers = ['ENOTFOUND', 'ENODATA'];
const lookUpOf = (error: unknown): Resolution['lookUp'] =>
  answers.includes(codeOf(error)) ? 'answered' : 'not answered';
const codeOf = (error: unknown): string =>
  typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '';

function failureWords(error: unknown): string {
  const code = codeOf(error);
  return words[code] ?? (code || 'the look-up failed');
}
