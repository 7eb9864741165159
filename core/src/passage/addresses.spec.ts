import { readAddress, readAddresses, readPorts, sayAddress, sayAddresses } from './addresses';

describe('Addresses as points', () => {
  it.each([
    '0.0.0.0',
    '10.1.2.3',
    '255.255.255.255',
    '::',
    '::1',
    'fd00::1',
    'ffff:ffff:ffff:ffff:ffff:ffff:ffff:ffff',
  ])('read and say %s', (text) => {
    const point = readAddress(text);
    expect(point === null ? null : sayAddress(point)).toBe(text);
  });

  it.each(['10.1.2', '10.1.2.256', '010.1.2.3.4', 'fe80::1%eth0', 'lan', '', '1:2'])('refuse “%s”', (text) => {
    expect(readAddress(text)).toBeNull();
  });

  it.each([
    ['10.1.0.0/16', '10.1.0.0/16'],
    ['10.1.2.3/16', '10.1.0.0/16'],
    ['10.0.0.0/255.255.0.0', '10.0.0.0/16'],
    ['10.0.0.1-10.0.0.5', '10.0.0.1-10.0.0.5'],
    ['10.0.0.0-10.0.0.255', '10.0.0.0/24'],
    ['0.0.0.0/0', '0.0.0.0/0'],
    ['fd00::/8', 'fd00::/8'],
    ['fd00::1-fd00::4', 'fd00::1-fd00::4'],
  ])('read %s as %s', (text, said) => {
    const range = readAddresses(text);
    expect(range && sayAddresses([range])).toEqual([said]);
  });

  it.each([
    '10.0.0.0/33',
    '10.0.0.0/255.0.255.0',
    'fd00::/129',
    '10.0.0.5-10.0.0.1',
    '10.0.0.1-fd00::1',
    '10.0.0.0/8/8',
  ])('refuse the range “%s”', (text) => {
    expect(readAddresses(text)).toBeNull();
  });

  it('read ports and ranges of them up to 65535', () => {
    expect(readPorts('80')).toEqual({ from: 80, to: 81 });
    expect(readPorts('80:90')).toEqual({ from: 80, to: 91 });
    expect(readPorts('65536')).toBeNull();
    expect(readPorts('90-80')).toBeNull();
  });
});
