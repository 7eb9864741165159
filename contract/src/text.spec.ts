import { unfitText } from './text.js';

describe('text that can’t be kept', () => {
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
});
