import { aboutWords, detailsOf, detailsText } from './details';

describe('the details of a row of the trail', () => {
  it('are what differs between before and after', () => {
    expect(
      detailsOf({ before: { role: 'viewer', isDisabled: false }, after: { role: 'engineer', isDisabled: false } }),
    ).toEqual([{ name: 'role', before: 'viewer', value: 'engineer' }]);
  });

  it('are a value that became another one', () => {
    expect(detailsText({ before: null, after: 'opc.tcp://furnace:4840', by: 'mending' })).toBe(
      'nothing → opc.tcp://furnace:4840; by mending',
    );
  });

  it('are put into words, however they are nested', () => {
    expect(detailsText({ crlNumber: 4, links: ['a', 'b'], held: true, left: {}, inner: { keyKept: false } })).toBe(
      'crl number 4; links a, b; held yes; left; inner key kept no',
    );
  });

  it('are nothing where nothing is told', () => expect(detailsText({})).toBe(''));
});

describe('what a row of the trail is about', () => {
  const id = '651b7283-bad7-45cf-90d4-567e8041eef4';

  it('is its subject, where that says something', () =>
    expect(aboutWords('night shift', { name: 'day shift' })).toBe('night shift'));

  it('is the name that its details tell of an id, now or before', () => {
    expect(aboutWords(id, { name: 'press.log', bytes: 577 })).toBe('press.log');
    expect(aboutWords(id, { before: { name: 'old' }, after: { name: 'new' } })).toBe('new');
    expect(aboutWords(id, { before: { title: 'gone' }, after: null })).toBe('gone');
    expect(aboutWords(id, { name: '', case: 'The port is refused' })).toBe('The port is refused');
  });

  it('is the beginning of an id of which nothing is told', () => {
    expect(aboutWords(id, {})).toBe('651b7283 …');
    expect(aboutWords(id, { name: 5, before: 'a', after: ['name'] })).toBe('651b7283 …');
  });
});
