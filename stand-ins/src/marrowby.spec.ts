import { isIpv4, plantFaults } from '@loyal-hinge/core';
import {
  addressBook,
  clientLists,
  formerApplications,
  inBlock,
  marrowbyGlass,
  standInClients,
  standInServers,
  wrongPasswordLinks,
} from './marrowby/index.js';
import { ProcessValue } from './process-values.js';

describe('Marrowby Glass', () => {
  it('holds together', () => {
    expect(plantFaults(marrowbyGlass)).toEqual([]);
  });

  it('stands on loopback alone, one address a server', () => {
    const addresses = marrowbyGlass.machines.flatMap((machine) => machine.addresses);
    for (const address of addresses) expect(isIpv4(address) && address.startsWith(inBlock(''))).toBe(true);
    expect(new Set(addresses).size).toBe(addresses.length);
    expect(new Set(standInServers.map(({ address }) => address)).size).toBe(standInServers.length);
  });

  it('names everything below its own made-up domain', () => {
    for (const name of [...addressBook.keys(), ...marrowbyGlass.machines.flatMap((machine) => machine.hostNames)])
      expect(name).toMatch(/\.marrowby\.example$/);
  });

  it('has at least six machines in four zones, five servers and twelve links', () => {
    const zones = new Set(marrowbyGlass.machines.map((machine) => machine.zoneId));
    expect([
      marrowbyGlass.machines.length >= 6,
      zones.size >= 4,
      standInServers.length >= 5,
      marrowbyGlass.links.length >= 12,
    ]).toEqual([true, true, true, true]);
  });

  it('lists nothing that nobody has made', () => {
    const made = new Set([
      ...standInServers.map(({ id }) => id),
      ...standInClients.map(({ id }) => id),
      ...formerApplications.map(({ id }) => id),
      'works-authority',
      'former-authority',
    ]);
    const listed = [...Object.values(clientLists), ...standInServers.map(({ lists }) => lists)];
    for (const { trusted, issuers = [] } of listed)
      for (const id of [...trusted, ...issuers]) expect(made).toContain(id);
  });

  it('lets the security desk into every server that speaks push management', () => {
    for (const { push, lists, users } of standInServers)
      expect([lists.trusted.includes('engineering-client'), users.includes('security') || !push]).toEqual([push, true]);
  });

  it('has links for the wrong passwords', () => {
    expect(wrongPasswordLinks).toEqual(['maintenance--lehr']);
  });
});

describe('a process value', () => {
  const item = { path: 'Furnace/Crown temperature', unit: 'degree_celsius' as const, mean: 1585, swing: 6 };

  it('moves, and stays near its mean', () => {
    let seed = 7;
    const random = (): number => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
    const value = new ProcessValue(item, random);
    const seen = Array.from({ length: 5000 }, () => value.next());
    expect(new Set(seen).size).toBeGreaterThan(50);
    expect(Math.max(...seen.map((one) => Math.abs(one - item.mean)))).toBeLessThan(4 * item.swing);
    const average = seen.reduce((sum, one) => sum + one, 0) / seen.length;
    expect(Math.abs(average - item.mean)).toBeLessThan(item.swing / 2);
  });
});
