import type { WindowsEvent } from '../log-event.js';
import { childOf } from '../xml-element.js';
import type { XmlElement } from '../xml-element.js';
import { sayWindowsEvent } from './say-windows-event.js';

/**
 * An event from its XML: `System` says what and when, `EventData` or `UserData` the rest.
 * @returns null: it is no event
 */
export function windowsEventOf(event: XmlElement, position: number): WindowsEvent | null {
  const system = childOf(event, 'System');
  if (event.name !== 'Event' || !system) return null;
  const textOf = (name: string): string => childOf(system, name)?.text.trim() ?? '';
  const provider = childOf(system, 'Provider')?.attributes ?? {};
  const told = {
    provider: provider['Name'] ?? provider['EventSourceName'] ?? '',
    eventId: Number(textOf('EventID')),
    data: { ...dataIn(childOf(event, 'EventData')), ...userDataIn(childOf(event, 'UserData')) },
  };
  if (!Number.isInteger(told.eventId)) return null;
  return {
    kind: 'windows',
    position,
    time: timeIn(childOf(system, 'TimeCreated')?.attributes['SystemTime']),
    channel: textOf('Channel'),
    computer: textOf('Computer'),
    ...told,
    says: sayWindowsEvent(told),
  };
}

/** Windows writes UTC, with or without the letter that says so. */
function timeIn(written: string | undefined): string | null {
  const parts = /^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{1,9})?)Z?$/.exec(written ?? '');
  const time = `${parts?.[1] ?? ''}Z`;
  return parts && Number.isFinite(Date.parse(time)) ? time : null;
}

function dataIn(element: XmlElement | null): Record<string, string> {
  const data: Record<string, string> = {};
  let unnamed = 0;
  for (const { name, attributes, text } of element?.children ?? []) {
    if (name !== 'Data') {
      put(data, name, text);
      continue;
    }
    if (attributes['Name'] === undefined) put(data, `#${(unnamed += 1)}`, text);
    else put(data, attributes['Name'], text);
  }
  return data;
}

/** Under one element of the provider’s own, its fields; what lies deeper goes by the name that is nearest. */
function userDataIn(element: XmlElement | null): Record<string, string> {
  const data: Record<string, string> = {};
  const gather = ({ name, children, text }: XmlElement): void => {
    if (children.length === 0) put(data, name, text);
    for (const child of children) gather(child);
  };
  for (const own of element?.children ?? []) for (const field of own.children) gather(field);
  return data;
}

/** A name that comes again gets a number. */
function put(data: Record<string, string>, name: string, text: string): void {
  let key = name;
  for (let count = 2; Object.hasOwn(data, key); count += 1) key = `${name} ${count}`;
  data[key] = text;
}
