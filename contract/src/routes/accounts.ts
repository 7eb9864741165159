import * as z from 'zod';
import {
  accessChanges,
  accessTurns,
  accessView,
  accountsPage,
  accountsView,
  newPassword,
  sealedPassword,
} from '../accounts.js';
import { userCertificateGift, userCertificateView, userCertificatesView, userTrust } from '../user-certificates.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** Who signs in at servers, with which roles, and what the servers know of them. */
export const accountRoutes = {
  accounts: route(at.accounts, {
    summary: 'Everybody who signs in at servers, filtered, some at a time, with what is weak about it',
    role: 'viewer',
    query: accountsPage,
    answer: accountsView,
  }),
  readAllAccess: route(at.readAllAccess, {
    summary: 'Begins to read roles and users of all servers whose administrator’s access is known',
    role: 'engineer',
    body: nothing,
    answer: z.object({ begun: z.int() }),
  }),
  access: route(at.access, {
    summary: 'Roles and users of a server as they were read last, and what they are to its links',
    role: 'viewer',
    answer: accessView,
  }),
  readAccess: route(at.readAccess, {
    summary: 'Reads roles and users of a server as its administrator; nothing is changed there',
    role: 'engineer',
    body: nothing,
    answer: done,
  }),
  accessWhatIf: route(at.accessWhatIf, {
    summary: 'Which links would be given other roles by changes of a server’s roles and users; nothing is changed',
    role: 'viewer',
    body: accessChanges,
    answer: accessTurns,
  }),
  sealPassword: route(at.sealPassword, {
    summary: 'Seals a new password of an account, for a work order that will set it',
    role: 'engineer',
    body: newPassword,
    answer: sealedPassword,
  }),
  userTrust: route(at.userTrust, {
    summary: 'Which servers trust which user certificates, and where links sign in with them',
    role: 'viewer',
    answer: userTrust,
  }),
  userCertificates: route(at.userCertificates, {
    summary: 'The certificates with which links sign in as users',
    role: 'viewer',
    answer: userCertificatesView,
  }),
  putUserCertificate: route(at.putUserCertificate, {
    summary: 'Gives a user certificate and its key under a name, or others instead',
    role: 'engineer',
    body: userCertificateGift,
    answer: userCertificateView,
  }),
  forgetUserCertificate: route(at.forgetUserCertificate, {
    summary: 'Forgets a user certificate and its key, where no link signs in with it',
    role: 'engineer',
    answer: done,
  }),
} as const;
