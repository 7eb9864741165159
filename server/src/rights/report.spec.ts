import type { RightsWriter } from '@loyal-hinge/contract';
import { runsOf } from '../papers/pdf.js';
import { writersReport } from './report.js';

const writer = (differs: Partial<RightsWriter> = {}): RightsWriter => ({
  serverId: 'lehr',
  server: 'Lehr server',
  identity: 'technician',
  isAnonymous: false,
  pattern: 'Lehr/Roller speed wanted',
  nodes: 1,
  neededBy: ['Line display to Lehr'],
  seenAt: '2026-03-01T12:00:00.000Z',
  ...differs,
});
const subject = {
  plant: 'Marrowby Glass',
  find: '',
  server: null,
  madeAt: '2026-03-01T12:00:00.000Z',
  madeBy: 'engineer',
};

describe('the report of who can write', () => {
  it('is a PDF of as many pages as it needs', async () => {
    const pages = async (writers: readonly RightsWriter[]): Promise<number> => {
      const counts = { total: writers.length, accounts: 1, unneeded: 0, unnamed: 0 };
      const pdf = await writersReport({ writers: [...writers], ...counts, unseen: [] }, subject);
      const bytes = Buffer.from(pdf).toString('latin1');
      expect(bytes.slice(0, 5)).toBe('%PDF-');
      expect(bytes.trimEnd().endsWith('%%EOF')).toBe(true);
      return Number(/\/Type \/Pages\s*\/Count (\d+)/.exec(bytes)?.[1] ?? /\/Count (\d+)/.exec(bytes)?.[1]);
    };
    expect(await pages([])).toBe(1);
    expect(await pages([writer(), writer({ isAnonymous: true, neededBy: [] })])).toBe(1);
    expect(
      await pages(Array.from({ length: 120 }, (_, index) => writer({ pattern: `Lehr/Zone ${index}` }))),
    ).toBeGreaterThan(2);
  });

  it('has letters of other languages, and marks those that no font of it has', () => {
    expect(runsOf('Łódź “°C” …')).toEqual([
      { text: 'Ł', font: 'Extended' },
      { text: 'ód', font: 'Sans' },
      { text: 'ź', font: 'Extended' },
      { text: ' “°C” …', font: 'Sans' },
    ]);
    expect(runsOf('炉1')).toEqual([{ text: '?1', font: 'Sans' }]);
    expect(runsOf('')).toEqual([]);
  });
});
