import { StatusCodes } from 'node-opcua-status-code';
import { statusCodes } from '@loyal-hinge/core';

describe('the table of status codes', () => {
  it.each(statusCodes.map(({ name, code }) => ({ name, code })))(
    'has the number that the protocol library has for $name',
    ({ name, code }) => {
      const known = (StatusCodes as unknown as Record<string, { value: number } | undefined>)[name];
      expect(known?.value).toBe(code);
    },
  );
});
