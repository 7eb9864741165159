import * as z from 'zod';
import {
  account,
  addPerson,
  changePassword,
  changePerson,
  confirmSecondFactor,
  confirmed,
  health,
  person,
  recoveryCodes,
  resetPerson,
  session,
  signIn,
  signedIn,
  wantedSecondFactor,
} from '../people.js';
import { at } from './addresses.js';
import { done, route } from './route.js';

/** Who may come in, and who is in. */
export const peopleRoutes = {
  health: route(at.health, {
    summary: 'Tells database, queue and stand-ins apart',
    role: null,
    answer: health,
  }),
  signIn: route(at.signIn, {
    summary: 'Signs in',
    role: null,
    body: signIn,
    answer: signedIn,
  }),
  whoAmI: route(at.whoAmI, {
    summary: 'Who is signed in',
    role: 'viewer',
    beforePassword: true,
    answer: signedIn,
  }),
  signOut: route(at.signOut, {
    summary: 'Signs out',
    role: 'viewer',
    beforePassword: true,
    answer: done,
  }),
  ownAccount: route(at.ownAccount, {
    summary: 'How the one who asks signs in, and where they are signed in now',
    role: 'viewer',
    beforePassword: true,
    answer: account,
  }),
  changePassword: route(at.changePassword, {
    summary: 'Changes one’s own password, and ends one’s other sessions',
    role: 'viewer',
    beforePassword: true,
    body: changePassword,
    answer: done,
  }),
  endOwnSession: route(at.endOwnSession, {
    summary: 'Ends a session of one’s own',
    role: 'viewer',
    answer: done,
  }),
  beginSecondFactor: route(at.beginSecondFactor, {
    summary: 'Creates a secret for one-time passwords (RFC 6238), which counts once a code of it was given back',
    role: 'viewer',
    body: confirmed,
    answer: wantedSecondFactor,
  }),
  confirmSecondFactor: route(at.confirmSecondFactor, {
    summary: 'Asks for codes at every sign-in from now on, and gives recovery codes',
    role: 'viewer',
    body: confirmSecondFactor,
    answer: recoveryCodes,
  }),
  endSecondFactor: route(at.endSecondFactor, {
    summary: 'Signs in by password alone again',
    role: 'viewer',
    body: confirmed,
    answer: done,
  }),
  renewRecoveryCodes: route(at.renewRecoveryCodes, {
    summary: 'Creates new recovery codes; the previous ones are void',
    role: 'viewer',
    body: confirmed,
    answer: recoveryCodes,
  }),
  people: route(at.people, {
    summary: 'Everybody who can sign in',
    role: 'administrator',
    answer: z.object({ people: z.array(person) }),
  }),
  addPerson: route(at.addPerson, {
    summary: 'Adds a person, who changes the password at the first sign-in',
    role: 'administrator',
    body: addPerson,
    answer: done,
  }),
  changePerson: route(at.changePerson, {
    summary: 'Gives a person another role, disables or enables them; who is disabled is signed out',
    role: 'administrator',
    body: changePerson,
    answer: done,
  }),
  resetPerson: route(at.resetPerson, {
    summary: 'Gives a person a first password again and signs them out; where wished, without their second factor',
    role: 'administrator',
    body: resetPerson,
    answer: done,
  }),
  sessionsOf: route(at.sessionsOf, {
    summary: 'Where a person is signed in now',
    role: 'administrator',
    answer: z.object({ sessions: z.array(session) }),
  }),
  endSession: route(at.endSession, {
    summary: 'Ends a session of a person',
    role: 'administrator',
    answer: done,
  }),
};
