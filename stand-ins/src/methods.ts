import { WellKnownRoles } from 'node-opcua-address-space';
import type { ISessionContext, UAMethod } from 'node-opcua-address-space';
import { makeNodeId } from 'node-opcua-nodeid';
import { MessageSecurityMode } from 'node-opcua-secure-channel';
import { StatusCodes } from 'node-opcua-status-code';
import type { StatusCode } from 'node-opcua-status-code';
import type { CallMethodResultOptions } from 'node-opcua-types';
import type { Variant } from 'node-opcua-variant';

/** A call that is answered with a code. */
export class Refusal extends Error {
  constructor(readonly statusCode: StatusCode) {
    super(statusCode.name);
  }
}

export type Answer = readonly Variant[];
export type Method = (inputs: readonly Variant[], context: ISessionContext) => Promise<Answer>;

/** Lets administrators alone call a method, on an encrypted channel (Part 12 §7.10.1, Part 18 §4.4.4). */
export const bindForAdministrators = (node: UAMethod, method: Method): void =>
  bindForAll(node, (inputs, context) => {
    admit(context);
    return method(inputs, context);
  });

/** Lets everybody call a method on an encrypted channel. */
export function bindForAll(node: UAMethod, method: Method): void {
  node.bindMethod((inputs: Variant[], context: ISessionContext) =>
    answered(() => {
      demandEncryption(context);
      return method(inputs, context);
    }),
  );
}

function demandEncryption(context: ISessionContext): void {
  if (channelOf(context)?.securityMode !== MessageSecurityMode.SignAndEncrypt)
    throw new Refusal(StatusCodes.BadSecurityModeInsufficient);
}

function admit(context: ISessionContext): void {
  const administrator = makeNodeId(WellKnownRoles.SecurityAdmin);
  const roles = context.getCurrentUserRoles?.() ?? [];
  if (!roles.some((role) => role.toString() === administrator.toString()))
    throw new Refusal(StatusCodes.BadUserAccessDenied);
}

interface Channel {
  readonly securityMode?: number;
  abruptlyInterrupt(): void;
}

export const channelOf = (context: ISessionContext): Channel | undefined =>
  (context.session as { channel?: Channel } | undefined)?.channel;

/** The session of a call. */
export const ownerOf = (context: ISessionContext): string => context.session?.getSessionId().toString() ?? '';

async function answered(run: () => Promise<Answer>): Promise<CallMethodResultOptions> {
  try {
    return { statusCode: StatusCodes.Good, outputArguments: [...(await run())] };
  } catch (error) {
    return {
      statusCode: error instanceof Refusal ? error.statusCode : StatusCodes.BadUnexpectedError,
      outputArguments: [],
    };
  }
}
