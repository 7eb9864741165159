import { readCertificate } from '@loyal-hinge/core';
import type { LinkInPlant } from '@loyal-hinge/core';
import { memoryLog, meansOf, overPush, pushSubjectOf, subjectOf } from '../testing/by-hand.js';
import { plantGiven } from '../testing/given.js';
import { walkLink } from '../probe/walk-link.js';
import { CallRefusal } from './call-method.js';
import type { PushManagement } from './push-management.js';
import { silenceLibrary } from './quiet.js';

silenceLibrary();
const taken = plantGiven();
const subjects = (ders: readonly Uint8Array[]): string[] =>
  ders.map((der) => {
    const read = readCertificate(der);
    return read.ok ? (/CN=([^,]+)/.exec(read.certificate.subject.text)?.[1] ?? '') : 'not readable';
  });

/** As another client or with another mode than the desk’s: what does the server say? */
async function asSomebodyElse(subject: LinkInPlant, use: (push: PushManagement) => Promise<unknown>): Promise<unknown> {
  const log = memoryLog();
  let fault: unknown = 'no session';
  await walkLink(
    subject,
    { ...meansOf(taken, subject), readServerLists: null },
    log,
    new AbortController().signal,
    async (session) => {
      fault = await use(session.pushManagement()).catch((error: unknown) => error);
    },
  );
  return fault;
}

describe('push management of a server', () => {
  it('reads its lists, CRLs among them, and what it has set aside', async () => {
    const { lists, rejected } = await overPush(taken, 'tin-bath-server', async (push) => ({
      lists: await push.readLists(),
      rejected: await push.readRejected(),
    }));
    expect(subjects(lists.trustedCertificates).sort()).toEqual(
      ['History collector', 'Line display', 'Maintenance laptop', 'Security desk', 'Shift tablet'].sort(),
    );
    expect(subjects(lists.issuerCertificates)).toEqual(['Marrowby Glass Works Authority']);
    expect([lists.issuerCrls.length, lists.trustedCrls.length]).toEqual([1, 0]);
    expect(Array.isArray(rejected)).toBe(true);
  });

  it('replaces one list and leaves the others, and can be read again after that', async () => {
    await overPush(taken, 'glass-lab-server', async (push) => {
      const before = await push.readLists();
      const [desk] = before.trustedCertificates.filter((der) => subjects([der])[0] === 'Security desk');
      expect(await push.writeLists({ issuerCertificates: desk ? [desk] : [] })).toBe(false);
      const after = await push.readLists();
      expect(subjects(after.issuerCertificates)).toEqual(['Security desk']);
      expect(after.trustedCertificates.length).toBe(before.trustedCertificates.length);
      await push.writeLists({ issuerCertificates: before.issuerCertificates });
    });
  });

  it('says where a restart is needed, and forgets what was never applied', async () => {
    await overPush(taken, 'batch-scales-server', async (push) => {
      const before = await push.readLists();
      expect(await push.writeLists({ issuerCrls: [] })).toBe(true);
      await push.cancelChanges();
      expect(await push.readLists()).toEqual(before);
    });
  });

  it('takes no garbage for a certificate', async () => {
    const refused = overPush(taken, 'furnace-server', (push) =>
      push.writeLists({ trustedCertificates: [Uint8Array.from([1, 2, 3])] }),
    ).catch((error: unknown) => error);
    expect(String(await refused)).toContain('BadCertificateInvalid');
  });

  it('forgets with the session what was given and not applied', async () => {
    const before = await overPush(taken, 'batch-scales-server', async (push) => {
      const lists = await push.readLists();
      expect(await push.writeLists({ trustedCertificates: [] })).toBe(true);
      return lists;
    });
    await overPush(taken, 'batch-scales-server', async (push) => {
      await push.applyChanges();
      expect(await push.readLists()).toEqual(before);
    });
  });

  it('makes a request for its own names', async () => {
    const request = await overPush(taken, 'furnace-server', (push) => push.createSigningRequest(false));
    expect(Buffer.from(request).toString('latin1')).toContain('urn:marrowby.example:furnace-server');
  });

  it('refuses whoever is no administrator, and an administrator on a channel that is only signed', async () => {
    const display = subjectOf(taken, 'line-display--furnace');
    expect(await asSomebodyElse(display, (push) => push.readLists())).toMatchObject({ code: 'BadUserAccessDenied' });
    const desk = pushSubjectOf(taken, 'furnace-server');
    const signedOnly = { ...desk, client: { ...desk.client, securityModes: ['Sign' as const] } };
    const said = await asSomebodyElse(signedOnly, (push) => push.readRejected());
    expect(said).toBeInstanceOf(CallRefusal);
    expect(said).toMatchObject({ code: 'BadSecurityModeInsufficient', during: 'GetRejectedList' });
  });
});
