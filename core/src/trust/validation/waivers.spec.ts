import { KeyUsageFlags } from '@peculiar/x509';
import { certify, party, rootOf } from '../../testing/pki.js';
import type { Party, Wish } from '../../testing/pki.js';
import { securityPolicies } from '../../ua/security-policies.js';
import { readCertificate } from '../certificate.js';
import { validateCertificate } from '../validation.js';
import type { ValidationRequest } from '../validation.js';
import { waivableSteps } from './waivers.js';
import type { WaivableStep } from './waivers.js';

const at = '2026-03-01T12:00:00.000Z';
const later = '2026-06-01T00:00:00.000Z';
let authority: Party;
let application: Party;
let root: Uint8Array;
beforeAll(async () => {
  [authority, application] = [await party('Works CA'), await party('furnace')];
  root = await rootOf(authority);
});

async function judged(
  wish: Wish,
  waived: readonly { readonly step: WaivableStep; readonly until?: string }[],
  differs: Partial<ValidationRequest> = {},
) {
  const certificate = await certify(application, authority, wish);
  const read = readCertificate(certificate);
  const thumbprint = read.ok ? read.certificate.thumbprint : '';
  return validateCertificate({
    certificate,
    sentIssuers: [],
    trustList: { trusted: [root], issuers: [], crls: [] },
    at,
    applicationUri: 'urn:works.example:furnace',
    host: 'furnace.works.example',
    policy: null,
    crlsDemanded: false,
    warnDays: 0,
    waivers: waived.map(({ step, until = later }) => ({ thumbprint, step, until })),
    ...differs,
  });
}

const stepOf = async (result: ReturnType<typeof judged>, step: string) =>
  (await result).steps.find((one) => one.step === step);

describe('a step that somebody answers for', () => {
  const cases: readonly {
    readonly step: WaivableStep;
    readonly wish: Wish;
    readonly differs?: Partial<ValidationRequest>;
    readonly status: string;
  }[] = [
    { step: 'validity period', wish: { to: '2026-02-01' }, status: 'BadCertificateTimeInvalid' },
    { step: 'host name', wish: { dns: ['lehr.works.example'] }, status: 'BadCertificateHostNameInvalid' },
    {
      step: 'security policy',
      wish: {},
      differs: { policy: securityPolicies.Basic256Sha256 },
      status: 'BadCertificatePolicyCheckFailed',
    },
    {
      step: 'usage',
      wish: { usages: KeyUsageFlags.keyAgreement, usageIsBinding: false },
      status: 'BadCertificateUseNotAllowed',
    },
    {
      step: 'revocation list',
      wish: {},
      differs: { crlsDemanded: true },
      status: 'BadCertificateRevocationUnknown',
    },
  ];

  it('is one of those that the standard lets an administrator suppress', () => {
    expect([...waivableSteps].sort()).toEqual(cases.map(({ step }) => step).sort());
  });

  it.each(cases)('passes with a warning that tells its end: $step', async ({ step, wish, differs, status }) => {
    expect((await judged(wish, [], differs)).status).toBe(status);
    const waived = await judged(wish, [{ step }], differs);
    expect(waived.status).toBe('Good');
    expect(waived.steps.find((one) => one.step === step)).toMatchObject({
      result: 'warned',
      says: expect.stringContaining('Waived until 1 June 2026.'),
    });
    expect(waived.problems).toContainEqual(expect.objectContaining({ waived: { status, until: later } }));
  });

  it.each(cases)('counts again from its end on: $step', async ({ step, wish, differs, status }) => {
    expect((await judged(wish, [{ step, until: at }], differs)).status).toBe(status);
  });

  it('does not cover another step, nor another certificate', async () => {
    const late = { to: '2026-02-01' };
    expect((await judged(late, [{ step: 'host name' }])).status).toBe('BadCertificateTimeInvalid');
    const other = [{ thumbprint: 'AB'.repeat(20), step: 'validity period', until: later }] as const;
    expect((await judged(late, [], { waivers: other })).status).toBe('BadCertificateTimeInvalid');
  });

  it('covers no usage that the certificate marks as binding', async () => {
    const usages = KeyUsageFlags.keyAgreement;
    expect((await judged({ usages }, [{ step: 'usage' }])).status).toBe('BadCertificateUseNotAllowed');
  });

  it('covers no issuer that may not sign', async () => {
    const mere = await party('Mere');
    const issuer = await certify(mere, mere, { usageIsBinding: false });
    const leaf = await certify(application, mere, {});
    const read = readCertificate(leaf);
    const result = judged({}, [], {
      certificate: leaf,
      trustList: { trusted: [issuer], issuers: [], crls: [] },
      waivers: [{ thumbprint: read.ok ? read.certificate.thumbprint : '', step: 'usage', until: later }],
    });
    expect(await stepOf(result, 'usage')).toMatchObject({ status: 'BadCertificateIssuerUseNotAllowed' });
  });

  it('leaves a mere warning as it is', async () => {
    const soon = judged({ to: '2026-03-20' }, [{ step: 'validity period' }], { warnDays: 60 });
    expect(await stepOf(soon, 'validity period')).toMatchObject({
      result: 'warned',
      says: expect.not.stringContaining('Waived'),
    });
  });
});
