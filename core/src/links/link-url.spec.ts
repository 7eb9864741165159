import { judgeLinkUrl, linkUrlOf, programOf } from './link-url.js';

describe('the address of a classic link', () => {
  it('has a machine, the port of its mapper, and a program', () => {
    const { parts, cleaned, flaws } = judgeLinkUrl('classic', 'classic://Lehr-Data/Marrowby.LehrData.1');
    expect(parts).toEqual({ host: 'lehr-data', port: 135, path: '/Marrowby.LehrData.1' });
    expect(cleaned).toBe('classic://lehr-data:135/Marrowby.LehrData.1');
    expect(flaws).toEqual([]);
    expect(parts && programOf(parts)).toBe('Marrowby.LehrData.1');
    expect(parts && linkUrlOf('classic', parts)).toBe(cleaned);
  });

  it.each([
    ['classic://lehr-data', 'It names no program behind the host.'],
    ['opc.tcp://lehr-data/Marrowby.LehrData.1', 'It begins with opc.tcp:// and not with classic://.'],
    ['classic://lehr data/Marrowby.LehrData.1', 'It holds a blank.'],
    ['classic://lehr-data:99999/Marrowby.LehrData.1', '“99999” is no port (1 to 65535).'],
  ])('says what is wrong with %s', (text, says) => {
    expect(judgeLinkUrl('classic', text).flaws.map((flaw) => flaw.says)).toContain(says);
  });
});
