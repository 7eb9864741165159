/** Bits of AccessLevelType, lowest first (Part 3 §8.57). */
export const accessLevelBits = [
  'CurrentRead',
  'CurrentWrite',
  'HistoryRead',
  'HistoryWrite',
  'SemanticChange',
  'StatusWrite',
  'TimestampWrite',
] as const;

/** Bits of PermissionType, lowest first (Part 3 §8.55). */
export const permissionBits = [
  'Browse',
  'ReadRolePermissions',
  'WriteAttribute',
  'WriteRolePermissions',
  'WriteHistorizing',
  'Read',
  'Write',
  'ReadHistory',
  'InsertHistory',
  'ModifyHistory',
  'DeleteHistory',
  'ReceiveEvents',
  'Call',
  'AddReference',
  'RemoveReference',
  'DeleteNode',
  'AddNode',
] as const;

/** Bits of AccessRestrictionType, lowest first (Part 3 §8.56). */
export const accessRestrictionBits = [
  'SigningRequired',
  'EncryptionRequired',
  'SessionRequired',
  'ApplyRestrictionsToBrowse',
] as const;

/** The names of the bits that are set. */
export const bitNames = (bits: number, names: readonly string[]): string[] =>
  names.filter((_, bit) => (bits & (1 << bit)) !== 0);

/** The value of a bit by its name. */
export const bitOf = <Name extends string>(name: Name, names: readonly Name[]): number => 1 << names.indexOf(name);
