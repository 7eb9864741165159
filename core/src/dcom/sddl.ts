import { aceFlags, aceTypes, controlBits, noData, objectAceTypes, systemAceTypes } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import { lettersForSid, needsDomain, sidOfLetters, usualSid } from './sid.js';
import type { ReadPart, Sid } from './sid.js';

/** The text of a security descriptor: SDDL (MS-DTYP 2.5.1). */

/** Rights by their letters (MS-DTYP 2.5.1.1); the single bits stand in the order in which systems write them. */
const singleRights = [
  ['CC', 0x00000001],
  ['DC', 0x00000002],
  ['LC', 0x00000004],
  ['SW', 0x00000008],
  ['RP', 0x00000010],
  ['WP', 0x00000020],
  ['DT', 0x00000040],
  ['LO', 0x00000080],
  ['CR', 0x00000100],
  ['SD', 0x00010000],
  ['RC', 0x00020000],
  ['WD', 0x00040000],
  ['WO', 0x00080000],
  ['GA', 0x10000000],
  ['GX', 0x20000000],
  ['GW', 0x40000000],
  ['GR', 0x80000000],
] as const;
const severalRights = [
  ['FA', 0x001f01ff],
  ['FR', 0x00120089],
  ['FW', 0x00120116],
  ['FX', 0x001200a0],
  ['KA', 0x000f003f],
  ['KR', 0x00020019],
  ['KW', 0x00020006],
  ['KX', 0x00020019],
] as const;
/** What a mandatory label keeps those below it from. */
const labelRights = [
  ['NW', 1],
  ['NR', 2],
  ['NX', 4],
] as const;
const rights = new Map<string, number>([...singleRights, ...severalRights, ...labelRights]);

const types = [
  ['A', aceTypes.allowed],
  ['D', aceTypes.denied],
  ['AU', aceTypes.audit],
  ['AL', aceTypes.alarm],
  ['OA', aceTypes.allowedObject],
  ['OD', aceTypes.deniedObject],
  ['OU', aceTypes.auditObject],
  ['OL', aceTypes.alarmObject],
  ['ML', aceTypes.mandatoryLabel],
  ['SP', aceTypes.scopedPolicy],
] as const;
const typeByLetters = new Map<string, number>(types);
const lettersByType = new Map<number, string>(types.map(([letters, type]) => [type, letters]));
/** Conditions and attributes: a language of their own, which no descriptor of DCOM has. */
const withCondition: ReadonlySet<string> = new Set(['XA', 'XD', 'XU', 'ZA', 'RA']);

const flagLetters = [
  ['OI', aceFlags.objectInherit],
  ['CI', aceFlags.containerInherit],
  ['NP', aceFlags.noPropagate],
  ['IO', aceFlags.inheritOnly],
  ['ID', aceFlags.inherited],
  ['SA', aceFlags.success],
  ['FA', aceFlags.failure],
] as const;
const flagByLetters = new Map<string, number>(flagLetters);

const guidPattern = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

type Read<Value> = ReadPart<Value>;

/** A fault is thrown inside and given back outside: a text is read in many small steps. */
class Unreadable extends Error {
  constructor(
    readonly at: number,
    readonly says: string,
  ) {
    super(says);
  }
}

/**
 * Reads a descriptor’s text; what is wrong is told with the letter at which it is, from 0.
 * @param domainSid whose accounts letters such as DA mean; null: they are refused
 */
export function readSddl(text: string, domainSid: Sid | null = null): Read<SecurityDescriptor> {
  try {
    return { ok: true, value: new SddlReader(text, domainSid).read() };
  } catch (error) {
    if (!(error instanceof Unreadable)) throw error;
    return { ok: false, fault: { at: error.at, says: error.says } };
  }
}

class SddlReader {
  private at = 0;

  constructor(
    private readonly text: string,
    private readonly domainSid: Sid | null,
  ) {}

  read(): SecurityDescriptor {
    let control: number = controlBits.selfRelative;
    let [owner, group]: (Sid | null)[] = [null, null];
    let [dacl, sacl]: (readonly Ace[] | null)[] = [null, null];
    const seen = new Set<string>();
    this.skipSpace();
    while (this.at < this.text.length) {
      const part = this.text[this.at]?.toUpperCase() ?? '';
      if (!'OGDS'.includes(part) || this.text[this.at + 1] !== ':')
        throw this.unreadable('“O:”, “G:”, “D:” or “S:” is expected here.');
      if (seen.has(part)) throw this.unreadable(`“${part}:” stands here a second time.`);
      seen.add(part);
      this.at += 2;
      this.skipSpace();
      if (part === 'O') owner = this.sid();
      else if (part === 'G') group = this.sid();
      else {
        const list = this.list(part === 'S');
        control |= list.control;
        if (part === 'D') dacl = list.aces;
        else sacl = list.aces;
      }
      this.skipSpace();
    }
    return { control, owner: owner ?? null, group: group ?? null, dacl: dacl ?? null, sacl: sacl ?? null };
  }

  private list(isSystem: boolean): { readonly control: number; readonly aces: readonly Ace[] | null } {
    const flag = (ofDacl: number): number => (isSystem ? ofDacl * 2 : ofDacl);
    let control: number = isSystem ? controlBits.saclPresent : controlBits.daclPresent;
    let isNone = false;
    for (;;) {
      this.skipSpace();
      if (this.takes('NO_ACCESS_CONTROL')) isNone = true;
      else if (this.takes('AR')) control |= flag(controlBits.daclInheritRequired);
      else if (this.takes('AI')) control |= flag(controlBits.daclInherited);
      else if (this.takes('P')) control |= flag(controlBits.daclProtected);
      else break;
    }
    const aces: Ace[] = [];
    while (this.text[this.at] === '(') {
      aces.push(this.ace(isSystem));
      this.skipSpace();
    }
    if (isNone && aces.length > 0) throw this.unreadable('NO_ACCESS_CONTROL says that there are no entries.');
    return { control, aces: isNone ? null : aces };
  }

  private ace(isSystem: boolean): Ace {
    const begins = this.at;
    const end = this.text.indexOf(')', begins);
    if (end < 0) throw this.unreadable('This entry is never closed: “)” is missing.');
    const places: { readonly at: number; readonly text: string }[] = [];
    let at = begins + 1;
    for (const part of this.text.slice(begins + 1, end).split(';')) {
      places.push({ at: at + (part.length - part.trimStart().length), text: part.trim() });
      at += part.length + 1;
    }
    const [kind, flags, mask, object, inherited, account, ...rest] = places;
    const letters = kind?.text.toUpperCase() ?? '';
    const type = typeByLetters.get(letters);
    if (type === undefined)
      throw this.unreadable(
        withCondition.has(letters)
          ? 'Entries with conditions or attributes are not read here.'
          : `“${kind?.text ?? ''}” is no kind of entry.`,
        kind?.at,
      );
    if (!flags || !mask || !object || !inherited || !account || rest.length > 0)
      throw this.unreadable(`An entry has six parts with “;” between them; this has ${places.length}.`, begins);
    if (systemAceTypes.has(type) !== isSystem)
      throw this.unreadable(
        `“${letters}” stands in ${isSystem ? 'a DACL' : 'a SACL'}, and in no other list.`,
        kind?.at,
      );
    const isForObjects = objectAceTypes.has(type);
    if (!isForObjects && object.text + inherited.text !== '')
      throw this.unreadable(`“${letters}” names no kinds of objects.`, object.text === '' ? inherited.at : object.at);
    const read: Ace = {
      type,
      flags: this.flags(flags),
      mask: this.mask(mask, type),
      sid: this.account(account),
      objectType: this.guid(object),
      inheritedObjectType: this.guid(inherited),
      data: noData,
    };
    this.at = end + 1;
    return read;
  }

  private flags({ at, text }: { readonly at: number; readonly text: string }): number {
    let flags = 0;
    for (let place = 0; place < text.length; place += 2) {
      const flag = flagByLetters.get(text.slice(place, place + 2).toUpperCase());
      if (flag === undefined) throw this.unreadable(`“${text.slice(place, place + 2)}” is no flag.`, at + place);
      flags |= flag;
    }
    return flags;
  }

  private mask({ at, text }: { readonly at: number; readonly text: string }, type: number): number {
    if (/^(0x[0-9a-f]+|\d+)$/i.test(text)) {
      // A number with a leading zero is octal.
      const mask = /^0\d/.test(text) ? Number.parseInt(text, 8) : Number(text);
      if (!(mask <= 0xffffffff) || /^0\d*[89]/.test(text))
        throw this.unreadable(`“${text}” is no number of 32 bits.`, at);
      return mask;
    }
    let mask = 0;
    for (let place = 0; place < text.length; place += 2) {
      const letters = text.slice(place, place + 2).toUpperCase();
      const right = rights.get(letters);
      const isOfLabels = labelRights.some(([name]) => name === letters);
      if (right === undefined || isOfLabels !== (type === aceTypes.mandatoryLabel))
        throw this.unreadable(`“${text.slice(place, place + 2)}” is no right.`, at + place);
      mask |= right;
    }
    return mask >>> 0;
  }

  private guid({ at, text }: { readonly at: number; readonly text: string }): string | null {
    if (text === '') return null;
    if (!guidPattern.test(text)) throw this.unreadable(`“${text}” is no GUID.`, at);
    return text.toLowerCase();
  }

  private account({ at, text }: { readonly at: number; readonly text: string }): Sid {
    if (text === '') throw this.unreadable('An entry names an account in its last part.', at);
    return this.sidIn(text, at);
  }

  /** Of an owner or a group: it ends where the next part begins. */
  private sid(): Sid | null {
    const at = this.at;
    const told = /^(S-1(?:-(?:0x[0-9a-f]+|\d+))+|[A-Z]{2}(?!:))/i.exec(this.text.slice(at))?.[0] ?? '';
    if (told === '') return null;
    this.at += told.length;
    return this.sidIn(told, at);
  }

  private sidIn(text: string, at: number): Sid {
    const letters = text.toUpperCase();
    const sid = /^S-/i.test(text) ? usualSid(text) : sidOfLetters(letters, this.domainSid);
    if (sid !== null) return sid;
    throw this.unreadable(
      needsDomain(letters)
        ? `“${text}” is an account of a domain, and it is not said of which.`
        : `“${text}” is no SID.`,
      at,
    );
  }

  private takes(word: string): boolean {
    if (!this.text.slice(this.at).toUpperCase().startsWith(word)) return false;
    this.at += word.length;
    return true;
  }

  private skipSpace(): void {
    while (/\s/.test(this.text[this.at] ?? '')) this.at += 1;
  }

  private readonly unreadable = (says: string, at = this.at): Unreadable => new Unreadable(at, says);
}

/**
 * Writes a descriptor as text, with letters for whom they stand for.
 * @returns null where something of it has no text here: entries with conditions or attributes, and those that carry more
 */
export function sddlOf(descriptor: SecurityDescriptor, domainSid: Sid | null = null): string | null {
  const { control, owner, group, dacl, sacl } = descriptor;
  const lists: string[] = [];
  for (const [letter, aces, present, shift] of [
    ['D', dacl, controlBits.daclPresent, 1],
    ['S', sacl, controlBits.saclPresent, 2],
  ] as const) {
    if ((control & present) === 0 && aces === null) continue;
    const flags = [
      (control & (controlBits.daclProtected * shift)) !== 0 ? 'P' : '',
      (control & (controlBits.daclInheritRequired * shift)) !== 0 ? 'AR' : '',
      (control & (controlBits.daclInherited * shift)) !== 0 ? 'AI' : '',
      aces === null ? 'NO_ACCESS_CONTROL' : '',
    ].join('');
    const entries = (aces ?? []).map((ace) => aceText(ace, domainSid));
    if (entries.includes(null)) return null;
    lists.push(`${letter}:${flags}${entries.join('')}`);
  }
  const sids = [
    owner === null ? '' : `O:${lettersForSid(owner, domainSid)}`,
    group === null ? '' : `G:${lettersForSid(group, domainSid)}`,
  ];
  return [...sids, ...lists].join('');
}

function aceText(
  { type, flags, mask, sid, objectType, inheritedObjectType, data }: Ace,
  domainSid: Sid | null,
): string | null {
  const letters = lettersByType.get(type);
  const known = flagLetters.reduce((all, [, flag]) => all | flag, 0);
  if (letters === undefined || data.length > 0 || (flags & ~known) !== 0) return null;
  const flagText = flagLetters.map(([name, flag]) => ((flags & flag) === 0 ? '' : name)).join('');
  const account = lettersForSid(sid, domainSid);
  return `(${[letters, flagText, maskText(mask, type), objectType ?? '', inheritedObjectType ?? '', account].join(';')})`;
}

/** In letters where they say all of it, else in hexadecimal. */
export function maskText(mask: number, type: number): string {
  if (type === aceTypes.mandatoryLabel) return spelt(mask, labelRights) ?? `0x${mask.toString(16)}`;
  const whole = severalRights.find(([, right]) => right === mask);
  return whole?.[0] ?? spelt(mask, singleRights) ?? `0x${mask.toString(16)}`;
}

function spelt(mask: number, among: readonly (readonly [letters: string, right: number])[]): string | null {
  const held = among.filter(([, right]) => (mask & right) !== 0);
  const all = held.reduce((sum, [, right]) => sum + right, 0);
  return all === mask ? held.map(([letters]) => letters).join('') : null;
}
