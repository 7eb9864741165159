import { conformant, guid, struct, u16, u32, unique } from '../ndr/codec.js';
import { standardReference } from './object-reference.js';
import { method } from './orpc.js';

const reference = struct({ ipid: guid, publicRefs: u32, privateRefs: u32 });

/** IRemUnknown (MS-DCOM 3.1.1.5.6): asks an object for its interfaces, and counts references. */
export const remUnknown = {
  queryInterface: method(
    3,
    { ipid: guid, refs: u32, count: u16, iids: conformant(guid) },
    { results: unique(conformant(struct({ hresult: u32, reference: standardReference }))) },
  ),
  addRef: method(4, { count: u16, references: conformant(reference) }, { results: conformant(u32) }),
  release: method(5, { count: u16, references: conformant(reference) }, {}),
};
