import { lookup, Resolver } from 'node:dns/promises';
import { isAddressLiteral } from '@loyal-hinge/core';

export interface Resolution {
  readonly means: 'literal' | 'name server' | 'operating system';
  readonly asked: string | null;
  readonly addresses: readonly string[];
  readonly failure: string | null;
}

/** Resolves a host as the client's machine would: by the plant's name server where one is set, or else by the operating system. */
export async function resolveHost(
  host: string,
  nameServer: string | null,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<Resolution> {
  if (isAddressLiteral(host)) return { means: 'literal', asked: null, addresses: [host], failure: null };
  const means = nameServer ? 'name server' : 'operating system';
  try {
    const addresses = nameServer ? await askNameServer(host, nameServer, timeoutMs, signal) : await askSystem(host);
    return { means, asked: nameServer, addresses, failure: addresses.length > 0 ? null : 'no address' };
  } catch (error) {
    return { means, asked: nameServer, addresses: [], failure: failureWords(error) };
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
    return await resolver.resolve4(host);
  } finally {
    signal.removeEventListener('abort', cancel);
  }
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

function failureWords(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return words[code] ?? (code || 'the look-up failed');
}
