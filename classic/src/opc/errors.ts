/** Codes of OPC Data Access (2.05a, 4.10; 3.0, 4.12). */
export const opcErrors = {
  invalidHandle: 0xc0040001,
  badType: 0xc0040004,
  badRights: 0xc0040006,
  unknownItem: 0xc0040007,
  invalidItem: 0xc0040008,
  invalidFilter: 0xc0040009,
  unknownPath: 0xc004000a,
  unknownProperty: 0xc0040203,
  outOfRange: 0xc004000b,
  duplicateName: 0xc004000c,
  unsupportedRate: 0x0004000d,
  clamped: 0x0004000e,
} as const;

/** Each with what it means; codes of other kinds are not here. */
export const opcErrorWords: Readonly<Record<number, string>> = {
  [opcErrors.invalidHandle]: 'the handle is not valid',
  [opcErrors.badType]: 'the value can’t be given in this type',
  [opcErrors.badRights]: 'the item may not be read or written this way',
  [opcErrors.unknownItem]: 'there is no such item',
  [opcErrors.invalidItem]: 'this is not how items are named here',
  [opcErrors.invalidFilter]: 'the filter is not valid',
  [opcErrors.unknownPath]: 'there is no such access path',
  [opcErrors.unknownProperty]: 'the item has no such property',
  [opcErrors.outOfRange]: 'the value is out of range',
  [opcErrors.duplicateName]: 'the name is taken already',
  [opcErrors.unsupportedRate]: 'the rate was changed to one that the server can keep',
  [opcErrors.clamped]: 'the value was cut to its range',
};
