import fc from 'fast-check';
import { writeMade, writeWanted, remoteCreateInstance } from '../dcom/activation.js';
import { endpointMapper, hresults, remoteActivator } from '../dcom/interfaces.js';
import { writeAnswer, writeCall } from '../dcom/orpc.js';
import { ntlmFlags, writeAuthenticate } from '../ntlm/messages.js';
import { opcIids } from '../opc/interfaces.js';
import { accepted, ndr, noSyntax, pduFlags, refusedByProvider, writePdu } from '../rpc/pdu.js';
import type { Saying, Syntax } from '../rpc/pdu.js';
import { heardRpc } from './heard-rpc.js';
import type { HeardRpc } from './heard-rpc.js';

type Said = readonly [from: 0 | 1, octets: Uint8Array];
const room = { take: () => true, give: () => undefined };
const whole = pduFlags.first | pduFlags.last;
const bound = { mostSent: 4280, mostReceived: 4280, group: 0 };
const classId = '5d8f0b52-3c1e-4f6a-9a70-2b6c1de90801';
const opcServer: Syntax = { uuid: opcIids.server, major: 0, minor: 0 };

const bind = (...syntaxes: readonly Syntax[]): Saying => ({
  kind: 'bind',
  flags: whole,
  callId: 1,
  ...bound,
  contexts: syntaxes.map((abstract, id) => ({ id, abstract, transfers: [ndr] })),
});
const taken = (...results: readonly { readonly result: number; readonly reason: number }[]): Saying => ({
  kind: 'bind-ack',
  flags: whole,
  callId: 1,
  ...bound,
  address: '135',
  results: results.map((one) => ({ ...one, transfer: one.result === accepted ? ndr : noSyntax })),
});
const yes = { result: accepted, reason: 0 };
const call = (operation: number, stub: Uint8Array, callId = 2, flags = whole): Saying => ({
  kind: 'request',
  flags,
  callId,
  hint: stub.length,
  context: 0,
  operation,
  object: null,
  stub,
});
const answer = (stub: Uint8Array, callId = 2, flags = whole): Saying => ({
  kind: 'response',
  flags,
  callId,
  hint: stub.length,
  context: 0,
  stub,
});

/** NTLM’s third message, as it stands behind a PDU; nothing is signed here. */
const signIn = (user: string, level: number) => {
  const value = writeAuthenticate({
    flags: ntlmFlags.unicode,
    lmResponse: new Uint8Array(24),
    ntResponse: new Uint8Array(24),
    domain: 'MARROWBY',
    user,
    workstation: 'TREND-1',
    encryptedKey: new Uint8Array(),
  });
  return { type: 10, level, contextId: 0, length: value.length, value: () => value };
};

const hears = (heard: HeardRpc, from: 0 | 1, octets: Uint8Array, at: number): void =>
  heard.hear(from, octets, 0, octets.length, at);

function listened(said: readonly Said[], piece = Number.MAX_SAFE_INTEGER): HeardRpc {
  const heard = heardRpc.listen(room);
  said.forEach(([from, octets], index) => {
    for (let at = 0; at < octets.length; at += piece)
      heard.hear(from, octets, at, Math.min(at + piece, octets.length), index);
  });
  return heard;
}

const wanted = writeCall(
  remoteCreateInstance,
  { outer: null, wanted: writeWanted({ clsid: classId, iids: [opcIids.server] }, 'furnace-3', 5) },
  classId,
);
const made = writeMade({
  oxid: 7n,
  bindings: { strings: [{ tower: 7, host: 'furnace-3', port: 49_701 }], security: [] },
  remUnknown: classId,
  level: 5,
  version: { major: 5, minor: 7 },
  pointers: [{ iid: opcIids.server, hresult: 0, pointer: Uint8Array.of(1) }],
});

describe('a conversation in RPC', () => {
  it('is known by its first octets, in either order of octets', () => {
    const octets = writePdu(bind(opcServer));
    expect(heardRpc.recognises(octets)).toBe(true);
    expect(heardRpc.recognises(octets.subarray(0, 4))).toBeNull();
    expect(heardRpc.recognises(Uint8Array.of(5, 0, 11, 3, 0, 0, 0, 0, 0, 72))).toBe(true);
    expect(heardRpc.recognises(Uint8Array.of(5, 0, 99))).toBe(false);
  });

  it('tells who asked for which class, what came of it and where the object is', () => {
    const said: readonly Said[] = [
      [0, writePdu(bind(remoteActivator), signIn('trend', 5))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(4, wanted))],
      [1, writePdu(answer(writeAnswer(remoteCreateInstance, { made }, hresults.ok)))],
    ];
    const told = {
      user: 'MARROWBY\\trend',
      interfaces: [remoteActivator.uuid],
      hresult: 0,
      callLevel: 5,
      error: undefined,
      services: [{ name: 'IRemoteSCMActivator.RemoteCreateInstance', at: 2, result: '0x00000000' }],
      notes: [
        'The caller’s machine calls itself TREND-1.',
        `The class {${classId.toUpperCase()}} was asked for.`,
        'The object is at port 49701.',
        'Calls were made at the level “integrity”.',
      ],
    };
    expect(listened(said).told()).toEqual(told);
    expect(listened(said, 11).told()).toMatchObject({ ...told, services: [{ result: '0x00000000' }] });
    expect(listened(said).asks).toBe(0);
  });

  it('tells a failed activation by its HRESULT', () => {
    const said: readonly Said[] = [
      [0, writePdu(bind(remoteActivator))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(4, wanted))],
      [1, writePdu(answer(writeAnswer(remoteCreateInstance, { made: null }, hresults.accessDenied)))],
    ];
    expect(listened(said).told()).toMatchObject({
      hresult: 0x80070005,
      services: [{ result: '0x80070005' }],
    });
  });

  it('tells a bind that was not taken, and an interface that is not known', () => {
    const nak: Saying = { kind: 'bind-nak', flags: whole, callId: 1, reason: 4 };
    expect(
      listened([
        [0, writePdu(bind(opcServer))],
        [1, writePdu(nak)],
      ]).told().error,
    ).toEqual({
      code: 4,
      name: 'bind refused',
      reason: 'The bind was refused: the protocol’s version is not spoken.',
    });
    const unknown = { result: refusedByProvider, reason: 1 };
    const refused: readonly Said[] = [
      [0, writePdu(bind(opcServer))],
      [1, writePdu(taken(unknown))],
    ];
    expect(listened(refused).told().error).toMatchObject({
      reason: 'IOPCServer was refused: the interface is not known.',
    });
    const some: readonly Said[] = [
      [0, writePdu(bind(remoteActivator, opcServer))],
      [1, writePdu(taken(yes, unknown))],
    ];
    expect(listened(some).told()).toMatchObject({
      error: undefined,
      notes: ['IOPCServer was refused: the interface is not known.'],
    });
  });

  it('tells a fault, unless the same call has worked afterwards', () => {
    const said: readonly Said[] = [
      [0, writePdu(bind(opcServer))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(6, new Uint8Array(8)))],
      [1, writePdu({ kind: 'fault', flags: whole, callId: 2, context: 0, status: 5 })],
    ];
    expect(listened(said).told().error).toEqual({
      code: 5,
      name: 'access denied',
      reason: 'IOPCServer.GetStatus was answered by a fault.',
    });
    const again: readonly Said[] = [
      [0, writePdu(call(6, new Uint8Array(8), 3))],
      [1, writePdu(answer(new Uint8Array(8), 3))],
    ];
    expect(listened([...said, ...again]).told().error).toBeUndefined();
  });

  it('reads the port that the mapper names', () => {
    const tower = Uint8Array.of(1, 0, 7, 2, 0, 0xc2, 0x25, 1, 0, 9, 4, 0, 10, 3, 0, 40, 0, 0, 0, 0);
    const said: readonly Said[] = [
      [0, writePdu(bind(endpointMapper))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(3, new Uint8Array(16)))],
      [1, writePdu(answer(tower))],
    ];
    expect(listened(said).told().notes).toEqual(['The mapper named port 49701.']);
  });

  it('puts fragments together, and says what was encrypted', () => {
    const half = Math.floor(wanted.length / 2);
    const said: readonly Said[] = [
      [0, writePdu(bind(remoteActivator))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(4, wanted.subarray(0, half), 2, pduFlags.first))],
      [0, writePdu(call(4, wanted.subarray(half), 2, pduFlags.last))],
    ];
    expect(listened(said).told().notes).toEqual([`The class {${classId.toUpperCase()}} was asked for.`]);
    expect(listened(said).isAmid).toBe(true);
    const hidden: readonly Said[] = [...said.slice(0, 2), [0, writePdu(call(4, wanted), signIn('trend', 6))]];
    expect(listened(hidden).told()).toMatchObject({
      services: [{ result: null }],
      notes: expect.arrayContaining(['What calls say was encrypted and can’t be told.']) as unknown,
    });
  });

  it('goes on behind what is missing, with what begins like a PDU', () => {
    const heard = listened([
      [0, writePdu(bind(opcServer))],
      [1, writePdu(taken(yes))],
      [0, writePdu(call(6, new Uint8Array(100))).subarray(0, 50)],
    ]);
    heard.miss(0);
    hears(heard, 0, new Uint8Array(30), 5);
    hears(heard, 0, writePdu(call(7, new Uint8Array(8), 3)), 6);
    expect(heard.told().services).toEqual([{ name: 'IOPCServer.RemoveGroup', at: 6, result: null }]);
  });

  it('hears whatever comes without a complaint, and gives back what it held', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(0 as const, 1 as const), fc.uint8Array({ maxLength: 200 }))),
        (noise) => {
          let held = 0;
          const heard = heardRpc.listen({
            take: (octets) => {
              held += octets;
              return true;
            },
            give: (octets) => (held -= octets),
          });
          hears(heard, 0, writePdu(bind(remoteActivator)), 0);
          hears(heard, 0, writePdu(call(4, wanted.subarray(0, 60), 9, pduFlags.first)), 0);
          for (const [from, octets] of noise) hears(heard, from, octets, 1);
          heard.told();
          heard.end();
          expect(held).toBe(0);
        },
      ),
    );
  });
});
