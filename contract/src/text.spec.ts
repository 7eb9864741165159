import fc from 'fast-check';
import { isSurelyFit, unfitText } from './text.js';

describe('text that can’t be stored', () => {
  it('is found at any depth, with its place', () => {
    expect(unfitText({ plant: { zones: [{ name: 'Hall' }, { name: 'a\u0000' }] } })).toEqual({
      place: 'plant.zones.1.name',
      says: expect.stringContaining('code 0'),
    });
    expect(unfitText(['fine', '\ud83d'])).toMatchObject({
      place: '1',
      says: expect.stringContaining('half a character'),
    });
    expect(unfitText({ 'a\ud800': 1 })).toMatchObject({ place: '' });
  });

  it('is not what merely looks odd', () => {
    expect(unfitText({ name: 'Öfen 🜂\u202e\n', list: [1, null, true], none: undefined })).toBeNull();
  });

  it('stops at a depth that nothing has, without running out of stack', () => {
    let deep: unknown = 'bottom';
    for (let level = 0; level < 100_000; level += 1) deep = [deep];
    expect(unfitText(deep)).toMatchObject({ says: 'It is nested too deeply.' });
  });

  it('is told from the letters of JSON alone, where that is sure', () => {
    expect(isSurelyFit('{"name": "Öfen 🜂\\u00e9\\n \\"[[[\\"", "list": [[1], [2]]}')).toBe(true);
    for (const json of [
      '"\\u0000"',
      '"\ud83d"',
      '"\\uD83d\\udd25"',
      '"\udd25\ud83d"',
      `${'['.repeat(70)}${']'.repeat(70)}`,
    ])
      expect(isSurelyFit(json)).toBe(false);
    // A backslash that is escaped itself begins nothing.
    expect(isSurelyFit('"\\\\u0000"')).toBe(true);
  });

  it('is never passed by looking at the letters alone', () => {
    const odd = fc.string({ unit: fc.constantFrom('a', '\\', '"', '\u0000', '\ud83d', '\udd25', '[', '{', 'u0000') });
    fc.assert(
      fc.property(fc.anything({ key: odd, values: [odd] }), (value) => {
        const json = JSON.stringify(value);
        return json === undefined || !isSurelyFit(json) || unfitText(JSON.parse(json)) === null;
      }),
    );
  });
});
