import { readTicket, writeTicket } from './ticket';

const ticket = {
  kind: 'tunnel-end' as const,
  id: 'hot-end-dials',
  name: 'Hot end, dialling end – Öfen',
  address: 'hinge.works.example',
  port: 4842,
  fingerprint: 'AB'.repeat(32),
  secret: 's'.repeat(43),
};

describe('a ticket', () => {
  it('is read as it was written', () => {
    expect(readTicket(`  ${writeTicket(ticket)}\n`)).toEqual(ticket);
  });

  it.each([
    ['cut off', writeTicket(ticket).slice(0, -20)],
    ['without its mark', writeTicket(ticket).slice(13)],
    ['with a port that is none', writeTicket({ ...ticket, port: 70_000 })],
    ['endless', `hinge-ticket:${'A'.repeat(10_000)}`],
    ['empty', ''],
  ])('is none when it is %s', (_, text) => {
    expect(readTicket(text)).toBeNull();
  });
});
