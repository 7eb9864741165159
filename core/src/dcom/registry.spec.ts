import { Registry, bytesOfValue, numberOfValue, readRegistryExport, textOfValue, textsOfValue } from './registry.js';

const five = 'Windows Registry Editor Version 5.00';
const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';

function read(...texts: readonly string[]) {
  const registry = new Registry();
  const faults = texts.map((text) => readRegistryExport(text, registry));
  return { registry, faults };
}

describe('an export of the registry', () => {
  it('is read with all kinds of values, continued lines and notes', () => {
    const { registry, faults } = read(
      [
        five,
        '; a note',
        '',
        `[${ole}]`,
        '@="unnamed"',
        '"EnableDCOM"="Y"',
        '"LegacyAuthenticationLevel"=dword:00000005',
        '"DefaultLaunchPermission"=hex:01,00,\\',
        '  04,80',
        '"Path"=hex(2):25,00,41,00,25,00,00,00',
        '"Ports"=hex(7):35,00,00,00,36,00,2d,00,37,00,00,00,00,00',
        '"Long"=hex(b):01,00,00,00,00,00,00,00',
        '"Empty"=hex:',
        '"a \\"name\\" \\\\ with all"="c:\\\\opc\\\\"',
        '"two lines"="first',
        'second"',
      ].join('\r\n'),
    );
    expect(faults).toEqual([[]]);
    const of = (name: string) => registry.value(ole.toLowerCase(), name.toUpperCase());
    expect(textOfValue(of(''))).toBe('unnamed');
    expect([textOfValue(of('EnableDCOM')), numberOfValue(of('LegacyAuthenticationLevel'))]).toEqual(['Y', 5]);
    expect(bytesOfValue(of('DefaultLaunchPermission'))).toEqual(Uint8Array.of(1, 0, 4, 0x80));
    expect([textOfValue(of('Path')), textsOfValue(of('Ports'))]).toEqual(['%A%', ['5', '6-7']]);
    expect([of('Long')?.data.length, bytesOfValue(of('Empty'))?.length]).toEqual([8, 0]);
    expect(textOfValue(of('a "name" \\ with all'))).toBe('c:\\opc\\');
    expect(textOfValue(of('two lines'))).toBe('first\nsecond');
    // A value of one kind is none of another.
    expect([numberOfValue(of('Path')), textOfValue(of('Ports')), bytesOfValue(of('Long'))]).toEqual([null, null, null]);
  });

  it('of the older kind has texts of one byte a letter', () => {
    const { registry } = read(`REGEDIT4\n[${ole}]\n"Path"=hex(2):25,41,25,00\n"DCOM"=hex:59,00`);
    expect(textOfValue(registry.value(ole, 'Path'))).toBe('%A%');
    expect(bytesOfValue(registry.value(ole, 'DCOM'))).toEqual(Uint8Array.of(0x59, 0));
  });

  it('removes what it writes as removed, and adds to what others said', () => {
    const { registry, faults } = read(
      `${five}\n[${ole}]\n"A"="1"\n"B"="2"\n[${ole}\\AppCompat]\n"C"=dword:1\n[${ole}\\Other\\Deep]`,
      `${five}\n[${ole}]\n"a"=-\n"D"="4"\n[-${ole}\\other]`,
    );
    expect(faults).toEqual([[], []]);
    expect([...(registry.key(ole)?.values.keys() ?? [])]).toEqual(['b', 'd']);
    expect(registry.keysBelow(ole).map(({ path }) => path)).toEqual([`${ole}\\AppCompat`]);
    expect(registry.key('HKEY_LOCAL_MACHINE\\SOFTWARE')).not.toBeNull();
  });

  it('says at which line it can’t be read, and goes on behind it', () => {
    const { registry, faults } = read(
      [
        five,
        '"A"="above every key"',
        '[HKLM\\SOFTWARE]',
        '"B"="below none"',
        `[${ole}]`,
        'no value',
        '"C"=dword:123456789',
        '"D"=hex:1,2',
        '"E"=hex(4):01,02',
        '"F"=hex(b):01',
        '"G"=what',
        '"H"="good"',
        '"I"="never closed',
      ].join('\n'),
    );
    expect(faults[0]?.map(({ line }) => line)).toEqual([2, 3, 4, 6, 7, 8, 9, 10, 11, 13]);
    expect(textOfValue(registry.value(ole, 'H'))).toBe('good');
    expect(registry.key(ole)?.values.size).toBe(1);
  });

  it('is none without its first line', () => {
    expect(read('', 'hello', '[HKEY_LOCAL_MACHINE]').faults).toEqual([null, null, null]);
  });
});
