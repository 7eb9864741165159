import { FormControl } from '@angular/forms';
import { machine, serverApplication } from '@loyal-hinge/contract';
import { fits } from './fits';
import { lines, linesOf } from './lines';

const saysOf = (text: string, schema = lines(machine.shape.addresses)): unknown =>
  fits(schema)(new FormControl(text))?.['fits'];

describe('a field with one entry a line', () => {
  it('lets blanks and empty lines be', () => {
    expect(linesOf(' 10.0.0.1 \n\n10.0.0.2\n')).toEqual(['10.0.0.1', '10.0.0.2']);
    expect(saysOf(' 10.0.0.1 \n\n10.0.0.2\n')).toBeUndefined();
    expect(saysOf('')).toBeUndefined();
  });

  it('names the line that is wrong', () => {
    expect(saysOf('10.0.0.1\n10.0.0.300')).toBe('“10.0.0.300”: This is no IP address.');
    expect(saysOf('4840\nseveral', lines(serverApplication.shape.ports, Number))).toMatch(/^“several”: /);
  });

  it('says so where there are too many', () => {
    expect(saysOf('10.0.0.1\n'.repeat(21))).toBe('At most 20 entries.');
  });
});
