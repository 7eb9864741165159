import type { Queryable } from '../database/database.js';
import { readSetting } from '../database/settings.js';

/** Whether the plant wants a second person for whatever gives or takes trust, or lets a secret or a rule go. */
export const wantsAnother = async (db: Queryable): Promise<boolean> =>
  (await readSetting(db, 'approvedByAnother')) === true;
