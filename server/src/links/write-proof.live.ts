import type { AuditPage } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('writing');
let engineer: Caller;
let viewer: Caller;
let url: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
});
afterAll(() => own.remove());

const path = 'Lehr/Roller speed wanted';
const linkId = 'line-display--lehr';
const proof = { paths: [path], why: 'Permit 12, before the night shift.' };

async function auditOf({ headers }: Caller, query: Readonly<Record<string, string>>): Promise<AuditPage> {
  const answer = await fetch(`${url}/api/audit?${new URLSearchParams(query)}`, { headers });
  return (await answer.json()) as AuditPage;
}

async function ended(checkId: string) {
  const { check, facts, assessment } = await until(
    () => engineer.call('check', { checkId }),
    ({ check: { endedAt } }) => endedAt !== null,
  );
  return { check, facts, write: assessment.steps.find(({ step }) => step === 'write') };
}

describe('writing an item with the value that it has', () => {
  it('is asked for by an engineer, item by item, and only where the link needs it', async () => {
    expect(await viewer.refused('proveWrites', { linkId }, proof)).toMatchObject({ status: 403 });
    const other = { ...proof, paths: [path, 'Lehr/Zone B/Temperature'] };
    expect(await engineer.refused('proveWrites', { linkId }, other)).toMatchObject({
      status: 400,
      faults: [{ place: 'paths.1', says: 'Line display to Lehr does not need to write Lehr/Zone B/Temperature.' }],
    });
    expect(await engineer.refused('proveWrites', { linkId: 'nowhere' }, proof)).toMatchObject({ status: 404 });
    const found = await auditOf(engineer, { action: 'write proof asked for' });
    expect(found.entries).toEqual([]);
  });

  it('proves the step, stands in the trail with both values, and holds for later checks', async () => {
    const { id } = await engineer.call('proveWrites', { linkId }, proof);
    const { check, facts, write } = await ended(id);
    expect(check).toMatchObject({ state: 'done', found: 'Sound' });
    expect(facts).toContainEqual(expect.objectContaining({ kind: 'item-written', path, outcome: 'same value' }));
    expect(write).toMatchObject({ verdict: 'holds', source: 'tried' });
    const { entries } = await auditOf(engineer, { subject: linkId });
    const [written, asked] = entries.filter(({ action }) => /writ/.test(action));
    expect(asked).toMatchObject({ action: 'write proof asked for', actor: 'engineer', details: { why: proof.why } });
    expect(written).toMatchObject({ action: 'item written', actor: 'engineer', details: { path, why: proof.why } });
    expect(written?.details['before']).toBe(written?.details['after']);
    const later = await ended((await engineer.call('checkLink', { linkId }, {})).id);
    expect(later.facts.map(({ kind }) => kind)).not.toContain('item-written');
    expect(later.write).toMatchObject({ verdict: 'holds', source: 'reported' });
    expect((await ended((await engineer.call('checkLink', { linkId }, {})).id)).write?.source).toBe('reported');
  });
});
