import * as z from 'zod';

/** SHA-1 of a certificate’s bytes, as Part 6 §6.2.2 names it. */
export const thumbprint = z.string().regex(/^[0-9A-F]{40}$/, 'A thumbprint has 40 hexadecimal digits.');
