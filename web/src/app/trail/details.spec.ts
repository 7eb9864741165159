import { detailsOf, detailsText } from './details';

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
