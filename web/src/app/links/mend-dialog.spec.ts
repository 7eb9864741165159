import type { Remedy } from '@loyal-hinge/core';
import { Shown } from '../../testing/show';
import { MendDialog } from './mend-dialog';
import type { Mending } from './state';

const remedy = (change: Remedy['change']): Remedy => ({
  title: 'Correct it',
  target: 'the link',
  before: 'opc.tcp://old:4840',
  after: 'opc.tcp://new:4840',
  change,
  restart: false,
  undo: 'Set it back.',
});
const mending = (change: Remedy['change'] | null, differs: Partial<Mending> = {}): Mending => ({
  remedy: change ? remedy(change) : null,
  certificate: null,
  busy: false,
  problem: null,
  order: null,
  ...differs,
});
const url = {
  kind: 'set-endpoint-url',
  linkId: 'l',
  before: 'opc.tcp://old:4840',
  after: 'opc.tcp://new:4840',
} as const;

describe('the dialog before a change', () => {
  it('says what will be changed, and how to go back, before anything is done', () => {
    const shown = Shown.of(MendDialog, { mending: mending(url) });
    expect(shown.text).toMatch(/Correct it.*Before.*opc\.tcp:\/\/old:4840.*Way back.*Set it back/);
    expect(shown.text).toContain('audit trail');
  });

  it('carries out the URL as it was typed', async () => {
    const shown = Shown.of(MendDialog, { mending: mending(url) });
    const carried = shown.heard(shown.part.carryOut);
    await shown.type('input[aria-label="Endpoint URL"]', 'opc.tcp://newer:4841');
    shown.press(/Carry out/);
    expect(carried).toEqual([{ change: { ...url, after: 'opc.tcp://newer:4841' } }]);
  });

  it('carries out nothing without a password where one is needed', async () => {
    const change = { kind: 'set-password', linkId: 'l', userName: 'display' } as const;
    const shown = Shown.of(MendDialog, { mending: mending(change) });
    const carried = shown.heard(shown.part.carryOut);
    shown.press(/Carry out/);
    await shown.fixture.whenStable();
    expect([carried, shown.all('[role=alert]')[0]?.textContent]).toEqual([[], 'A password is needed.']);
    await shown.type('input[type=password]', 'glass');
    shown.press(/Carry out/);
    expect(carried).toEqual([{ change, password: 'glass' }]);
  });

  it('takes a password for the new target with it, and says what becomes of the kept one without', async () => {
    const shown = Shown.of(MendDialog, { mending: mending(url), signsInAs: 'display' });
    const carried = shown.heard(shown.part.carryOut);
    expect(shown.text).toContain('not sent there until an approver releases it');
    shown.press(/Carry out/);
    await shown.type('input[type=password]', 'glass');
    shown.press(/Carry out/);
    expect(carried).toEqual([{ change: url }, { change: url, password: 'glass' }]);
    const byApprover = Shown.of(MendDialog, { mending: mending(url), signsInAs: 'display', mayRelease: true });
    expect(byApprover.text).toContain('is sent to the new target');
  });

  it('lets a certificate be trusted only after it is shown', () => {
    const change = { kind: 'trust-server-certificate', linkId: 'l', clientId: 'c', thumbprint: 'AB' } as const;
    expect(Shown.of(MendDialog, { mending: mending(change) }).button(/Carry out/).disabled).toBe(true);
  });

  it('can’t be pressed twice', () => {
    expect(Shown.of(MendDialog, { mending: mending(url, { busy: true }) }).button(/Carrying out/).disabled).toBe(true);
  });
});
