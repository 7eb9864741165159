import ipaddr from 'ipaddr.js';
import { DistinguishedName } from './name.js';
import { DerFault, contentOf, hexOf, latinText, partsOf } from './der.js';
import type { DerElement } from './der.js';

/** A GeneralName (RFC 5280 §4.2.1.6). `bytes` of an address: 4 or 16; in a constraint twice that, address and mask. */
export type GeneralName =
  | { readonly kind: 'uri' | 'dns' | 'email'; readonly value: string }
  | { readonly kind: 'ip'; readonly bytes: Uint8Array }
  | { readonly kind: 'directory'; readonly name: DistinguishedName }
  | { readonly kind: 'other'; readonly value: string };

const tags = { email: 0x81, dns: 0x82, directory: 0xa4, uri: 0x86, ip: 0x87 } as const;

export function generalNameOf(element: DerElement): GeneralName {
  switch (element.tag) {
    case tags.email:
      return { kind: 'email', value: asciiOf(element) };
    case tags.dns:
      return { kind: 'dns', value: asciiOf(element) };
    case tags.uri:
      return { kind: 'uri', value: asciiOf(element) };
    case tags.ip:
      return { kind: 'ip', bytes: contentOf(element) };
    case tags.directory: {
      const [name] = partsOf(element);
      if (!name) throw new DerFault('a directory name is empty');
      return { kind: 'directory', name: new DistinguishedName(name).check() };
    }
    default:
      return { kind: 'other', value: hexOf(contentOf(element)) };
  }
}

function asciiOf(element: DerElement): string {
  const text = latinText(contentOf(element));
  if (!/^[\x00-\x7f]*$/.test(text)) throw new DerFault('a name holds letters that are not ASCII');
  return text;
}

/** The usual way to write an address, or hexadecimal where it is none. */
export function addressText(bytes: Uint8Array): string {
  return bytes.length === 4 || bytes.length === 16 ? ipaddr.fromByteArray([...bytes]).toString() : hexOf(bytes);
}
