import { Site, refused } from '../../testing/site';
import { authority, parties, thumbprintOf, ticket } from '../../testing/trust-answers';

const answers = {
  trustParties: parties(),
  authorities: { authorities: [authority()] },
  pullTickets: { tickets: [ticket(), ticket({ id: 't2', application: 'Lehr server', state: 'fetched', asks: null })] },
};

describe('the page of tickets', () => {
  it('counts the requests that wait to be signed', async () => {
    const site = await Site.open('/trust/tickets', answers);
    expect(site.headline).toBe('1 request waits to be signed.');
    expect(site.rows().map(([who, asks, state]) => [who, asks, state])).toEqual([
      ['Crane server', 'CN=Crane', 'waits to be signed'],
      ['Lehr server', '', 'fetched'],
    ]);
  });

  it('makes a ticket for an application that is none of the product’s own, and shows its token once', async () => {
    const token = 'a-token-of-more-than-twenty-letters';
    const site = await Site.open('/trust/tickets', { ...answers, makePullTicket: { ticket: ticket(), token } });
    await site.press(/Create a ticket/);
    expect([site.asked('makePullTicket'), site.faults]).toEqual([[], ['Choose one.']]);
    expect(await site.offered(/^For/)).not.toContain('Line display');
    await site.pick(/^Crane server$/);
    await site.fill(/^Valid for/, '3');
    await site.press(/Create a ticket/);
    expect(site.asked('makePullTicket')).toEqual([{ applicationId: 'crane', validHours: 3 }]);
    expect(site.text).toContain(token);
  });

  it('has the request signed by the plant’s authority', async () => {
    const site = await Site.open('/trust/tickets', { ...answers, signPullTicket: refused('Not that passphrase.') });
    await site.press(/^Sign …$/);
    await site.fill(/Passphrase of Works Authority/, 'open it');
    await site.press(/^Sign$/);
    expect(site.asked('signPullTicket')).toEqual([
      { authority: thumbprintOf('C'), validDays: 730, passphrase: 'open it' },
    ]);
    expect(site.one('[role=alert]').textContent).toContain('Not that passphrase.');
  });
});
