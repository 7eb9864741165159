import { readPem } from '@loyal-hinge/core';
import { invalid } from '../http/problems.js';

/** The certificate request (PKCS#10) in a PEM text, DER. @throws a problem where there is none */
export function requestIn(pem: string): Uint8Array {
  const read = readPem(pem);
  const block = read.ok ? read.blocks.find(({ label }) => label.endsWith('CERTIFICATE REQUEST')) : null;
  if (!block) {
    const says = read.ok
      ? 'There is no certificate request in this text.'
      : `Line ${read.fault.line}: ${read.fault.says}.`;
    throw invalid(says, [{ place: 'requestPem', says }]);
  }
  return block.der;
}
