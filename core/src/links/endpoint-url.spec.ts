import fc from 'fast-check';
import { endpointUrlOf, judgeEndpointUrl } from './endpoint-url.js';

const flawsOf = (text: string, port?: number) => judgeEndpointUrl(text, port).flaws.map((flaw) => flaw.kind);
const cleaned = (text: string, port?: number) => judgeEndpointUrl(text, port).cleaned;

describe('an endpoint URL', () => {
  it('is left alone where nothing is wrong with it', () => {
    expect(judgeEndpointUrl('opc.tcp://furnace.works.example:4840/server')).toMatchObject({
      flaws: [],
      cleaned: 'opc.tcp://furnace.works.example:4840/server',
    });
  });

  it.each([
    ['opc.tcp://furnace :4840', ['blank'], 'opc.tcp://furnace:4840'],
    ['opc.tcp://fur\u200bnace:4840', ['invisible'], 'opc.tcp://furnace:4840'],
    ['\ufeffopc.tcp://furnace:4840\u00a0', ['invisible', 'blank'], 'opc.tcp://furnace:4840'],
    ['http://furnace:4840', ['scheme'], 'opc.tcp://furnace:4840'],
    ['opc.tcp:\\\\furnace:4840', ['scheme'], 'opc.tcp://furnace:4840'],
    ['OPC.TCP://furnace:4840', ['scheme'], 'opc.tcp://furnace:4840'],
    ['furnace:4840', ['scheme'], 'opc.tcp://furnace:4840'],
  ])('%j is cleaned', (text, flaws, wanted) => {
    expect([flawsOf(text), cleaned(text)]).toEqual([flaws, wanted]);
  });

  it.each([
    'opc.tcp://<host>:4840',
    'opc.tcp://your-server:4840',
    'opc.tcp://[host]:4840',
    'opc.tcp://0.0.0.0:4840',
    'opc.tcp://hostname:4840',
  ])('%s holds a placeholder and gives no URL', (text) => {
    expect([flawsOf(text), cleaned(text)]).toEqual([['placeholder'], null]);
  });

  it('asks for a port only where the server is not on the registered one', () => {
    expect(flawsOf('opc.tcp://furnace', 4840)).toEqual([]);
    expect([flawsOf('opc.tcp://furnace', 4845), cleaned('opc.tcp://furnace', 4845)]).toEqual([
      ['port'],
      'opc.tcp://furnace:4845',
    ]);
  });

  it.each(['opc.tcp://furnace:0', 'opc.tcp://furnace:65536', 'opc.tcp://furnace:48x0', 'opc.tcp://furnace:'])(
    '%s has no port',
    (text) => {
      expect(flawsOf(text)).toEqual(['port']);
    },
  );

  it('refuses addresses that can’t be', () => {
    expect([
      flawsOf('opc.tcp://10.0.0.256:4840'),
      flawsOf('opc.tcp://10.0.1:4840'),
      flawsOf('opc.tcp://user@furnace:4840'),
    ]).toEqual([['host'], ['host'], ['host']]);
  });

  it('keeps the brackets of an IPv6 address', () => {
    expect(cleaned('opc.tcp://[fd00::1]:4840')).toBe('opc.tcp://[fd00::1]:4840');
  });

  const label = fc.stringMatching(/^[a-z]([a-z0-9-]{0,10}[a-z0-9])?$/);
  const parts = fc.record({
    host: fc.array(label, { minLength: 2, maxLength: 4 }).map((labels) => labels.join('.')),
    port: fc.integer({ min: 1, max: 65535 }),
    path: fc.constantFrom('', '/a', '/a/b'),
  });

  it('is its own cleaned form, whatever its parts', () => {
    fc.assert(
      fc.property(
        parts.filter(({ host }) => !/^example\.(com|org|net)$/.test(host) && !/^x{2,}(\.x{2,})*$/.test(host)),
        (made) => {
          const url = endpointUrlOf(made);
          expect(judgeEndpointUrl(url)).toMatchObject({ flaws: [], cleaned: url, parts: made });
        },
      ),
    );
  });

  it('never throws, and what it cleans is clean', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 80 }), (text) => {
        const url = cleaned(text);
        if (url !== null) expect(judgeEndpointUrl(url)).toMatchObject({ flaws: [], cleaned: url });
      }),
      { numRuns: 1000 },
    );
  });
});
