import { JudgeMemory, webCryptoVerifier } from '@loyal-hinge/core';
import type { GridPage } from '@loyal-hinge/contract';
import { lists, member, plantOf, wantedLink, works } from '../../../../core/src/testing/plant-trust.js';
import type { JudgedKnown } from '../known/keeper.js';
import type { KnownTrust } from '../known/known-trust.js';
import { gridCsv, overviewOf } from './overview.js';

type Judged = Pick<JudgedKnown, 'known' | 'judged'>;
let judged: Judged;
let memory: JudgeMemory;

beforeAll(async () => {
  const site = await works();
  const own = await Promise.all(['display', 'furnace', 'lehr', 'stranger'].map((name) => site.own(name)));
  const [display, furnace, lehr, stranger] = own;
  if (!display || !furnace || !lehr || !stranger) throw new Error('four certificates are made');
  const made = plantOf(
    [
      member('furnace', furnace, lists({ trusted: [display] })),
      member('lehr', lehr, lists({ trusted: [stranger] })),
      member('display', display, lists({ trusted: [furnace, lehr] })),
    ],
    [wantedLink('display', 'furnace'), wantedLink('display', 'lehr')],
  );
  // The builders’ types are those of the sources, the server’s those of the package: they are the same objects here.
  const trust = made as unknown as KnownTrust['trust'];
  const zone = (id: string, name: string, order: number) => ({ id, name, order });
  const [hot, cold] = [zone('hot', 'Hot End', 1), zone('cold', 'Cold End', 2)];
  const applications = trust.parties.map(({ applicationId: id, name, applicationUri }) => ({
    kind: 'server' as const,
    id,
    name,
    applicationUri,
    machineId: id,
    ports: [4840],
  }));
  memory = new JudgeMemory(webCryptoVerifier);
  judged = {
    known: {
      places: {
        name: 'Works',
        zones: [hot, cold],
        zoneOfMachine: new Map([
          ['furnace', hot],
          ['lehr', cold],
          ['display', cold],
        ]),
      },
      applications: new Map(applications.map((one) => [one.id, one])),
      trust,
      shelf: {
        certificates: new Map(own.map((one) => [one.thumbprint, one])),
        crls: [],
      } as unknown as KnownTrust['shelf'],
      readings: new Map(),
      ways: new Map(),
    },
    judged: memory.of(trust),
  };
});

const rowsOf = async (wish: GridPage) => {
  const { parties, columns, fitting } = await overviewOf(judged, wish, new Set());
  return {
    rows: parties.map(({ name }) => name),
    columns: columns.map(({ name }) => name).sort(),
    fitting,
  };
};

describe('the trust grid of a plant', () => {
  it('has all applications in the order of their zones', async () => {
    expect(await rowsOf({})).toEqual({
      rows: ['furnace', 'display', 'lehr'],
      columns: ['display', 'furnace', 'lehr', 'stranger'],
      fitting: 3,
    });
  });

  it.each([
    ['needed', ['furnace', 'display', 'lehr'], ['display', 'furnace', 'lehr']],
    ['refused', ['lehr'], ['display']],
    ['idle', ['lehr'], ['stranger']],
  ] as const)('narrows to what is %s', async (only, rows, columns) => {
    expect(await rowsOf({ only })).toEqual({ rows, columns, fitting: rows.length });
  });

  it('narrows to words of application, zone or certificate', async () => {
    expect(await rowsOf({ find: 'HOT' })).toMatchObject({ rows: ['furnace'], columns: ['display'] });
    expect(await rowsOf({ find: 'cold stranger' })).toMatchObject({ rows: ['lehr'], columns: ['stranger'] });
    expect(await rowsOf({ find: 'nothing like it' })).toEqual({ rows: [], columns: [], fitting: 0 });
  });

  it('is given some applications at a time, and judges no link of others for it', async () => {
    memory = new JudgeMemory(webCryptoVerifier);
    const fresh = { ...judged, judged: memory.of(judged.known.trust) };
    const { parties, columns, fitting } = await overviewOf(fresh, { from: 2, most: 1 }, new Set(['lehr']));
    expect(parties).toMatchObject([{ name: 'lehr', zone: 'Cold End', reading: true }]);
    expect([columns.map(({ name }) => name).sort(), fitting, memory.judged]).toEqual([
      ['display', 'lehr', 'stranger'],
      3,
      1,
    ]);
    expect(await rowsOf({ only: 'needed', from: 1, most: 1 })).toMatchObject({ rows: ['display'], fitting: 3 });
  });

  it('is written as CSV, a cell a line', async () => {
    const lines = (await gridCsv(judged, { only: 'refused' })).split('\r\n');
    expect(lines[0]).toBe('zone,application,certificate,thumbprint,stands,status,says,links');
    expect(lines[1]).toMatch(
      /^Cold End,lehr,display,[0-9A-F]{40},not at all,BadCertificateUntrusted,.*,display to lehr$/,
    );
    expect(lines.filter(Boolean)).toHaveLength(2);
  });
});
