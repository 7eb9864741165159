import { isNull, notInArray, or } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { AnyPgColumn } from 'drizzle-orm/pg-core';
import { sql } from 'drizzle-orm';
import { serverProcesses } from '../database/schema.js';

/** True for rows whose server process is gone, or was never noted. */
export const ofNoProcess = (serverId: AnyPgColumn): SQL | undefined =>
  or(isNull(serverId), notInArray(serverId, sql`(select ${serverProcesses.id} from ${serverProcesses})`));
