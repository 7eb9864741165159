import type { ClientSession } from 'node-opcua-client';
import type { Variant } from 'node-opcua-variant';
import { statusCodeNamed } from '@loyal-hinge/core';
import { within } from './within.js';

/** A server that refuses a call, or answers with what can’t be understood. */
export class CallRefusal extends Error {
  constructor(
    readonly code: string,
    readonly during: string,
    /** Some of what was asked for was done before. */
    readonly isPartlyDone = false,
  ) {
    super(`${during}: ${code}`);
  }
}

export interface MethodCall {
  readonly objectId: string;
  readonly methodId: string;
  /** What it is called in the standard. */
  readonly name: string;
  readonly inputs: Variant[];
}

/** Calls a method of the standard (Part 4 §5.12.2). @returns its output arguments @throws CallRefusal */
export async function callMethod(
  session: ClientSession,
  { objectId, methodId, name, inputs }: MethodCall,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<readonly Variant[]> {
  const result = await within(timeoutMs, signal, session.call({ objectId, methodId, inputArguments: inputs }));
  if (result.statusCode.isNotGood())
    throw new CallRefusal(statusCodeNamed(result.statusCode.value) ?? result.statusCode.name, name);
  return result.outputArguments ?? [];
}
