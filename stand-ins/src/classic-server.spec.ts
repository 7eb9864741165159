import { spawn, spawnSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';

const program = join(__dirname, '..', 'dist', 'classic-server.js');
const speaker = join(__dirname, 'testing', 'independent_speaker.py');
const password = 'made up for this test';
const environment = { PATH: process.env['PATH'], OPC_PASSWORD: password, PASSWORD: password };

interface Ready {
  readonly progId: string;
  readonly clsid: string;
  readonly address: string;
  readonly port: number;
}

let running: ChildProcess;
let ready: Ready;
beforeAll(async () => {
  const args = ['--address', '127.0.0.1', '--port', '0', '--user', 'opc-reader', '--password-env', 'OPC_PASSWORD'];
  running = spawn(process.execPath, [program, ...args], { env: environment, stdio: ['ignore', 'pipe', 'inherit'] });
  ready = await new Promise<Ready>((resolve, reject) => {
    running.stdout?.once('data', (line: Buffer) => resolve(JSON.parse(String(line)) as Ready));
    running.once('exit', (code) => reject(new Error(`the stand-in ended with ${code ?? 'a signal'}`)));
  });
});
afterAll(() => running.kill());

describe('a classic stand-in that is started alone', () => {
  it('says in one line where it is', () => {
    expect(ready).toMatchObject({ progId: 'Marrowby.LehrData.1', address: '127.0.0.1' });
    expect(ready.port).toBeGreaterThan(0);
  });

  it.each([
    [['--port', 'x'], /“x” is no port/],
    [['--address', '10.0.0.1'], /is no loopback address/],
    [['--user', 'a'], /--password-env/],
  ])('says what is wrong with %j, and ends', (args, says) => {
    const { status, stderr } = spawnSync(process.execPath, [program, ...args], { env: environment, encoding: 'utf8' });
    expect(status).toBe(2);
    expect(stderr).toMatch(says);
  });

  const isThere = existsSync('/usr/lib/python3/dist-packages/impacket');
  (isThere ? it : it.skip)('is understood by an independent speaker, at every level', () => {
    const args = [speaker, ready.address, String(ready.port), 'opc-reader', ready.clsid];
    const { stdout, stderr } = spawnSync('/usr/bin/python3', args, { env: environment, encoding: 'utf8' });
    const told = stdout
      .split('\n')
      .flatMap((line) => (line === '' ? [] : [JSON.parse(line) as { what: string; says?: string }]));
    expect(stderr).toBe('');
    const names = [`127.0.0.1[${ready.port}]`];
    expect(told.filter(({ what }) => what === 'bindings')).toEqual(
      [1, 2, 5, 6].map((level) => ({ what: 'bindings', level, names })),
    );
    const saysOf = (what: string) => told.filter((one) => one.what === what).map(({ says }) => says);
    expect(saysOf('wrong password')).toEqual(['rpc_s_access_denied']);
    expect(saysOf('unknown class')).toEqual([expect.stringContaining('0x80040154')]);
    expect(told.filter(({ what }) => what === 'status')).toEqual(
      [2, 5, 6].map((level) => ({ what: 'status', level, vendor: 'Marrowby Glass, made up', state: 1, build: 3 })),
    );
    expect(told.filter(({ what }) => what === 'locale')).toHaveLength(3);
    for (const says of saysOf('unknown interface of an object')) expect(says).toContain('0x80004002');
    expect(saysOf('unknown operation')).toEqual(Array(3).fill('nca_s_op_rng_error'));
    for (const says of saysOf('unknown interface')) expect(says).toContain('provider_rejection');
    expect(told.filter(({ what }) => what === 'released')).toHaveLength(3);
  });
});
