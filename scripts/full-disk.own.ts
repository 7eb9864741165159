import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Holder, OutpostFolder } from '../outpost/src/index.js';
import { until } from '../server/src/testing/until.js';
import { mayMount } from './testing/may-mount.js';

const asRoot = mayMount ? it : it.skip;

describe('an outpost whose disk is full', () => {
  const disk = mkdtempSync(join(tmpdir(), 'full-disk-'));
  afterAll(() => {
    if (mayMount) execFileSync('umount', ['-l', disk], { stdio: 'ignore' });
    rmSync(disk, { recursive: true });
  });

  asRoot('goes on with what it holds, says why it can’t take more, and takes it when there is room', async () => {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'mode=700,size=64k', 'none', disk]);
    const ran: string[] = [];
    const holder = new Holder<{ readonly name: string }, string>(new OutpostFolder(join(disk, 'end')), {
      file: 'held.json',
      read: (text) => ({ ok: true, value: JSON.parse(text) as { readonly name: string } }),
      start({ name }) {
        ran.push(name);
        return Promise.resolve(name);
      },
      change: () => Promise.resolve(false),
      stop: () => Promise.resolve(),
      changed: () => undefined,
      tell: () => undefined,
      retryMs: 100,
    });
    const state = () => Promise.resolve([holder.revision, holder.running, holder.whyNot] as const);
    holder.hold({ revision: 'one', configuration: { name: 'first' }, files: { 'key.pem': 'a key' } });
    await until(state, ([revision]) => revision === 'one');

    const filling = join(disk, 'filling');
    execFileSync('sh', ['-c', `dd if=/dev/zero of=${filling} bs=4k status=none 2>/dev/null; true`]);
    holder.hold({ revision: 'two', configuration: { name: 'second' }, files: { 'key.pem': 'another key' } });
    const [revision, running, whyNot] = await until(state, ([, , why]) => why !== null);
    expect([revision, running]).toEqual(['one', 'first']);
    expect(whyNot).toMatch(/key\.pem can’t be written: .*ENOSPC/);
    expect(readFileSync(join(disk, 'end', 'key.pem'), 'utf8')).toBe('a key');

    rmSync(filling);
    await until(state, ([now]) => now === 'two');
    expect(await state()).toEqual(['two', 'second', null]);
    expect(readFileSync(join(disk, 'end', 'key.pem'), 'utf8')).toBe('another key');
    expect(ran).toEqual(['first', 'second']);
    await holder.stop();
  });
});
