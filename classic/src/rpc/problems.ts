/** How far a connection or a call came before it failed. */
export type ProblemKind =
  | 'refused' // the port is closed
  | 'unreachable' // there is no way to the address
  | 'not-bound' // this computer does not have the address that was to be dialled from
  | 'silent' // nothing answered within the time
  | 'ended' // the peer has ended the connection
  | 'malformed' // what came is not RPC, or not what was agreed on
  | 'bind-refused' // the peer does not take the bind
  | 'interface-unknown' // the peer does not have this interface
  | 'cancelled'; // somebody has given up here

/** A connection or a call that came to nothing. */
export class RpcProblem extends Error {
  override readonly name = 'RpcProblem';
  constructor(
    readonly kind: ProblemKind,
    message: string,
  ) {
    super(message);
  }
}

/** A call that the peer has answered with a fault (C706 12.6.4.7). */
export class RpcFault extends Error {
  override readonly name = 'RpcFault';
  constructor(readonly status: number) {
    super(`fault 0x${(status >>> 0).toString(16).padStart(8, '0')}`);
  }
}

/** Status codes of faults (C706, appendix E; codes of Windows stand beside them: access denied, bad stub). */
export const faults = {
  accessDenied: 0x00000005,
  badStub: 0x000006f7,
  operationUnknown: 0x1c010002,
  interfaceUnknown: 0x1c010003,
  protocolError: 0x1c01000b,
  outOfMemory: 0x1c00001b,
  cancelled: 0x1c00000d,
  contextMismatch: 0x1c00001a,
  unspecified: 0x1c000012,
} as const;
