import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { evtx, EvtxChunk, fileTime, textValue } from '../../../core/src/testing/evtx';
import { hinge } from '../main';

const folder = mkdtempSync(join(tmpdir(), 'log-'));
function written(name: string, content: string | Uint8Array): string {
  const file = join(folder, name);
  writeFileSync(file, content);
  return file;
}
async function run(...args: readonly string[]) {
  let [out, errors] = ['', ''];
  const code = await hinge(
    ['log', 'read', ...args],
    { write: (text) => (out += text) },
    { write: (text) => (errors += text) },
  );
  const lines = out.split('\n').filter(Boolean);
  return { code, errors, events: lines.map((line) => JSON.parse(line) as Record<string, unknown>) };
}

const chunk = new EvtxChunk().add({
  provider: 'Microsoft-Windows-DistributedCOM',
  eventId: 10028,
  computer: 'trend-1',
  time: fileTime('2026-11-20T02:10:00Z'),
  data: [
    ['param1', textValue('lehr-data')],
    [null, textValue('more')],
  ],
});

describe('hinge log read', () => {
  it('gives one JSON object for each event of all files, with where it stands', async () => {
    const windows = written('system.evtx', evtx(chunk.done()));
    const lines = written('door.log', '2026-11-20T02:10:01Z up\n');
    const { code, events, errors } = await run(windows, lines, '--json');
    expect(code).toBe(0);
    expect(errors).toBe(`${windows}: 1 event.\n${lines}: 1 event.\n`);
    expect(events).toEqual([
      {
        source: { file: windows, position: 4608 },
        kind: 'windows',
        time: '2026-11-20T02:10:00.0000000Z',
        channel: 'System',
        computer: 'trend-1',
        provider: 'Microsoft-Windows-DistributedCOM',
        eventId: 10028,
        data: { param1: 'lehr-data', '#1': 'more' },
        says: 'COM could not reach lehr-data by any of its protocols.',
      },
      { source: { file: lines, position: 0 }, kind: 'text', time: '2026-11-20T02:10:01Z', text: 'up', data: {} },
    ]);
  });

  it('reads times by a zone, and lines by a rule', async () => {
    const file = written('own.log', '2026-07-01 10:00:00 trend: refused\n');
    const { events } = await run(file, '--zone', 'Europe/Berlin', '--rule', '{time} {who}: {text}', '--json');
    expect(events).toEqual([
      expect.objectContaining({
        time: '2026-07-01T08:00:00Z',
        data: { time: '2026-07-01T08:00:00Z', who: 'trend', text: 'refused' },
      }),
    ]);
  });

  it('tells what was not understood, with its place', async () => {
    const broken = evtx(chunk.done());
    broken[4096 + 600] = (broken[4096 + 600] ?? 0) ^ 1;
    const file = written('broken.evtx', broken);
    expect(await run(file, '--json')).toEqual({
      code: 3,
      events: [],
      errors: `${file}: 0 events; 1 place not understood.\n${file}, byte 4096: The check sum of a chunk’s records is wrong; it is skipped.\n`,
    });
  });

  it('can’t run without a file, with a zone that there isn’t, or a rule that is wrong', async () => {
    const file = written('own.log', 'x\n');
    expect((await run('--json')).errors).toContain('Say which files to read.');
    expect((await run(file)).errors).toContain('add --json');
    expect(await run(file, '--zone', 'Nowhere', '--json')).toMatchObject({
      code: 2,
      errors: '“Nowhere” is no time zone: write +01:00, or a name such as Europe/Berlin.\n',
    });
    expect(await run(file, '--rule', '{a}{b}', '--json')).toMatchObject({
      code: 2,
      errors: 'The pattern is wrong at letter 4: Something must stand between two names.\n',
    });
    expect((await run(join(folder, 'missing'), '--json')).code).toBe(2);
  });
});
