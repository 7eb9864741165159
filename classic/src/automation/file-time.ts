import { u32 } from '../ndr/codec.js';
import type { Codec } from '../ndr/codec.js';
import { fileTimeOfMillis, millisOfFileTime } from '../ntlm/client.js';

/** FILETIME as OPC sends it: two numbers of 32 bits, the lower first (MS-DTYP 2.3.3). Milliseconds since 1970; null: no time (0). */
export const fileTime: Codec<number | null> = {
  align: 4,
  least: 8,
  none: null,
  write: (writer, millis) => {
    const time = millis === null ? 0n : fileTimeOfMillis(millis);
    u32.write(writer, Number(time & 0xffffffffn));
    u32.write(writer, Number(time >> 32n));
  },
  read: (reader) => {
    const [low, high] = [u32.read(reader)(), u32.read(reader)()];
    const time = (BigInt(high) << 32n) | BigInt(low);
    const millis = time === 0n ? null : millisOfFileTime(time);
    return () => millis;
  },
};
