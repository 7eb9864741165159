import { wholeElement } from './der.js';
import { DistinguishedName } from './name.js';

type Attribute = readonly [oid: readonly number[], tag: number, value: string];
const cn = [0x55, 4, 3];
const o = [0x55, 4, 10];
const element = (tag: number, ...content: readonly number[]): number[] => [tag, content.length, ...content];
const name = (...relative: readonly (readonly Attribute[])[]): DistinguishedName =>
  new DistinguishedName(
    wholeElement(
      Uint8Array.from(
        element(
          0x30,
          ...relative.flatMap((attributes) =>
            element(
              0x31,
              ...attributes.flatMap(([oid, tag, value]) =>
                element(0x30, ...element(6, ...oid), ...element(tag, ...Buffer.from(value))),
              ),
            ),
          ),
        ),
      ),
    ),
  );
const [utf8, printable] = [0x0c, 0x13];
const works = name([[o, utf8, 'Works']], [[cn, utf8, 'Works CA']]);

describe('a distinguished name', () => {
  it.each<[string, DistinguishedName]>([
    ['of another string type', name([[o, printable, 'Works']], [[cn, printable, 'Works CA']])],
    ['in another case', name([[o, utf8, 'WORKS']], [[cn, utf8, 'works ca']])],
    ['with other blanks', name([[o, utf8, ' Works']], [[cn, utf8, 'Works   CA ']])],
  ])('is the same %s', (_, other) => {
    expect(works.equals(other)).toBe(true);
    expect(works.key).toBe(other.key);
  });

  it.each<[string, DistinguishedName]>([
    ['with other words', name([[o, utf8, 'Works']], [[cn, utf8, 'Works CA 2']])],
    ['in another order', name([[cn, utf8, 'Works CA']], [[o, utf8, 'Works']])],
    ['with a part more', name([[o, utf8, 'Works']], [[cn, utf8, 'Works CA']], [[cn, utf8, 'x']])],
    ['with an attribute of another kind', name([[cn, utf8, 'Works']], [[cn, utf8, 'Works CA']])],
  ])('is not the same %s', (_, other) => {
    expect(works.equals(other)).toBe(false);
    expect(works.key).not.toBe(other.key);
  });

  it('takes the attributes of one part in any order', () => {
    const one = name([
      [o, utf8, 'Works'],
      [cn, utf8, 'CA'],
    ]);
    expect(
      one.equals(
        name([
          [cn, utf8, 'CA'],
          [o, utf8, 'Works'],
        ]),
      ),
    ).toBe(true);
  });

  it('can’t be made to look like another one by the letters in it', () => {
    const sly = name([[o, utf8, 'Works,2.5.4.3=works ca']]);
    expect(sly.key).not.toBe(works.key);
    expect(sly.text).toBe('O=Works\\,2.5.4.3=works ca');
    const steering = name([[o, utf8, 'a\r\nb\u001b[2J\u202ec']]);
    expect(steering.text).toBe('O=a\\0D\\0Ab\\1B[2J\\E2\\80\\AEc');
  });
});
