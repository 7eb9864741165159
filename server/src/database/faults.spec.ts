import { isDatabaseAway } from './faults';

const met = (code: string, message = 'met'): Error =>
  new Error('Failed query: select 1', { cause: Object.assign(new Error(message), { code }) });

describe('a fault of the database', () => {
  it.each([
    ['ECONNREFUSED', 'nobody listens'],
    ['57P01', 'it is being stopped'],
    ['08006', 'the connection broke'],
    ['53300', 'all its connections are taken'],
  ])('%s passes: %s', (code) => {
    expect(isDatabaseAway(met(code))).toBe(true);
  });

  it.each([
    ['53100', 'the disk is full'],
    ['42501', 'it is not allowed'],
    ['22P02', 'the value is unfit'],
    ['', 'nobody knows why'],
  ])('%s does not pass by waiting: %s', (code) => {
    expect(isDatabaseAway(met(code))).toBe(false);
  });

  it('passes where a connection could not be had in time', () => {
    expect(isDatabaseAway(met('', 'timeout exceeded when trying to connect'))).toBe(true);
    expect(isDatabaseAway('timeout exceeded when trying to connect')).toBe(false);
  });
});
