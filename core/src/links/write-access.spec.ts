import { facts } from '../testing/builders.js';
import { writeAccess } from './write-access.js';
import type { ItemRights } from './write-access.js';

const rights = (...told: Parameters<typeof facts.rights>): ItemRights => facts.rights(...told) as ItemRights;
const may = ['CurrentRead', 'CurrentWrite'];

describe('write access, calculated', () => {
  it.each([
    ['allowed by UserAccessLevel alone, where the server tells no more', rights(may), 'None', 'allowed'],
    ['denied without CurrentWrite', rights(['CurrentRead'], ['Write']), 'SignAndEncrypt', 'denied'],
    ['denied where no role has Write', rights(may, ['Browse', 'Read']), 'SignAndEncrypt', 'denied'],
    ['allowed where both say so', rights(may, ['Read', 'Write'], []), 'SignAndEncrypt', 'allowed'],
    [
      'denied on a signed channel where encryption is required',
      rights(may, null, ['EncryptionRequired']),
      'Sign',
      'denied',
    ],
    [
      'allowed on an encrypted one',
      rights(may, null, ['EncryptionRequired', 'SigningRequired']),
      'SignAndEncrypt',
      'allowed',
    ],
    ['denied without security where signing is required', rights(may, null, ['SigningRequired']), 'None', 'denied'],
    [
      'not known without UserAccessLevel, whatever else is told',
      rights(null, ['Write'], []),
      'SignAndEncrypt',
      'unknown',
    ],
  ] as const)('is %s', (_, told, mode, wanted) => {
    expect(writeAccess(told, mode)).toMatchObject({ may: wanted, says: expect.stringMatching(/^Furnace\/Crown.*\.$/) });
  });
});
