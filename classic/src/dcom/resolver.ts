import { conformant, guid, u16, u32, u64, unique } from '../ndr/codec.js';
import { dualStrings } from './bindings.js';
import { comVersion, plainMethod } from './orpc.js';

/** IObjectExporter (MS-DCOM 3.1.2.5.1): finds exporters, and hears which objects are still held. */
export const resolver = {
  resolveOxid: plainMethod(
    0,
    { oxid: u64, count: u16, protocols: conformant(u16) },
    { bindings: unique(dualStrings), remUnknown: guid, level: u32 },
  ),
  simplePing: plainMethod(1, { set: u64 }, {}),
  complexPing: plainMethod(
    2,
    {
      set: u64,
      sequence: u16,
      addedCount: u16,
      removedCount: u16,
      added: unique(conformant(u64)),
      removed: unique(conformant(u64)),
    },
    { set: u64, backOff: u16 },
  ),
  serverAlive: plainMethod(3, {}, {}),
  resolveOxid2: plainMethod(
    4,
    { oxid: u64, count: u16, protocols: conformant(u16) },
    { bindings: unique(dualStrings), remUnknown: guid, level: u32, version: comVersion },
  ),
  serverAlive2: plainMethod(5, {}, { version: comVersion, bindings: unique(dualStrings), reserved: u32 }),
};

/** Status codes of the resolver (MS-DCOM 2.2.22, MS-ERREF): as numbers of Windows, without their HRESULT form. */
export const resolverStatus = { unknownOxid: 1910, unknownOid: 1911, unknownSet: 1912, accessDenied: 5 } as const;

/** How often a client says that it still holds something, and after how many missed times it is let go (MS-DCOM 3.1.1.6). */
export const pingPeriodMs = 120_000;
export const pingsMissed = 3;
