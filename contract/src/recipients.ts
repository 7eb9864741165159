import * as z from 'zod';
import { quietHours, timeZone } from './rounds.js';

const host = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9._:-]{1,253}$/, 'This is no host name and no address.');
const mailAddress = z.email('This is no mail address.').max(254);

export const mailSecurities = ['tls', 'starttls', 'none'] as const;
/** By which way somebody is told. */
export const recipientWay = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('mail'),
    host,
    port: z.int().min(1, 'A port is from 1 to 65535.').max(65_535, 'A port is from 1 to 65535.'),
    /** `tls` from the first byte, `starttls` before anything is said, or in the clear. */
    security: z.enum(mailSecurities),
    from: mailAddress,
    to: z.array(mailAddress).min(1, 'Write at least one mail address.').max(20, 'At most 20 mail addresses.'),
    /** null: the server wants no sign-in. */
    userName: z.string().trim().min(1, 'Write a user name.').max(200).nullable(),
  }),
  z.object({
    kind: z.literal('webhook'),
    url: z
      .url({ protocol: /^https?$/, error: 'Write an address such as https://watch.example/hinge.' })
      .max(2000)
      .refine((url) => !/^https?:\/\/[^/?#]*@/i.test(url), 'Write no user and no password into the address.'),
  }),
]);
export type RecipientWay = z.infer<typeof recipientWay>;

/** Somebody who is told when links fall and work again, as it is wanted. */
export const recipientWish = z
  .object({
    name: z.string().trim().min(1, 'It needs a name.').max(80),
    way: recipientWay,
    /** Changes within this time make one message. */
    groupMinutes: z.int().min(0, 'No less than 0 minutes.').max(1440, 'At most a day.'),
    /** What happens in quiet hours is told after them. */
    quiet: quietHours.nullable(),
    zone: timeZone,
    isPaused: z.boolean(),
    /** The password of the mail server, or the key by which messages to a webhook are signed; null: the one that is kept. */
    secret: z.string().max(1000).nullable(),
  })
  .superRefine(({ way, secret }, context) => {
    if (way.kind !== 'webhook' || secret === null || secret.length >= 16) return;
    context.addIssue({ code: 'custom', path: ['secret'], message: 'The key needs at least 16 letters.' });
  });
export type RecipientWish = z.infer<typeof recipientWish>;

export const recipientRow = z.object({
  id: z.string(),
  name: z.string(),
  way: recipientWay,
  groupMinutes: z.int(),
  quiet: quietHours.nullable(),
  zone: z.string(),
  isPaused: z.boolean(),
  hasSecret: z.boolean(),
  lastToldAt: z.string().nullable(),
  /** Why the last message could not be sent; null: it was, or there was none. */
  fault: z.string().nullable(),
  /** When it is tried again. */
  nextTryAt: z.string().nullable(),
});
export type RecipientRow = z.infer<typeof recipientRow>;

export const recipientsView = z.object({ recipients: z.array(recipientRow) });
