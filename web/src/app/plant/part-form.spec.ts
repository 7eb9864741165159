import type { Link } from '@loyal-hinge/core';
import { Shown } from '../../testing/show';
import type { Offered } from './forms/offered';
import { PartForm } from './part-form';
import type { Editing, PlantRow } from './state';

const none: Offered = {
  zones: [],
  choices: { machines: null, clients: null, servers: null, userCertificates: null },
  known: [],
  matches: null,
};
const offered: Offered = { ...none, zones: [{ id: 'hot-end', name: 'Hot End', order: 1 }] };
const machine = {
  id: 'furnace',
  zoneId: 'hot-end',
  name: 'Furnace',
  description: 'hot',
  hostNames: ['furnace.works.example'],
  addresses: ['10.0.0.1', '10.0.0.2'],
};
const link: Link = {
  id: 'a--b',
  name: 'A to B',
  clientId: 'a',
  serverId: 'b',
  endpointUrl: 'opc.tcp://b :4840',
  pinnedAddress: '10.0.0.1',
  chosenEndpoint: null,
  needs: [{ path: 'ns=2;s=Crown:raw', uses: ['read'] }],
  identity: { kind: 'user', userName: 'u' },
  floor: 'signed',
  kind: 'ua',
  staleAfterMs: 1500,
};
const placed = { machineId: 'furnace', applicationUri: 'urn:a' };

async function open(
  editing: Editing,
  given = offered,
): Promise<{ shown: Shown<PartForm>; saved: readonly PlantRow[] }> {
  const shown = Shown.of(PartForm, { editing, offered: given });
  await shown.fixture.whenStable();
  return { shown, saved: shown.heard(shown.part.saved) };
}
const fieldOf = (shown: Shown<PartForm>, label: string): HTMLInputElement => {
  const found = shown.all('label').find(({ textContent }) => textContent?.trim().startsWith(label));
  const input = document.getElementById(found?.getAttribute('for') ?? '') as HTMLInputElement | null;
  if (!input) throw new Error(`no field ${label}`);
  return input;
};
async function type(shown: Shown<PartForm>, label: string, words: string): Promise<void> {
  begin(shown, label, words);
  await shown.fixture.whenStable();
}
function begin(shown: Shown<PartForm>, label: string, words: string): void {
  const field = fieldOf(shown, label);
  field.value = words;
  field.dispatchEvent(new Event('input', { bubbles: true }));
  shown.fixture.detectChanges();
}

describe('the form for a part of the plant', () => {
  it('makes an id of the name, until one is typed by hand', async () => {
    const { shown } = await open({ part: 'zones', row: null });
    await type(shown, 'Name', 'Cold End');
    expect(fieldOf(shown, 'Id').value).toBe('cold-end');
    await type(shown, 'Id', 'cold');
    await type(shown, 'Name', 'Cold End 2');
    expect(fieldOf(shown, 'Id').value).toBe('cold');
  });

  it('says at each field what is missing, and sends nothing', async () => {
    const { shown, saved } = await open({ part: 'zones', row: null });
    shown.press(/^Save$/);
    await shown.fixture.whenStable();
    expect(shown.all('[role=alert]').map(({ textContent }) => textContent?.trim())).toEqual([
      'A name is needed.',
      'An id is needed.',
    ]);
    expect(saved).toEqual([]);
    expect(document.activeElement).toBe(fieldOf(shown, 'Name'));
  });

  it('keeps what was typed where the server refuses, and shows what is wrong at its field', async () => {
    const { shown } = await open({ part: 'zones', row: null });
    await type(shown, 'Name', 'Cold End');
    const faults = [{ place: 'name', says: 'Taken.' }];
    shown.give({ problem: { title: 'Not valid', detail: 'No.', remedy: 'Change it.', faults } });
    await shown.fixture.whenStable();
    const alerts = shown.all('[role=alert]').map(({ textContent }) => textContent?.trim());
    expect(alerts[0]).toContain('Not valid');
    expect(alerts).toContain('Taken.');
    expect(fieldOf(shown, 'Name').value).toBe('Cold End');
  });

  it.each<[string, Editing]>([
    ['a zone', { part: 'zones', row: { id: 'hot-end', name: 'Hot End', order: 1, targetLevel: 3 } }],
    ['a machine', { part: 'machines', row: machine }],
    ['a server', { part: 'applications', row: { kind: 'server', id: 'b', name: 'B', ...placed, ports: [4840, 4841] } }],
    [
      'a client',
      {
        part: 'applications',
        row: { kind: 'client', id: 'a', name: 'A', ...placed, securityPolicies: ['None'], securityModes: ['None'] },
      },
    ],
    ['a link', { part: 'links', row: link }],
    ['an anonymous link', { part: 'links', row: { ...link, identity: { kind: 'anonymous' } } }],
  ])('gives %s back as it was', async (_, editing) => {
    const { shown, saved } = await open(editing);
    shown.press(/^Save$/);
    await shown.fixture.whenStable();
    expect(saved).toEqual([editing.row]);
  });

  it('says how a URL should be, and writes it so when asked', async () => {
    const { shown, saved } = await open({ part: 'links', row: link });
    shown.press(/Use this/);
    shown.press(/^Save$/);
    await shown.fixture.whenStable();
    expect(saved).toMatchObject([{ endpointUrl: 'opc.tcp://b:4840' }]);
  });

  it('asks for the choice that nobody has made', async () => {
    const { shown, saved } = await open({ part: 'links', row: null }, none);
    shown.press(/^Save$/);
    await shown.fixture.whenStable();
    expect(shown.all('[role=alert]').filter(({ textContent }) => textContent?.trim() === 'Choose one.')).toHaveLength(
      2,
    );
    expect(saved).toEqual([]);
  });

  it('has the needed items of a link looked up once nobody types, and says what they stand for', async () => {
    const quiet = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 600));
    const opened = await open({ part: 'links', row: link });
    const asked = opened.shown.heard(opened.shown.part.lookUp);
    await quiet();
    expect(asked).toEqual([{ serverId: 'b', userName: 'u', paths: ['ns=2;s=Crown:raw'] }]);
    // Between the two no time passes, however busy the machine is.
    begin(opened.shown, 'Needed items', 'Lehr/*: read\nLehr/Speed: write');
    begin(opened.shown, 'Needed items', 'Lehr/**: read\nLehr/Speed: write');
    await quiet();
    expect(asked.slice(1)).toEqual([{ serverId: 'b', userName: 'u', paths: ['Lehr/**', 'Lehr/Speed'] }]);
    const paths = [
      { path: 'Lehr/**', isPattern: true, count: 5, examples: ['Lehr/A', 'Lehr/B'] },
      { path: 'Lehr/Speed', isPattern: false, count: 0, examples: [] },
    ];
    const matches = { seenAt: '2026-03-01T12:00:00.000Z', as: 'u', paths };
    const { shown } = await open({ part: 'links', row: link }, { ...offered, matches });
    expect(shown.text).toMatch(/Lehr\/\*\* ?5 variables match: Lehr\/A, Lehr\/B and 3 more/);
    expect(shown.text).toMatch(/Lehr\/Speed ?was not seen/);
    const unknown = await open({ part: 'links', row: link }, { ...offered, matches: { ...matches, seenAt: null } });
    expect(unknown.shown.text).toContain('Which nodes this server has is not known yet');
  });
});
