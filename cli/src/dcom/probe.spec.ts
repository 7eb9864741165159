import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { hinge } from '../main.js';

const program = join(__dirname, '..', '..', '..', 'stand-ins', 'dist', 'classic-server.js');
process.env['OPC_PASSWORD'] = 'made up for this test';
process.env['OPC_WRONG'] = 'another';

let running: ChildProcess;
let port = '';
let clsid = '';
beforeAll(async () => {
  const args = ['--address', '127.0.0.1', '--port', '0', '--user', 'opc-reader', '--password-env', 'OPC_PASSWORD'];
  running = spawn(process.execPath, [program, ...args], { env: process.env, stdio: ['ignore', 'pipe', 'inherit'] });
  const line = await new Promise<string>((resolve) =>
    running.stdout?.once('data', (told: Buffer) => resolve(String(told))),
  );
  const ready = JSON.parse(line) as { port: number; clsid: string };
  [port, clsid] = [String(ready.port), ready.clsid];
});
afterAll(() => running.kill());

interface Told {
  readonly status: string;
  readonly steps: readonly {
    readonly step: string;
    readonly result: string;
    readonly code?: string;
    readonly detail: string;
  }[];
}
async function run(...args: readonly string[]) {
  let [out, errors] = ['', ''];
  const code = await hinge(
    ['dcom', 'probe', ...args],
    { write: (text) => (out += text) },
    { write: (text) => (errors += text) },
  );
  return { code, out, errors };
}
async function probe(...args: readonly string[]) {
  const { code, out } = await run('--host', '127.0.0.1', '--port', port, ...args, '--json');
  const { status, steps } = JSON.parse(out) as Told;
  return { code, status, results: Object.fromEntries(steps.map(({ step, result }) => [step, result])), steps };
}
const reader = ['--user', 'opc-reader', '--password-env', 'OPC_PASSWORD'];

describe('hinge dcom probe', () => {
  it('says Good where a server lets itself be found, browsed, read and watched', async () => {
    const told = await probe(
      ...reader,
      '--class',
      'Marrowby.LehrData.1',
      '--item',
      'Lehr.Belt.Speed',
      'Lehr.Recipe.Name',
      '--update-rate',
      '200',
    );
    expect(told).toMatchObject({ code: 0, status: 'Good' });
    expect(told.steps.map(({ step }) => step)).toEqual([
      'name',
      'reach',
      'mapper',
      'bindings',
      'sign-in',
      'class',
      'activation',
      'object-port',
      'access',
      'browse',
      'read',
      'watch',
    ]);
    expect(new Set(Object.values(told.results))).toEqual(new Set(['holds']));
  });

  it('looks at the machine alone where no class is asked for', async () => {
    const told = await probe(...reader);
    expect(told).toMatchObject({
      code: 0,
      status: 'Good',
      results: { 'sign-in': 'holds', class: 'not-needed', watch: 'not-needed' },
    });
  });

  it.each<[string, readonly string[], string, string, string | undefined]>([
    [
      'a wrong password',
      ['--user', 'opc-reader', '--password-env', 'OPC_WRONG'],
      'BadIdentityTokenRejected',
      'sign-in',
      '0x00000005',
    ],
    ['an unknown name of a class', [...reader, '--class', 'Marrowby.LerhData.1'], 'BadNotFound', 'class', '0x800401f3'],
    [
      'an unknown class',
      [...reader, '--class', '{5d8f0b52-3c1e-4f6a-9a70-2b6c1de80a99}'],
      'BadServerNotConnected',
      'activation',
      '0x80040154',
    ],
    ['nobody', ['--class', 'Marrowby.LehrData.1'], 'BadNotFound', 'class', '0x00000005'],
    [
      'an unknown item',
      [...reader, '--class', 'Marrowby.LehrData.1', '--item', 'Lehr.Belt.Sped'],
      'BadBrowseNameInvalid',
      'browse',
      '0xc0040007',
    ],
    [
      'a bad item',
      [...reader, '--class', 'Marrowby.LehrData.1', '--item', 'Lehr.Exhaust.Pressure'],
      'BadNotReadable',
      'read',
      undefined,
    ],
  ])('says where it stops for %s', async (_case, args, status, step, code) => {
    const told = await probe(...args);
    expect(told).toMatchObject({ code: 3, status });
    const found = told.steps.find(({ result }) => result === 'fails');
    expect(found?.step).toBe(step);
    expect(found?.code).toBe(code);
  });

  it('says where nothing answers, or nothing means an address', async () => {
    const closed = await run('--host', '127.0.0.1', '--port', '1', '--json');
    expect(closed.code).toBe(3);
    expect(JSON.parse(closed.out)).toMatchObject({ status: 'BadNoCommunication' });
    const nowhere = await run('--host', 'no-such-machine.invalid');
    expect(nowhere.out).toContain('BadHostUnknown\n  name         fails');
  });

  it('tells in words what it tells in JSON', async () => {
    const { out } = await run(
      '--host',
      '127.0.0.1',
      '--port',
      port,
      ...reader,
      '--class',
      clsid,
      '--item',
      'Lehr.Belt.Sped',
    );
    expect(out).toContain('not there: Lehr.Belt.Sped (the nearest is Lehr.Belt.Speed)');
    expect(out).toContain('0xc0040007, there is no such item');
  });

  it.each([
    [[], /Say which machine/],
    [['--host', 'a', '--user', 'b'], /environment variable holds the password/],
    [
      ['--host', 'a', '--user', 'b', '--password-env', 'NOT_SET_ANYWHERE'],
      /no environment variable “NOT_SET_ANYWHERE”/,
    ],
    [['--host', 'a', '--password-env', 'OPC_PASSWORD'], /belongs to a user/],
    [['--host', 'a', '--level', 'high'], /“high” is no level/],
    [['--host', 'a', '--port', '70000'], /--port must be a whole number from 1 to 65535/],
    [['--host', 'a', 'b'], /one word too many/],
    [[...reader, '--host', 'a', '--level', 'none'], /leave the user out/],
  ])('could not run with %j', async (args, says) => {
    const { code, errors } = await run(...args);
    expect(code).toBe(2);
    expect(errors).toMatch(says);
  });
});
