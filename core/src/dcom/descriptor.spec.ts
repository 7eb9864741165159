import fc from 'fast-check';
import { aceTypes, controlBits, noData } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import { descriptorBytes, readDescriptorBytes } from './descriptor-binary.js';
import { readSddl, sddlOf } from './sddl.js';
import { nameOfSid, readSidBytes, sidBytes, usualSid } from './sid.js';

const domain = 'S-1-5-21-1004336348-1177238915-682003330';
const read = (text: string, domainSid: string | null = null): SecurityDescriptor => {
  const told = readSddl(text, domainSid);
  if (!told.ok) throw new Error(`${told.fault.at}: ${told.fault.says}`);
  return told.value;
};
const bytesOf = (hex: string): Uint8Array => Uint8Array.from(Buffer.from(hex.replaceAll(' ', ''), 'hex'));
const faultOf = (told: ReturnType<typeof readSddl>): [number, string] | null =>
  told.ok ? null : [told.fault.at, told.fault.says];

describe('a SID', () => {
  it.each([
    ['01 01 00 00 00 00 00 01 00 00 00 00', 'S-1-1-0'],
    ['01 02 00 00 00 00 00 05 20 00 00 00 20 02 00 00', 'S-1-5-32-544'],
    ['01 00 00 00 00 00 00 05', 'S-1-5'],
    ['01 01 00 01 00 00 00 00 07 00 00 00', 'S-1-0x000100000000-7'],
  ])('%s is %s, both ways', (hex, sid) => {
    const bytes = bytesOf(hex);
    expect(readSidBytes(bytes, 0)).toEqual({ ok: true, value: { sid, length: bytes.length } });
    expect(sidBytes(sid)).toEqual(bytes);
  });

  it('is brought into its usual text, or is none', () => {
    expect(usualSid('s-1-0x5-0x20-544')).toBe('S-1-5-32-544');
    for (const none of [
      '',
      'S-1',
      'S-2-5-18',
      'S-1-5-',
      'S-1-5-4294967296',
      'S-1-4294967296-1',
      `S-1-5${'-1'.repeat(16)}`,
    ])
      expect(usualSid(none)).toBeNull();
  });

  it('has a name where it is well known, in whichever domain', () => {
    expect([nameOfSid('S-1-5-32-562'), nameOfSid(`${domain}-512`), nameOfSid(`${domain}-1107`)]).toEqual([
      'Distributed COM Users',
      'Domain Admins',
      null,
    ]);
  });
});

describe('the text of a descriptor', () => {
  it('is read with owner, group, lists, flags, rights and aliases', () => {
    const text = 'O:BAG:SYD:PAI(A;OICI;CCDCLCSWRP;;;BA)(D;;0x1f;;;AN)S:(AU;SAFA;WD;;;WD)';
    const told = read(text);
    expect(told).toMatchObject({ owner: 'S-1-5-32-544', group: 'S-1-5-18' });
    expect(told.control).toBe(
      controlBits.selfRelative |
        controlBits.daclPresent |
        controlBits.daclProtected |
        controlBits.daclInherited |
        controlBits.saclPresent,
    );
    expect(told.dacl).toMatchObject([
      { type: aceTypes.allowed, flags: 3, mask: 0x1f, sid: 'S-1-5-32-544' },
      { type: aceTypes.denied, flags: 0, mask: 0x1f, sid: 'S-1-5-7' },
    ]);
    expect(told.sacl).toMatchObject([{ type: aceTypes.audit, flags: 0xc0, mask: 0x40000, sid: 'S-1-1-0' }]);
    expect(sddlOf(told)).toBe('O:BAG:SYD:PAI(A;OICI;CCDCLCSWRP;;;BA)(D;;CCDCLCSWRP;;;AN)S:(AU;SAFA;WD;;;WD)');
  });

  it('tells no list, an empty list and none at all apart', () => {
    expect(read('O:BA').dacl).toBeNull();
    expect([read('D:').dacl, read('D:NO_ACCESS_CONTROL').dacl]).toEqual([[], null]);
    for (const text of ['O:BA', 'D:', 'D:NO_ACCESS_CONTROL', 'D:P', 'O:BAG:BAD:AR(A;;GA;;;WD)', 'S:']) {
      const told = read(text);
      expect(sddlOf(told)).toBe(text);
      const again = readDescriptorBytes(descriptorBytes(told));
      expect(again).toEqual({ ok: true, value: told });
    }
  });

  it.each([
    ['D:(A;;FA;;;SY)', 0x1f01ff],
    ['D:(A;;KR;;;SY)', 0x20019],
    ['D:(A;;0x1f01ff;;;SY)', 0x1f01ff],
    ['D:(A;;010;;;SY)', 8],
    ['D:(A;;17;;;SY)', 17],
    ['D:(A;;GAGR;;;SY)', 0x90000000],
    ['S:(ML;;NWNX;;;HI)', 5],
  ])('%s has the mask %d', (text, mask) => {
    const { dacl, sacl } = read(text);
    expect((dacl ?? sacl)?.[0]?.mask).toBe(mask);
  });

  it('names kinds of objects, and accounts of a domain that is known', () => {
    const guid = 'bf967aba-0de6-11d0-a285-00aa003049e2';
    const text = `O:DAD:(OA;CI;CR;${guid};;AU)(OD;;WP;;${guid};PS)`;
    const told = read(text, domain);
    expect(told.owner).toBe(`${domain}-512`);
    expect(told.dacl?.map(({ objectType, inheritedObjectType }) => [objectType, inheritedObjectType])).toEqual([
      [guid, null],
      [null, guid],
    ]);
    expect(sddlOf(told, domain)).toBe(text);
    expect(sddlOf(told)).toContain(`O:${domain}-512`);
    expect(readDescriptorBytes(descriptorBytes(told))).toEqual({ ok: true, value: told });
  });

  it('may have space between its parts', () => {
    expect(read(' O:BA  D: ( A ; ; GA ; ; ; WD ) ')).toEqual(read('O:BAD:(A;;GA;;;WD)'));
  });

  it.each([
    ['X:BA', 0, 'is expected here'],
    ['O:BAO:SY', 4, 'a second time'],
    ['O:ZZ', 2, 'is no SID'],
    ['O:DA', 2, 'it is not said of which'],
    ['D:(A;;GA;;;WD', 2, 'never closed'],
    ['D:(Q;;GA;;;WD)', 3, 'no kind of entry'],
    ['D:(A;XX;GA;;;WD)', 5, 'is no flag'],
    ['D:(A;;GAZZ;;;WD)', 8, 'is no right'],
    ['D:(A;;0x1ffffffff;;;WD)', 6, 'no number of 32 bits'],
    ['D:(A;;09;;;WD)', 6, 'no number of 32 bits'],
    ['D:(A;;NW;;;WD)', 6, 'is no right'],
    ['D:(A;;GA;;;)', 11, 'names an account'],
    ['D:(A;;GA;;WD)', 2, 'six parts'],
    ['D:(A;;GA;00;;WD)', 9, 'names no kinds of objects'],
    ['D:(OA;;GA;00;;WD)', 10, 'is no GUID'],
    ['D:(AU;SA;GA;;;WD)', 3, 'stands in a SACL'],
    ['S:(A;;GA;;;WD)', 3, 'stands in a DACL'],
    ['D:(XA;;GA;;;WD;(@User.a == 1))', 3, 'conditions'],
    ['D:NO_ACCESS_CONTROL(A;;GA;;;WD)', 31, 'no entries'],
  ])('%s is refused at character %d: %s', (text, at, says) => {
    const fault = faultOf(readSddl(text));
    expect([fault?.[0], fault?.[1].includes(says)]).toEqual([at, true]);
  });
});

describe('the bytes of a descriptor', () => {
  // Owner and group Administrators; Administrators and Local System may launch and activate near and far.
  const launch =
    '01 00 04 80 48 00 00 00 58 00 00 00 00 00 00 00 14 00 00 00' +
    '02 00 34 00 02 00 00 00' +
    '00 00 18 00 1f 00 00 00 01 02 00 00 00 00 00 05 20 00 00 00 20 02 00 00' +
    '00 00 14 00 1f 00 00 00 01 01 00 00 00 00 00 05 12 00 00 00' +
    '01 02 00 00 00 00 00 05 20 00 00 00 20 02 00 00' +
    '01 02 00 00 00 00 00 05 20 00 00 00 20 02 00 00';

  it('are read and written as systems write them', () => {
    const bytes = bytesOf(launch);
    const told = readDescriptorBytes(bytes);
    expect(told.ok && sddlOf(told.value)).toBe('O:BAG:BAD:(A;;CCDCLCSWRP;;;BA)(A;;CCDCLCSWRP;;;SY)');
    expect(told.ok && descriptorBytes(told.value)).toEqual(bytes);
  });

  it.each<[string, (bytes: Uint8Array) => Uint8Array, number, string]>([
    ['cut off', (bytes) => bytes.slice(0, 19), 19, '20 bytes'],
    ['of another revision', (bytes) => (bytes.set([2], 0), bytes), 0, 'Revision 2'],
    ['not self-relative', (bytes) => (bytes.set([4, 0], 2), bytes), 2, 'not self-relative'],
    ['with an owner outside', (bytes) => (bytes.set([0xff, 0xff, 0xff, 0xff], 4), bytes), 4, 'outside'],
    ['with an owner within its header', (bytes) => (bytes.set([8, 0, 0, 0], 4), bytes), 4, 'outside'],
    ['with a list outside', (bytes) => (bytes.set([0x66, 0, 0, 0], 16), bytes), 16, 'outside'],
    ['with a list of another revision', (bytes) => (bytes.set([9], 20), bytes), 20, 'revision 9'],
    ['with a list that is longer than it', (bytes) => (bytes.set([0xff, 0xff], 22), bytes), 22, 'does not fit'],
    ['with more entries than fit', (bytes) => (bytes.set([3, 0], 24), bytes), 72, 'cut off'],
    ['with an entry that is longer than its list', (bytes) => (bytes.set([0x40, 0], 30), bytes), 30, 'does not fit'],
    ['with an entry of no length', (bytes) => (bytes.set([0, 0], 30), bytes), 30, 'can’t be'],
    ['with an entry that is not known', (bytes) => (bytes.set([0x44], 28), bytes), 28, 'not known'],
    ['with a SID beyond its entry', (bytes) => (bytes.set([5], 37), bytes), 36, 'cut off'],
    ['with a SID of too many parts', (bytes) => (bytes.set([16], 73), bytes), 73, '15 are the most'],
  ])('%s are refused, with the byte at which it is', (_, broken, at, says) => {
    const told = readDescriptorBytes(broken(bytesOf(launch)));
    expect(told.ok ? null : [told.fault.at, told.fault.says.includes(says)]).toEqual([at, true]);
  });

  it('carry what stands behind a SID on, and have no text then', () => {
    const ace: Ace = {
      type: aceTypes.allowedCallback,
      flags: 0,
      mask: 1,
      sid: 'S-1-1-0',
      objectType: null,
      inheritedObjectType: null,
      data: Uint8Array.of(0x61, 0x72, 0x74, 0x78),
    };
    const told = { control: 0x8004, owner: null, group: null, dacl: [ace], sacl: null };
    expect(readDescriptorBytes(descriptorBytes(told))).toEqual({ ok: true, value: told });
    expect(sddlOf(told)).toBeNull();
  });

  it('that are noise are refused or read, and nothing else', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat(199), fc.nat(255), (noise, place, byte) => {
        const broken = bytesOf(launch);
        broken[place % broken.length] = byte;
        for (const bytes of [noise, broken]) {
          const told = readDescriptorBytes(bytes);
          if (told.ok) expect(readDescriptorBytes(descriptorBytes(told.value)).ok).toBe(true);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

const sids = fc.oneof(
  fc.constantFrom('S-1-1-0', 'S-1-5-18', 'S-1-5-32-544', `${domain}-512`, `${domain}-1107`),
  fc.array(fc.nat(0xffffffff), { maxLength: 15 }).map((parts) => ['S-1-5', ...parts].join('-')),
);
const guids = fc.option(fc.uuid(), { nil: null });
const aces = (types: readonly number[]): fc.Arbitrary<Ace> =>
  fc.record({
    type: fc.constantFrom(...types),
    flags: fc.constantFrom(0, 1, 2, 3, 0x0b, 0x10, 0xc0),
    mask: fc.nat(0xffffffff),
    sid: sids,
    objectType: fc.constant(null),
    inheritedObjectType: fc.constant(null),
    data: fc.constant(noData),
  });
const objectAces: fc.Arbitrary<Ace> = fc
  .tuple(aces([aceTypes.allowedObject, aceTypes.deniedObject]), guids, guids)
  .map(([ace, objectType, inheritedObjectType]) => ({ ...ace, objectType, inheritedObjectType }));
const lists = (types: readonly number[], more: fc.Arbitrary<Ace> | null = null) =>
  fc.option(fc.array(more ? fc.oneof(aces(types), more) : aces(types), { maxLength: 8 }), { nil: null });
const descriptors: fc.Arbitrary<SecurityDescriptor> = fc
  .record({
    flags: fc.constantFrom(0, controlBits.daclProtected, controlBits.daclInherited | controlBits.saclProtected),
    owner: fc.option(sids, { nil: null }),
    group: fc.option(sids, { nil: null }),
    dacl: lists([aceTypes.allowed, aceTypes.denied], objectAces),
    sacl: lists([aceTypes.audit, aceTypes.mandatoryLabel]),
  })
  .map(({ flags, ...parts }) => {
    const there = (parts.dacl ? controlBits.daclPresent : 0) | (parts.sacl ? controlBits.saclPresent : 0);
    // Flags of a list that is not there have no text.
    const kept = (parts.dacl ? flags & 0x1500 : 0) | (parts.sacl ? flags & 0x2a00 : 0);
    return { ...parts, control: controlBits.selfRelative | there | kept };
  });

describe('whatever a descriptor holds', () => {
  it('is the same after it was written and read, as bytes and as text', () => {
    fc.assert(
      fc.property(descriptors, fc.constantFrom(null, domain), (descriptor, domainSid) => {
        expect(readDescriptorBytes(descriptorBytes(descriptor))).toEqual({ ok: true, value: descriptor });
        const text = sddlOf(descriptor, domainSid);
        expect(text === null ? null : readSddl(text, domainSid)).toEqual({ ok: true, value: descriptor });
      }),
      { numRuns: 500 },
    );
  });
});
