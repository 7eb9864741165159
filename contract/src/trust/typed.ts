import * as z from 'zod';

/** A point in time as it is told, in ISO 8601. */
export const instant = z.string();

/** A passphrase that exists already. */
export const passphrase = z.string().min(1, 'The passphrase is needed.').max(500);

export const pem = z.string().min(1, 'It is empty.').max(200_000);
