import { isIP } from 'node:net';
import { sayCode } from '@loyal-hinge/core';
import type { FoundServer } from '@loyal-hinge/core';
import { walkClassic } from '@loyal-hinge/classic';
import type { ClassicWalk, ListedServer, Observation, Problem } from '@loyal-hinge/classic';
import { accountIn } from '../probe/classic/account-in.js';

/** An account whose password is kept for a machine. */
export interface AccountToSignIn {
  readonly userName: string;
  readonly password: string;
  /** Told how signing in went, where it came to that. */
  note(isLetIn: boolean): Promise<void>;
}

/** Whether a host and a port, as a link has them, are the place that is asked. */
export type GoesThere = (host: string, port: number) => Promise<boolean>;

export interface MachineToAsk {
  readonly host: string;
  readonly address: string;
  /** Of its mapper. */
  readonly port: number;
  /** How it was come upon, in words. */
  readonly by: string;
  /** null: it is asked as nobody. */
  readonly account: AccountToSignIn | null;
}

/** How it is asked. */
export type Asking = Pick<ClassicWalk, 'timeoutMs' | 'signal' | 'resolve' | 'mayDial'>;

export interface ListOfMachine {
  readonly servers: readonly FoundServer[];
  /** Why its list was not had, in words; null: it was. */
  readonly fault: string | null;
}

/**
 * Asks a machine for its list of classic servers (OPC Common 6), as an account where one is known, else as nobody.
 * @returns null: no mapper of COM answers there
 */
export async function listOfMachine(machine: MachineToAsk, asking: Asking): Promise<ListOfMachine | null> {
  const { host, address, port, account } = machine;
  const seen: Observation[] = [];
  await walkClassic(
    {
      ...asking,
      host: address,
      mapperPort: port,
      identity: {
        account: account && accountIn(account.userName, account.password),
        level: account ? 'integrity' : 'connect',
        workstation: '',
      },
      server: 'list',
      needs: { items: [], browse: false, read: false, watch: null },
      resolve: async (name) => (isIP(name) === 0 ? asking.resolve(name) : [name]),
    },
    (observation) => seen.push(observation),
  );
  const at = <Step extends Observation['step']>(step: Step) =>
    seen.find((one): one is Extract<Observation, { readonly step: Step }> => one.step === step);
  const mapper = at('mapper');
  if (!mapper || mapper.problem) return null;
  const signIn = at('sign-in');
  if (account && signIn && signIn.problem?.by !== 'way') await account.note(signIn.problem === null);
  const list = at('class');
  const problem = signIn?.problem ?? list?.problem ?? null;
  const asWhom = account ? `to “${account.userName}”` : 'to nobody who does not sign in';
  return {
    servers: (list?.others ?? []).map((server) => foundIn(machine, server)),
    fault:
      problem === null
        ? null
        : `${host}, port ${port}, speaks COM, and does not give its list of servers ${asWhom}: ${sayProblem(problem)}.${account ? '' : ' Once the plant has a classic link to this very place with a password, it is asked as that link’s account.'}`,
  };
}

const sayProblem = (problem: Problem): string =>
  problem.by === 'way' ? problem.says.replace(/\.$/, '') : sayCode(problem.code);

/** What a list says is anything at all, and what the plant can’t keep is left out later. */
const longest = 200;
const foundIn = (
  { host, address, port, by }: MachineToAsk,
  { progId, clsid, name, categories }: ListedServer,
): FoundServer => ({
  endpointUrl: `classic://${host.includes(':') ? `[${host}]` : host}:${port}/${(progId || `{${clsid}}`).slice(0, longest)}`,
  host,
  address,
  port,
  applicationUri: '',
  applicationName: (name || progId).slice(0, longest),
  thumbprint: null,
  by,
  classic: { progId: progId.slice(0, longest), clsid, categories },
});
