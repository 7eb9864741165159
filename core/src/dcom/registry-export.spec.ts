import fc from 'fast-check';
import { Registry, bytesOfValue, numberOfValue, readRegistryExport, textOfValue, textsOfValue } from './registry.js';
import { registryExportText, registryFileBytes } from './registry-export.js';
import { textOf } from '../trust/pem.js';

const path = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';

describe('files for a registry', () => {
  it('are written as a machine writes its exports', () => {
    const bytes = Uint8Array.from({ length: 40 }, (_, index) => index);
    expect(
      registryExportText([
        {
          path,
          values: [
            { name: 'EnableDCOM', text: 'Y' },
            { name: 'DefaultLaunchPermission', bytes },
            { name: 'Level', number: 0x1f },
          ],
        },
        { path: `${path}\\Old`, values: [], remove: true },
        {
          path: `${path}\\New`,
          values: [
            { name: '', text: 'a "b" \\ c' },
            { name: 'gone', remove: true },
          ],
        },
      ]),
    ).toBe(
      [
        'Windows Registry Editor Version 5.00',
        '',
        `[${path}]`,
        '"EnableDCOM"="Y"',
        '"DefaultLaunchPermission"=hex:00,01,02,03,04,05,06,07,08,09,0a,0b,0c,0d,0e,0f,\\',
        '  10,11,12,13,14,15,16,17,18,19,1a,1b,1c,1d,1e,1f,20,21,22,23,24,25,26,27',
        '"Level"=dword:0000001f',
        '',
        `[-${path}\\Old]`,
        '',
        `[${path}\\New]`,
        '@="a \\"b\\" \\\\ c"',
        '"gone"=-',
        '',
        '',
      ].join('\r\n'),
    );
  });

  it('are read again, whatever stands in them', () => {
    const letters = fc.string({ unit: fc.constantFrom('a', 'Z', '"', '\\', ' ', ';', '=', 'ä', '€'), maxLength: 20 });
    fc.assert(
      fc.property(
        letters,
        fc.uint8Array({ maxLength: 300 }),
        fc.nat(0xffffffff),
        fc.array(
          letters.filter((text) => text !== ''),
          { maxLength: 5 },
        ),
        (text, bytes, number, texts) => {
          const values = [
            { name: 'text', text },
            { name: 'bytes', bytes },
            { name: 'number', number },
            { name: 'texts', texts },
          ];
          const registry = new Registry();
          const file = registryFileBytes(registryExportText([{ path, values }]));
          expect(readRegistryExport(textOf(file), registry)).toEqual([]);
          expect(textOfValue(registry.value(path, 'text'))).toBe(text);
          expect([...(bytesOfValue(registry.value(path, 'bytes')) ?? [])]).toEqual([...bytes]);
          expect(numberOfValue(registry.value(path, 'number'))).toBe(number);
          expect(textsOfValue(registry.value(path, 'texts'))).toEqual(texts);
        },
      ),
    );
  });
});
