import type { Syntax } from '../rpc/pdu.js';

/** Interfaces of DCOM itself (MS-DCOM 1.9). */
export const iids = {
  unknown: '00000000-0000-0000-c000-000000000046',
  classFactory: '00000001-0000-0000-c000-000000000046',
  remUnknown: '00000131-0000-0000-c000-000000000046',
  remUnknown2: '00000143-0000-0000-c000-000000000046',
  activationPropertiesIn: '000001a2-0000-0000-c000-000000000046',
  activationPropertiesOut: '000001a3-0000-0000-c000-000000000046',
} as const;

/** The mapper’s two interfaces: what finds objects, and what makes them. */
export const objectExporter: Syntax = { uuid: '99fcfec4-5260-101b-bbcb-00aa0021347a', major: 0, minor: 0 };
export const remoteActivator: Syntax = { uuid: '000001a0-0000-0000-c000-000000000046', major: 0, minor: 0 };
/** RPC’s own management interface, which every server of RPC has (C706, appendix Q). */
export const management: Syntax = { uuid: 'afa8bd80-7d8a-11c9-bef4-08002b102989', major: 1, minor: 0 };
/** The endpoint mapper (C706, appendix O). */
export const endpointMapper: Syntax = { uuid: 'e1af8308-5d1f-11c9-91a4-08002b14a0fa', major: 3, minor: 0 };

/** An interface of an object is bound to in version 0.0. */
export const syntaxOf = (iid: string): Syntax => ({ uuid: iid, major: 0, minor: 0 });

/** Codes of COM that are met here. */
export const hresults = {
  ok: 0,
  false: 1,
  notImplemented: 0x80004001,
  noInterface: 0x80004002,
  fail: 0x80004005,
  unexpected: 0x8000ffff,
  disconnected: 0x80010108,
  versionMismatch: 0x80010110,
  invalidObject: 0x80010114,
  classUnknown: 0x80040154,
  connectionUnknown: 0x80040200,
  tooManyConnections: 0x80040201,
  cannotConnect: 0x80040202,
  programUnknown: 0x800401f3,
  accessDenied: 0x80070005,
  invalidArgument: 0x80070057,
  serverFailed: 0x80080005,
  runAsFailed: 0x8000401a,
} as const;
export const hasFailed = (hresult: number): boolean => hresult >>> 31 === 1;

/** A method that has answered that it failed. */
export class ComFailure extends Error {
  override readonly name = 'ComFailure';
  readonly hresult: number;
  constructor(hresult: number) {
    super(`HRESULT 0x${(hresult >>> 0).toString(16).padStart(8, '0')}`);
    this.hresult = hresult >>> 0;
  }
}
