import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Dialogue, pcap } from '../../../core/src/testing/captures';
import {
  acknowledge,
  chunk,
  fault,
  hello,
  opening,
  openRequest,
  request,
  response,
} from '../../../core/src/testing/ua-messages';
import { hinge } from '../main';

const folder = mkdtempSync(join(tmpdir(), 'capture-'));
const start = Date.parse('2026-11-20T02:10:00.000Z') * 1000 + 123;
const url = 'opc.tcp://press-1:4840';
const talk = new Dialogue(start)
  .opened()
  .says(0, hello(url))
  .says(1, acknowledge())
  .says(0, opening(1, 1, openRequest()))
  .says(1, opening(1, 1, response('OpenSecureChannel')))
  .closed();

function written(bytes: Uint8Array): string {
  const file = join(folder, 'made.pcap');
  writeFileSync(file, bytes);
  return file;
}
async function run(...args: readonly string[]) {
  let [out, errors] = ['', ''];
  const code = await hinge(
    ['capture', 'read', ...args],
    { write: (text) => (out += text) },
    { write: (text) => (errors += text) },
  );
  return { code, out, errors };
}

describe('hinge capture read', () => {
  it('gives one JSON object for each conversation', async () => {
    const file = written(pcap(talk.frames));
    const { code, out, errors } = await run(file, '--json');
    expect(code).toBe(0);
    expect(errors).toBe(`${file}: 10 packets, 1 conversation.\n`);
    expect(JSON.parse(out)).toEqual({
      protocol: 'opc.tcp',
      client: { address: '10.3.0.21', port: 50_100 },
      server: { address: '10.3.0.40', port: 4840 },
      start: '2026-11-20T02:10:00.000123Z',
      end: '2026-11-20T02:10:00.009123Z',
      packets: 10,
      bytes: expect.any(Number) as unknown,
      outcome: 'closed',
      endpointUrl: url,
      securityPolicyUri: 'http://opcfoundation.org/UA/SecurityPolicy#None',
      securityMode: 'None',
      services: [{ name: 'OpenSecureChannel', at: '2026-11-20T02:10:00.005123Z', result: 'Good' }],
      notes: ['The client closed it first.'],
    });
  });

  it('tells every call with its own name, time and result, the same one many times and others between', async () => {
    const calls = Array.from({ length: 900 }, (_, index) => ({
      name: index % 7 === 3 ? 'Browse' : 'Read',
      result: index % 11 === 5 ? 'BadNodeIdUnknown' : index === 899 ? null : 'Good',
    }));
    const dialogue = new Dialogue(start)
      .opened()
      .says(0, opening(1, 1, openRequest()))
      .says(1, opening(1, 1, response('OpenSecureChannel')));
    calls.forEach(({ name, result }, index) => {
      const number = index + 2;
      dialogue.says(0, chunk(number, number, request(name, new Uint8Array(80))));
      const answer = result === 'Good' ? response(name) : fault(0x80340000);
      if (result !== null) dialogue.says(1, chunk(number, number, answer));
    });
    const { out } = await run(written(pcap(dialogue.frames)), '--json');
    const { services } = JSON.parse(out) as { services: { name: string; at: string; result: string | null }[] };
    expect(services.slice(1).map(({ name, result }) => ({ name, result }))).toEqual(calls);
    const times = services.map(({ at }) => at);
    expect(times.every((at) => /^2026-11-20T02:10:0\d\.\d{3}123Z$/.test(at))).toBe(true);
    expect(times).toEqual([...new Set(times)].sort());
    expect(new Set(times.map((at) => at.slice(0, 19))).size).toBeGreaterThan(1);
  });

  it('says it in a sentence otherwise', async () => {
    const { out } = await run(written(pcap(talk.frames)));
    expect(out).toMatch(
      /^2026-11-20T02:10:00\.000123Z 10\.3\.0\.21 port 50100 to 10\.3\.0\.40 port 4840, opc\.tcp, closed: 10 packets, \d+ bytes\. The client closed it first\.\n$/,
    );
  });

  it('reads what stands before the place where a file is cut off, and says so', async () => {
    const file = written(pcap(talk.frames).subarray(0, -3));
    const { code, out, errors } = await run(file, '--json');
    expect([code, JSON.parse(out)]).toEqual([3, expect.objectContaining({ packets: 9 })]);
    expect(errors).toContain('The file is cut off within a packet. What stands before it was read.');
  });

  it('can’t run on what is no capture, or not there, or not said', async () => {
    const file = written(new TextEncoder().encode('no capture'));
    expect(await run(file)).toMatchObject({
      code: 2,
      errors: `${file}: This is no capture: it begins like neither pcap nor pcapng.\n`,
    });
    expect(await run(join(folder, 'missing'))).toMatchObject({ code: 2, out: '' });
    expect(await run(folder)).toMatchObject({ code: 2, out: '' });
    expect((await run()).errors).toContain('Say which one file to read.');
  });
});
