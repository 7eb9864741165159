import * as z from 'zod';
import { recipientRow, recipientsView, recipientWish } from '../recipients.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** Who is told when links fall and work again. */
export const recipientRoutes = {
  recipients: route(at.recipients, {
    summary: 'Who is told when links fall, by which way, and whether that works',
    role: 'engineer',
    answer: recipientsView,
  }),
  addRecipient: route(at.addRecipient, {
    summary: 'Has somebody told from now on',
    role: 'administrator',
    body: recipientWish,
    answer: recipientRow,
  }),
  putRecipient: route(at.putRecipient, {
    summary: 'Changes who is told, or how',
    role: 'administrator',
    body: recipientWish,
    answer: recipientRow,
  }),
  removeRecipient: route(at.removeRecipient, {
    summary: 'Has somebody told no more',
    role: 'administrator',
    answer: z.object({}),
  }),
  tryRecipient: route(at.tryRecipient, {
    summary: 'Sends a message now that says that it is a test',
    role: 'administrator',
    answer: z.object({}),
  }),
};
