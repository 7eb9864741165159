import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { given } from '../testing/given.js';

describe('a second copy on the same data', () => {
  it('does not start, and says where the first one is', async () => {
    const url = given('HINGE_TEST_TOLD_URL');
    const second = promisify(execFile)(process.execPath, [join(process.cwd(), 'scripts/test.mjs')]);
    await expect(second).rejects.toMatchObject({
      code: 1,
      stderr: expect.stringContaining(`One is running already, at ${url}`),
    });
  });
});
