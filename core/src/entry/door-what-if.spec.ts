import { linkOf, serverOf, takes } from '../testing/doors.js';
import { doorWhatIf } from './door-what-if.js';
import { endpointsUnder } from './door-rules.js';
import type { DoorRule } from './door-rules.js';
import { doorKey } from './doors.js';
import { sayNeed } from './ways-in.js';

const rule = (differs: Partial<DoorRule>): DoorRule => ({
  serverId: null,
  policy: null,
  mode: null,
  token: null,
  to: 'closed',
  ...differs,
});
const both = [
  takes('None', 'None', 'Anonymous', 'UserName'),
  takes('Basic256Sha256', 'SignAndEncrypt', 'UserName', 'Certificate'),
];
const turns = (servers: Parameters<typeof doorWhatIf>[0], ...rules: readonly DoorRule[]) =>
  doorWhatIf(servers, rules).map(({ linkId, turn, after }) => [linkId, turn, after && doorKey(after)]);

describe('rules on doors', () => {
  it('close what fits them, and leave the same list where nothing does', () => {
    const [none] = both;
    expect(endpointsUnder('furnace', both, [rule({ token: 'UserName' })])).toEqual([
      { ...none, userTokens: [none?.userTokens[0]] },
      { ...both[1], userTokens: [both[1]?.userTokens[1]] },
    ]);
    expect(endpointsUnder('furnace', both, [rule({ mode: 'None' })])).toEqual([both[1]]);
    expect(endpointsUnder('furnace', both, [rule({ policy: 'Basic256' })])).toBe(both);
    expect(endpointsUnder('furnace', both, [rule({ serverId: 'lehr' })])).toBe(both);
  });

  it('open a door beside the others, with the server’s own certificate', () => {
    const open = rule({ policy: 'Aes256_Sha256_RsaPss', mode: 'SignAndEncrypt', token: 'UserName', to: 'open' });
    const opened = endpointsUnder('furnace', both, [open]);
    expect(opened).toHaveLength(3);
    expect(opened[2]).toMatchObject({ certificate: both[1]?.certificate, endpointUrl: both[1]?.endpointUrl });
    expect(endpointsUnder('furnace', opened, [open])).toEqual(opened);
    expect(endpointsUnder('furnace', both, [{ ...open, mode: null }])).toBe(both);
    expect(endpointsUnder('furnace', [], [open])).toEqual([]);
  });

  it('are followed one after the other', () => {
    const opens = rule({ policy: 'Basic256Sha256', mode: 'SignAndEncrypt', token: 'UserName', to: 'open' });
    expect(endpointsUnder('furnace', both, [rule({ token: 'UserName' }), opens])[1]?.userTokens).toHaveLength(2);
  });
});

describe('when doors are closed', () => {
  const modern = linkOf('modern', ['None', 'Basic256Sha256']);
  const old = linkOf('old', ['None'], { anonymous: true });
  const furnace = serverOf('furnace', both, modern, old);

  it('a link that has another one moves, one that has none is cut off, and the others are not told', () => {
    expect(turns([furnace], rule({ policy: 'None' }))).toEqual([['old', 'cut off', null]]);
    expect(turns([furnace], rule({ policy: 'Basic256Sha256' }))).toEqual([['modern', 'cut off', null]]);
    const signedToo = serverOf('furnace', [...both, takes('Basic256Sha256', 'Sign', 'UserName')], modern);
    expect(turns([signedToo], rule({ mode: 'SignAndEncrypt' }))).toEqual([
      ['modern', 'moves', 'Basic256Sha256|Sign|UserName'],
    ]);
    expect(turns([furnace], rule({ token: 'Certificate' }))).toEqual([]);
  });

  it('who is cut off is told the cheapest way back in', () => {
    const [turn] = doorWhatIf([furnace], [rule({ policy: 'None' })]);
    expect(turn?.way?.needs.map((need) => sayNeed(need, (id) => id))).toEqual([
      'old-client gets Basic256Sha256.',
      'old signs in by user name and password.',
    ]);
  });

  it('a server whose every door is closed can open one like those that it had', () => {
    const [turn] = doorWhatIf([serverOf('furnace', both, modern)], [rule({})]);
    expect(turn?.way?.needs.map((need) => sayNeed(need, (id) => id))).toEqual([
      'furnace opens Basic256Sha256 (SignAndEncrypt), user name and password.',
    ]);
  });

  it('a chosen endpoint holds a link, and giving the choice up lets it in', () => {
    const held = linkOf('held', ['None', 'Basic256Sha256'], {
      chosenEndpoint: { policy: 'None', mode: 'None' },
      anonymous: true,
    });
    const open = [takes('None', 'None', 'Anonymous'), takes('Basic256Sha256', 'SignAndEncrypt', 'UserName')];
    const [turn] = doorWhatIf([serverOf('furnace', open, held)], [rule({ mode: 'None' })]);
    expect(turn?.way?.needs.map(({ kind }) => kind)).toEqual(['free choice', 'identity']);
  });

  it('and opened, one that was kept out gets in', () => {
    const kept = linkOf('kept', ['Aes128_Sha256_RsaOaep']);
    const opens = rule({ policy: 'Aes128_Sha256_RsaOaep', mode: 'SignAndEncrypt', token: 'UserName', to: 'open' });
    expect(turns([serverOf('furnace', both, kept)], opens)).toEqual([
      ['kept', 'gets in', 'Aes128_Sha256_RsaOaep|SignAndEncrypt|UserName'],
    ]);
  });
});
