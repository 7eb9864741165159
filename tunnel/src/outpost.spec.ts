import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { OutpostFolder } from '@loyal-hinge/outpost';
import { TunnelOutpost } from './outpost';
import { TestAuthority } from './testing/authority';

const folders: string[] = [];
const running: TunnelOutpost[] = [];
afterEach(async () => {
  await Promise.all(running.splice(0).map((outpost) => outpost.stop()));
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true });
});

async function started(files: Readonly<Record<string, string>>): Promise<TunnelOutpost> {
  const folder = mkdtempSync(join(tmpdir(), 'tunnel-outpost-'));
  folders.push(folder);
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
  const outpost = await TunnelOutpost.start(new OutpostFolder(folder), null, () => undefined);
  running.push(outpost);
  return outpost;
}

describe('an end of a tunnel in its folder', () => {
  it('holds nothing where there is nothing, or where it let go', async () => {
    for (const files of [new Map<string, string>(), new Map([['tunnel.json', '']])]) {
      const outpost = await started(Object.fromEntries(files));
      expect([outpost.statistics, outpost.whyNot]).toEqual([null, null]);
    }
  });

  it.each([
    ['{', 'cut off'],
    ['{"name": "a"}', 'meets'],
  ])('says what is wrong with %s, and goes on', async (text, says) => {
    const outpost = await started({ 'tunnel.json': text });
    expect(outpost.statistics).toBeNull();
    expect(outpost.whyNot).toContain(says);
  });

  it('says which file is missing', async () => {
    const configuration = {
      name: 'inside',
      meets: { by: 'listening', address: '127.0.0.1', port: 0 },
      certificateFile: 'certificate.pem',
      keyFile: 'key.pem',
      authorityFile: 'authority.pem',
      peers: [{ name: 'outside', fingerprint: 'A'.repeat(64) }],
    };
    expect((await started({ 'tunnel.json': JSON.stringify(configuration) })).whyNot).toContain('certificate.pem');
  });

  it('runs by what it holds', async () => {
    const authority = await TestAuthority.make();
    await authority.issue('inside');
    const configuration = {
      name: 'inside',
      meets: { by: 'listening', address: '127.0.0.1', port: 0 },
      certificateFile: join(authority.folder, 'inside.pem'),
      keyFile: join(authority.folder, 'inside.key'),
      authorityFile: join(authority.folder, 'authority.pem'),
      peers: [{ name: 'outside', fingerprint: 'A'.repeat(64) }],
    };
    const outpost = await started({ 'tunnel.json': JSON.stringify(configuration) });
    expect(outpost.whyNot).toBeNull();
    expect(outpost.statistics).toMatchObject({ name: 'inside', state: 'waiting' });
  });
});
