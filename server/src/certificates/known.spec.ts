import { Known } from './known.js';

describe('what is known by its id', () => {
  const asked: string[][] = [];
  const load = (missing: readonly string[]): Promise<readonly (readonly [string, string])[]> => {
    asked.push([...missing]);
    return Promise.resolve(missing.filter((id) => id !== 'nowhere').map((id) => [id, id.toUpperCase()] as const));
  };
  beforeEach(() => void asked.splice(0));

  it('is loaded once', async () => {
    const known = new Known<string>(10);
    expect([...(await known.gather(['a', 'b', 'a'], load))]).toEqual([
      ['a', 'A'],
      ['b', 'B'],
    ]);
    expect((await known.gather(['b', 'c'], load)).get('b')).toBe('B');
    expect(asked).toEqual([['a', 'b'], ['c']]);
  });

  it('leaves out what there is not, and asks for it again', async () => {
    const known = new Known<string>(10);
    expect((await known.gather(['nowhere'], load)).size).toBe(0);
    await known.gather(['nowhere'], load);
    expect(asked).toEqual([['nowhere'], ['nowhere']]);
  });

  it('lets go first what was not used for longest, and gives all that was asked for', async () => {
    const known = new Known<string>(2);
    await known.gather(['a', 'b'], load);
    await known.gather(['a'], load);
    expect((await known.gather(['c'], load)).get('c')).toBe('C');
    await known.gather(['a', 'c'], load);
    expect((await known.gather(['d', 'e', 'f'], load)).size).toBe(3);
    expect(asked).toEqual([['a', 'b'], ['c'], ['d', 'e', 'f']]);
  });
});
