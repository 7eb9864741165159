import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { RecordingFile } from './recording-file.js';

const folder = mkdtempSync(join(tmpdir(), 'hinge-recording-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const failing = (path: string): Promise<string> =>
  new Promise((resolve) => {
    const file = new RecordingFile(path, resolve);
    file.begin('time');
    file.add('1');
  });

describe('a file that is recorded into', () => {
  it('has its head and its rows, for its owner alone', async () => {
    const path = join(folder, 'a.csv');
    const file = new RecordingFile(path, () => undefined);
    file.begin('time,A');
    file.add('1,ä');
    file.add('2,b');
    await file.end();
    await file.end();
    expect(readFileSync(path, 'utf8')).toBe('time,A\r\n1,ä\r\n2,b\r\n');
    expect([file.rows, file.bytes]).toEqual([2, statSync(path).size]);
    expect(statSync(path).mode & 0o777).toBe(0o600);
  });

  it('says that the disk is full, or that there is no way to write', async () => {
    expect(await failing('/dev/full')).toBe('The disk is full.');
    expect(await failing(join(folder, 'nowhere', 'a.csv'))).toMatch(/^The file can’t be written: ENOENT/);
  });

  it('takes nothing more once it has failed', async () => {
    const told: string[] = [];
    const file = new RecordingFile('/dev/full', (says) => told.push(says));
    file.begin('time');
    await file.end();
    await new Promise((resolve) => setImmediate(resolve));
    file.add('1');
    expect([file.rows, told]).toEqual([0, ['The disk is full.']]);
  });
});
