import { CallbackHome } from '../dcom/callback-home.js';
import { passwordHash } from '../ntlm/keys.js';
import { ntlmServer } from '../ntlm/server.js';
import type { Agreeing } from '../rpc/security.js';
import { protects, services } from '../rpc/security.js';
import type { ClassicWalk, Walking } from './walking.js';

/** Whoever calls back otherwise than meant. */
export interface OddCallers {
  /** From an address at which the server was never seen: it is refused. */
  stranger(address: string): void;
  /** As an account whose password is not known here: the call can’t be taken. */
  unproven(address: string, account: string): void;
}

/** Where a walk is to be called back. */
export const placeOf = ({ walk, localAddress }: Walking) => {
  const address = localAddress ?? '127.0.0.1';
  return { address, hosts: walk.back?.hosts ?? [address], ...(walk.back ? { ports: walk.back.ports } : {}) };
};

/** Where the server that a walk has come to can call back. @throws where the ports can’t be had */
export const homeOf = (walking: Walking, odd: OddCallers): Promise<CallbackHome> =>
  CallbackHome.start({
    ...placeOf(walking),
    agreeing: { [services.ntlm]: whoever(walking.walk, odd) },
    admits: ({ address }) => {
      const isMeant = walking.ofServer.has(address);
      if (!isMeant) odd.stranger(address);
      return isMeant;
    },
  });

/** Accounts are known here by the same name and password, as on two machines without a domain; others by what they say. */
const whoever = ({ identity: { account, workstation } }: ClassicWalk, odd: OddCallers): Agreeing =>
  ntlmServer({
    computer: workstation,
    domain: workstation,
    dnsComputer: workstation,
    now: Date.now,
    hashOf: (user) =>
      account && account.user.toLowerCase() === user.toLowerCase() ? passwordHash(account.password) : null,
    unproven: ({ user }, { address, level }) => {
      if (protects(level)) odd.unproven(address, user);
      return true;
    },
  });
