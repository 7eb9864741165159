import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('handouts');
const linkId = 'line-display--lehr';
let url: string;
let viewer: Caller;
let caseId: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  const engineer = await signIn('engineer', url, ownPassword);
  viewer = await signIn('viewer', url, ownPassword);
  const link = (await engineer.call('plant')).links.find(({ id }) => id === linkId) as never as {
    readonly endpointUrl: string;
  };
  await engineer.call('putLink', { id: linkId }, {
    ...link,
    endpointUrl: 'opc.tcp://lehr.marrowby.example:4999',
  } as never);
  await engineer.call('checkLink', { linkId }, {});
  const found = await until(
    async () => (await viewer.call('casebook')).cases.find((one) => one.linkId === linkId),
    (one) => one !== undefined,
  );
  caseId = found?.id ?? '';
});
afterAll(() => own.remove());

async function report(query: Readonly<Record<string, string>>) {
  const answer = await fetch(`${url}/api/hand-outs?${new URLSearchParams(query)}`, { headers: viewer.headers });
  const bytes = Buffer.from(await answer.arrayBuffer());
  const { headers, status } = answer;
  return {
    status,
    type: headers.get('content-type'),
    file: headers.get('content-disposition'),
    bytes,
    text: String(bytes),
  };
}

describe('a report', () => {
  it('has the same figures as the pages, for each reader', async () => {
    const { availability, rows } = await viewer.query('timeline', { days: '7', find: '' });
    const row = rows.find((one) => one.linkId === linkId);
    const csv = await report({ about: 'plant', reader: 'auditor', form: 'csv' });
    expect(csv).toMatchObject({ status: 200, type: expect.stringContaining('text/csv') as string });
    expect(csv.text).toContain(`${row?.name},parted,0.0 %`);
    expect(csv.text).toMatch(/Cases\r\nWhat,Link,First/);
    const html = await report({ about: 'plant', reader: 'manager', form: 'html' });
    expect(html.text).toContain(availability.usable === null ? 'nobody has looked' : 'The links could be used');
    expect(html.text).toContain('One case is open.');
    const doer = await report({
      about: 'zone',
      id: (await viewer.call('rounds')).zones[0]?.id ?? '',
      reader: 'technician',
      form: 'html',
    });
    expect(doer.status).toBe(200);
  });

  it('is on one link or one case, with its steps, and what to do', async () => {
    const link = await report({ about: 'link', id: linkId, reader: 'technician', form: 'html' });
    expect(link.text).toContain('How far it comes');
    expect(link.text).toMatch(/<td>Reach<\/td><td>fails<\/td>/);
    expect(link.text).toContain('What to do');
    const one = await report({ about: 'case', id: caseId, reader: 'auditor', form: 'html' });
    expect(one.text).toContain('What changed before');
    expect(one.text).toContain('Link changed by engineer: Line display to Lehr.');
  });

  it('is a PDF file, too, with a name of its own', async () => {
    const pdf = await report({ about: 'case', id: caseId, reader: 'manager', form: 'pdf' });
    expect(pdf.bytes.subarray(0, 5).toString()).toBe('%PDF-');
    expect(pdf).toMatchObject({ type: 'application/pdf', file: expect.stringMatching(/\.pdf"?$/) as string });
  });

  it('says what is wrong with a wish', async () => {
    expect((await report({ about: 'zone', id: 'none', reader: 'manager', form: 'pdf' })).status).toBe(404);
    expect((await report({ about: 'case', id: 'none', reader: 'manager', form: 'pdf' })).status).toBe(404);
    expect((await report({ about: 'plant', reader: 'nobody', form: 'pdf' })).status).toBe(400);
    expect((await report({ about: 'plant', reader: 'manager', form: 'pdf', days: '0' })).status).toBe(400);
  });
});
