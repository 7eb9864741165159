import { UserNameIdentityToken } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';
import { EventTypes, auditEventIn, auditFields } from './audit-events.js';

type Told = Readonly<Record<string, readonly [DataType, unknown]>>;
/** What comes of an event that has these fields. */
const sent = (told: Told): Variant[] =>
  auditFields.map(([type, name]) => {
    const [dataType, value] = told[`${type} ${name}`] ?? [DataType.Null, null];
    return new Variant({ dataType, value });
  });
const heard = (told: Told) => auditEventIn(sent(told), () => Promise.resolve('i=2071'));
const thumbprint = 'DC CA EA BA A1 4D AB 90 BA FA DA ED DE A5 C3 BF AB BA D1 CD';

describe('an audit event', () => {
  it('is told with what it has, by the time of what was done', async () => {
    expect(
      await heard({
        'i=2041 SourceName': [DataType.String, 'Session/CreateSession'],
        'i=2041 Time': [DataType.DateTime, new Date('2026-03-01T12:00:09Z')],
        'i=2052 ActionTimeStamp': [DataType.DateTime, new Date('2026-03-01T12:00:00Z')],
        'i=2052 Status': [DataType.Boolean, true],
        'i=2071 ClientCertificateThumbprint': [DataType.String, thumbprint],
      }),
    ).toMatchObject({
      typeId: 'i=2071',
      at: '2026-03-01T12:00:00.000Z',
      sourceName: 'Session/CreateSession',
      status: true,
      user: null,
      thumbprint: thumbprint.replaceAll(' ', ''),
    });
  });

  it('believes no thumbprint that can’t be one, and the name in a token before what stands beside it', async () => {
    const token = new UserNameIdentityToken({
      policyId: 'user',
      userName: 'collector',
      password: Buffer.from('secret'),
    });
    const event = await heard({
      'i=2052 ClientUserId': [DataType.String, 'somebody'],
      'i=2075 UserIdentityToken': [DataType.ExtensionObject, token],
      'i=2060 ClientCertificateThumbprint': [DataType.String, 'Ü\u0003þ'],
    });
    expect(event).toMatchObject({ user: 'collector', thumbprint: null, status: null, at: null });
    expect(JSON.stringify(event)).not.toContain('secret');
  });

  it('that is none is passed over, and so is noise', async () => {
    expect(await auditEventIn(sent({}), () => Promise.resolve(null))).toBeNull();
    expect(await auditEventIn('noise', () => Promise.resolve('i=2052'))).toMatchObject({
      typeId: 'i=2052',
      message: '',
    });
  });
});

describe('types of events', () => {
  /** A server whose types stand below each other like this. */
  function typesWith(above: Readonly<Record<string, string>>) {
    let asked = 0;
    const session = {
      browse: ({ nodeId }: { nodeId: string }) => {
        asked += 1;
        return Promise.resolve({ references: above[nodeId] === undefined ? [] : [{ nodeId: above[nodeId] }] });
      },
    };
    const types = new EventTypes(session as never, (call) => call);
    return { types, asked: () => asked };
  }

  it('of the standard are known, and those of a vendor are the nearest above them', async () => {
    const { types, asked } = typesWith({
      'ns=2;i=7': 'ns=2;i=5',
      'ns=2;i=5': 'ns=0;i=2100',
      'ns=2;i=9': 'ns=0;i=2041',
    });
    expect(await types.auditTypeOf('ns=0;i=2075')).toBe('i=2075');
    expect(asked()).toBe(0);
    expect([await types.auditTypeOf('ns=2;i=7'), await types.auditTypeOf('ns=2;i=9')]).toEqual(['i=2100', null]);
    const before = asked();
    expect([await types.auditTypeOf('ns=2;i=7'), await types.auditTypeOf('ns=2;i=9')]).toEqual(['i=2100', null]);
    expect(asked()).toBe(before);
  });

  it('that lead in a circle are none', async () => {
    const { types, asked } = typesWith({ 'ns=2;i=1': 'ns=2;i=2', 'ns=2;i=2': 'ns=2;i=1' });
    expect(await types.auditTypeOf('ns=2;i=1')).toBeNull();
    expect(asked()).toBeLessThan(20);
  });
});
