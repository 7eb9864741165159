import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { OutpostFolder } from './folder';
import { Holder } from './holder';

interface Wanted {
  readonly name: string;
  readonly port: number;
}
const folders: string[] = [];
afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});

/** Something that can be held: what is done with it is written down. */
function holding(path = mkdtempSync(join(tmpdir(), 'holder-'))) {
  folders.push(path);
  const done: string[] = [];
  const said: string[] = [];
  const holder = new Holder<Wanted, { port: number }>(new OutpostFolder(path), {
    file: 'held.json',
    read: (text) => {
      const value = JSON.parse(text) as Wanted;
      return value.port > 0 ? { ok: true, value } : { ok: false, says: 'port: none' };
    },
    start: ({ port }) => {
      if (port === 80) return Promise.reject(new Error('Port 80 is taken.'));
      done.push(`start ${port}`);
      return Promise.resolve({ port });
    },
    change: (running, { port }) => {
      // Only the next port can be gone over to.
      if (port !== running.port + 1) return Promise.resolve(false);
      done.push(`change ${port}`);
      running.port = port;
      return Promise.resolve(true);
    },
    stop: ({ port }) => {
      done.push(`stop ${port}`);
      return Promise.resolve();
    },
    changed: () => done.push('told'),
    tell: (says) => said.push(says),
    retryMs: 20,
  });
  const settled = async (times: number): Promise<void> => {
    for (let turn = 0; turn < 400 && done.filter((each) => each === 'told').length < times; turn += 1)
      await new Promise((next) => setTimeout(next, 5));
  };
  return { path, holder, done, said, settled };
}

describe('what an outpost holds', () => {
  it('is started, gone over to where that can be, started anew where it can’t, and let go', async () => {
    const { path, holder, done, settled } = holding();
    holder.hold({
      revision: 'one',
      configuration: { name: 'a', port: 5 },
      files: { 'key.pem': 'secret', 'kept.pem': null },
    });
    holder.hold({ revision: 'two', configuration: { name: 'a', port: 6 } });
    holder.hold({ revision: 'three', configuration: { name: 'a', port: 9 } });
    holder.hold({ revision: 'four', configuration: null });
    await settled(4);
    expect(done).toEqual(['start 5', 'told', 'change 6', 'told', 'stop 6', 'start 9', 'told', 'stop 9', 'told']);
    expect([holder.revision, holder.running, holder.whyNot]).toEqual(['four', null, null]);
    expect(readFileSync(join(path, 'held.json'), 'utf8')).toBe('');
    expect(statSync(join(path, 'key.pem')).mode & 0o777).toBe(0o600);
  });

  it('is held again when it is started again, whether anybody is there or not', async () => {
    const first = holding();
    first.holder.hold({ revision: 'one', configuration: { name: 'a', port: 5 } });
    await first.settled(1);
    await first.holder.stop();
    const second = holding(first.path);
    await second.holder.again();
    expect([second.holder.revision, second.holder.running]).toEqual(['one', { port: 5 }]);
    second.holder.hold({ revision: 'none', configuration: null });
    await second.settled(1);
    const third = holding(first.path);
    await third.holder.again();
    expect([third.holder.running, third.holder.whyNot, third.done]).toEqual([null, null, []]);
  });

  it('says why it can’t be held, and is held once it can', async () => {
    const { holder, said, settled } = holding();
    holder.hold({ revision: 'one', configuration: { name: 'a', port: 80 } });
    await settled(1);
    expect([holder.revision, holder.running, holder.whyNot]).toEqual(['one', null, 'Port 80 is taken.']);
    expect(said).toContain('Port 80 is taken.');
    holder.hold({ revision: 'two', configuration: { name: 'a', port: 81 } });
    await settled(2);
    expect([holder.running, holder.whyNot]).toEqual([{ port: 81 }, null]);
  });

  it('goes on as it is where something else can’t be kept, and goes over to that once it can', async () => {
    const { path, holder, settled } = holding();
    holder.hold({ revision: 'one', configuration: { name: 'a', port: 5 } });
    await settled(1);
    // As on a disk that is full, nothing can be written.
    rmSync(path, { recursive: true });
    writeFileSync(path, 'no folder');
    holder.hold({ revision: 'two', configuration: { name: 'a', port: 6 }, files: { 'key.pem': 'secret' } });
    await settled(2);
    expect([holder.revision, holder.running]).toEqual(['one', { port: 5 }]);
    expect(holder.whyNot).toMatch(/key\.pem can’t be written/);
    rmSync(path);
    mkdirSync(path);
    for (let turn = 0; turn < 400 && holder.revision !== 'two'; turn += 1)
      await new Promise((next) => setTimeout(next, 5));
    expect([holder.revision, holder.running, holder.whyNot]).toEqual(['two', { port: 6 }, null]);
    expect(readFileSync(join(path, 'key.pem'), 'utf8')).toBe('secret');
    await holder.stop();
  });

  it('is not gone back to where something else was told meanwhile', async () => {
    const { path, holder, settled } = holding();
    rmSync(path, { recursive: true });
    writeFileSync(path, 'no folder');
    holder.hold({ revision: 'one', configuration: { name: 'a', port: 5 } });
    await settled(1);
    rmSync(path);
    mkdirSync(path);
    holder.hold({ revision: 'two', configuration: { name: 'a', port: 9 } });
    await settled(2);
    await new Promise((next) => setTimeout(next, 60));
    await holder.stop();
    expect(holder.revision).toBe('two');
  });

  it('is nothing where what lies in the folder can’t be read', async () => {
    const { path, holder } = holding();
    await new OutpostFolder(path).write('held.json', '{"name": "a", "port": 0}');
    await holder.again();
    expect([holder.running, holder.whyNot]).toEqual([null, 'held.json: port: none']);
  });
});
