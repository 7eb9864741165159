import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';

/** That a column has one of some values, however many; undefined, so that nothing is left out, where no values are given. */
export const ofThese = (column: PgColumn, values: readonly string[] | undefined): SQL | undefined =>
  values && sql`${column} = any(${sql.param([...values])}::text[])`;
