import { gatewayConfiguration } from '@loyal-hinge/contract/line';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import { Gateway } from './gateway.js';

export type ReadConfiguration =
  { readonly ok: true; readonly configuration: GatewayConfiguration } | { readonly ok: false; readonly says: string };

/** Reads a gateway’s file; says at which place what is wrong with it. */
export function readConfiguration(text: string): ReadConfiguration {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, says: 'This is no JSON, or it is cut off.' };
  }
  const read = gatewayConfiguration.safeParse(value);
  if (!read.success) {
    const [issue] = read.error.issues;
    return {
      ok: false,
      says: `${(issue?.path ?? []).join('.') || 'The file'}: ${issue?.message ?? 'it can’t be read'}`,
    };
  }
  const [fault] = Gateway.faultsOf(read.data);
  return fault === undefined ? { ok: true, configuration: read.data } : { ok: false, says: fault };
}
