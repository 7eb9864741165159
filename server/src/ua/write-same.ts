import { AttributeIds, DataValue } from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import type { Limited } from './monitored-item.js';
import { readValue } from './read-value.js';

/** What came of writing a value back. */
export interface WrittenSame {
  readonly outcome: 'same value' | 'other value' | 'refused' | 'not read';
  readonly code: string;
  readonly before: string | null;
  readonly after: string | null;
}

/**
 * Writes a value back that was read just before, with its type and nothing else, and reads it again (Part 4 §5.11.4).
 * Where there is nothing to write back, nothing is written.
 */
export async function writeSame(session: ClientSession, nodeId: string, limited: Limited): Promise<WrittenSame> {
  const read = (): Promise<DataValue> => limited(session.read({ nodeId, attributeId: AttributeIds.Value }, 0));
  const before = await read();
  const was = readValue(before);
  if (before.statusCode.isBad() || was.value === null)
    return { outcome: 'not read', code: was.code, before: null, after: null };
  const value = new DataValue({ value: before.value });
  const status = await limited(session.write({ nodeId, attributeId: AttributeIds.Value, value }));
  const code = status.name;
  if (status.isBad()) return { outcome: 'refused', code, before: was.value, after: was.value };
  const after = readValue(await read());
  const isSame = after.value === was.value && after.code === was.code;
  return { outcome: isSame ? 'same value' : 'other value', code, before: was.value, after: after.value };
}
