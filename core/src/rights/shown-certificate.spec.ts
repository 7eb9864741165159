import { certify, party, rootOf } from '../testing/pki.js';
import { readCertificate } from '../trust/certificate.js';
import type { Certificate } from '../trust/certificate.js';
import { shownCertificateOf } from './shown-certificate.js';

function certificateOf(der: Uint8Array): Certificate {
  const read = readCertificate(der);
  if (!read.ok) throw new Error(read.says);
  return read.certificate;
}

describe('what rules of roles see of a user certificate', () => {
  it('is it and all above it, in the order of their names, whatever order they came in', async () => {
    const [works, room, user] = [await party('Works authority'), await party('Room authority'), await party('Ann')];
    const root = certificateOf(await rootOf(works));
    const middle = certificateOf(await certify(room, works, { authority: true }));
    const own = certificateOf(await certify(user, room));
    expect(shownCertificateOf(own, [root, middle])).toEqual({
      thumbprints: [own.thumbprint, middle.thumbprint, root.thumbprint],
      subjects: ['CN="Ann"/O="Works"', 'CN="Room authority"/O="Works"', 'CN="Works authority"/O="Works"'],
      isWhole: true,
    });
    expect(shownCertificateOf(own, [root])).toMatchObject({ thumbprints: [own.thumbprint], isWhole: false });
    expect(shownCertificateOf(root, [middle])).toMatchObject({ thumbprints: [root.thumbprint], isWhole: true });
  });

  it('names the attributes of a subject in the order of the standard, whatever order they stand in', async () => {
    const own = await party('any');
    const subjectName = 'C=DE, L=Marrowby, DC=example, DC=works, OU=Hot end, O=Works, CN=Ann, E=ann@works.example';
    const der = await certify(own, own, { subjectName, issuerName: subjectName });
    expect(shownCertificateOf(certificateOf(der), []).subjects).toEqual([
      'CN="Ann"/O="Works"/OU="Hot end"/DC="example"/DC="works"/L="Marrowby"/C="DE"',
    ]);
  });
});
