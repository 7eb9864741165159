import fc from 'fast-check';
import { unfitText } from '@loyal-hinge/contract';
import { fitted } from './fitted.js';

describe('what other machines say, as it is kept', () => {
  it('holds nothing that the database can’t keep, wherever it stands', () => {
    fc.assert(
      fc.property(fc.anything({ key: fc.string({ unit: 'binary' }) }), (value) => unfitText(fitted(value)) === null),
    );
    expect(fitted({ 'a\u0000': ['\ud800', { b: 'x\u0000y😀' }] })).toEqual({
      'a\ufffd': ['\ufffd', { b: 'x\ufffdy😀' }],
    });
  });

  it('is otherwise as it was', () => {
    const value = { a: 1, b: [true, null, 'Öfen'], c: { d: '\n\u2028' } };
    expect(fitted(value)).toEqual(value);
  });
});
