import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Dialogue, pcap } from '../../../core/src/testing/captures';
import { hello, acknowledge, opening, openRequest, response } from '../../../core/src/testing/ua-messages';
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
