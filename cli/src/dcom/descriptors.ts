import { decodeBase64, readDescriptorBytes, readSddl } from '@loyal-hinge/core';
import type { ReadPart, SecurityDescriptor } from '@loyal-hinge/core';
import { BadCase, textIn } from '../cases.js';
import type { Fields } from '../cases.js';

const binary = 'base64:';

/** A descriptor as SDDL, or as `base64:` and a self-relative binary. */
export function descriptorIn(fields: Fields, domainSid: string | null): SecurityDescriptor {
  const text = textIn(fields, 'descriptor');
  const isBinary = text.startsWith(binary);
  const bytes = isBinary ? decodeBase64(text.slice(binary.length)) : null;
  if (isBinary && !bytes) throw new BadCase('What stands behind “base64:” is no Base64.');
  return sound(bytes ? readDescriptorBytes(bytes) : readSddl(text, domainSid), bytes ? 'byte' : 'character');
}

function sound<Value>(read: ReadPart<Value>, unit: string): Value {
  if (read.ok) return read.value;
  throw new BadCase(`At ${unit} ${read.fault.at}: ${read.fault.says}`);
}

export const hex = (value: number): string => `0x${(value >>> 0).toString(16)}`;
