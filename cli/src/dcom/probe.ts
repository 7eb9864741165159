import { lookup } from 'node:dns/promises';
import { hostname } from 'node:os';
import { oneLine } from '@loyal-hinge/core';
import { classicSteps, levels, usualGuid, walkClassic } from '@loyal-hinge/classic';
import type { Account, ClassicStep, ClassicWalk, Level, Observation } from '@loyal-hinge/classic';
import { CannotRun } from '../cannot-run.js';
import type { Command } from '../command.js';
import { readOptions, wholeNumber } from '../options.js';
import { readObservation } from './observed.js';
import type { ReadStep } from './observed.js';

const usage = `hinge dcom probe --host NAME [--port 135] [--user NAME --password-env VAR] [--level LEVEL]
    [--class CLSID|PROGID] [--item ID…] [--update-rate MS] [--from ADDRESS] [--timeout SECONDS] [--json]
  Tries a classic server step by step over the real protocol, and says how far it came and why no further. The password is
  taken from an environment variable, and tried once. LEVEL is none, connect, call, packet, integrity or privacy; without a
  user it is none, else integrity. With items they are looked for, read and watched.
  Exit code 0 when Good, 3 when not, 2 when it could not run.`;

const kinds = {
  host: 'text',
  port: 'text',
  user: 'text',
  'password-env': 'text',
  level: 'text',
  class: 'text',
  item: 'texts',
  'update-rate': 'text',
  from: 'text',
  timeout: 'text',
  json: 'flag',
} as const;

const mapperPort = 135;
const [usualRateMs, usualTimeoutSeconds] = [1000, 5];

export const probe: Command = {
  usage,
  async run(args, out) {
    const { options, rest } = readOptions(args, kinds, usage);
    const items = [...options.item, ...(options.item.length > 0 ? rest : [])];
    if (options.item.length === 0 && rest.length > 0)
      throw new CannotRun(`“${rest.join(' ')}” is one word too many.\n\n${usage}`);
    if (options.host === null) throw new CannotRun(`Say which machine: --host NAME.\n\n${usage}`);
    const account = accountOf(options.user, options['password-env']);
    const walk: ClassicWalk = {
      host: options.host,
      mapperPort: wholeNumber(options.port, 'port', { most: 65_535, usual: mapperPort }),
      localAddress: options.from ?? undefined,
      identity: { account, level: levelIn(options.level, account), workstation: hostname() },
      server: serverOf(options.class),
      needs: {
        items,
        browse: true,
        read: items.length > 0,
        watch:
          items.length > 0
            ? {
                updateRateMs: wholeNumber(options['update-rate'], 'update-rate', {
                  most: 3_600_000,
                  usual: usualRateMs,
                }),
              }
            : null,
      },
      timeoutMs: wholeNumber(options.timeout, 'timeout', { most: 600, usual: usualTimeoutSeconds }) * 1000,
      resolve: async (name) => {
        const found = await lookup(name, { all: true }).catch(() => []);
        return found.map(({ address }) => address);
      },
      mayDial: () => true,
    };
    const seen = new Map<ClassicStep, ReadStep>();
    // Nothing is written from here.
    const probed = classicSteps.filter((step) => step !== 'write');
    await walkClassic(walk, (observation: Observation) =>
      seen.set(observation.step, readObservation(observation, walk)),
    );
    const steps = probed.map((step) => ({ step, ...(seen.get(step) ?? unreached(step, walk)) }));
    const failed = steps.find(({ result }) => result === 'fails');
    const status = failed ? badStatus[failed.step] : 'Good';
    if (options.json) out.write(`${JSON.stringify({ status, steps })}\n`);
    else {
      out.write(`${status}\n`);
      for (const { step, result, detail } of steps)
        out.write(`  ${step.padEnd(12)} ${result.padEnd(11)} ${oneLine(detail)}\n`);
    }
    return failed ? 3 : 0;
  },
};

/** What a link is that fails at a step, in the words of status codes. */
const badStatus: Readonly<Record<ClassicStep, string>> = {
  name: 'BadHostUnknown',
  reach: 'BadNoCommunication',
  mapper: 'BadServiceUnsupported',
  bindings: 'BadNotConnected',
  'sign-in': 'BadIdentityTokenRejected',
  class: 'BadNotFound',
  activation: 'BadServerNotConnected',
  'object-port': 'BadConnectionRejected',
  access: 'BadUserAccessDenied',
  browse: 'BadBrowseNameInvalid',
  read: 'BadNotReadable',
  watch: 'BadNoSubscription',
  write: 'BadNotWritable',
};

/** What is said of a step that was not come to. */
function unreached(step: ClassicStep, { server, needs }: ClassicWalk): ReadStep {
  const position = classicSteps.indexOf(step);
  if (server === null && position >= classicSteps.indexOf('class'))
    return { result: 'not-needed', detail: 'No class was asked for.' };
  if ((step === 'read' || step === 'watch') && needs.items.length === 0)
    return { result: 'not-needed', detail: 'No items were asked for.' };
  return { result: 'unknown', detail: 'It did not come to that.' };
}

function accountOf(user: string | null, variable: string | null): Account | null {
  if (user === null) {
    if (variable !== null) throw new CannotRun(`A password belongs to a user: --user NAME.\n\n${usage}`);
    return null;
  }
  if (variable === null)
    throw new CannotRun(`Say which environment variable holds the password: --password-env VAR.\n\n${usage}`);
  const password = process.env[variable];
  if (password === undefined) throw new CannotRun(`There is no environment variable “${variable}”.`);
  const parts = /^([^\\]+)\\(.+)$/.exec(user);
  return { user: parts?.[2] ?? user, domain: parts?.[1] ?? '', password };
}

function levelIn(text: string | null, account: Account | null): Level {
  if (text === null) return account ? 'integrity' : 'none';
  const level = (Object.keys(levels) as Level[]).find((one) => one === text);
  if (!level) throw new CannotRun(`“${text}” is no level; there are ${Object.keys(levels).join(', ')}.`);
  if (level === 'none' && account)
    throw new CannotRun('At level none nobody is asked who they are: leave the user out.');
  return level;
}

function serverOf(text: string | null): ClassicWalk['server'] {
  if (text === null) return null;
  const clsid = usualGuid(text);
  return clsid === null ? { progId: text } : { clsid };
}
