import type { Sight } from '../../cause.js';
import type { ItemRights, WriteAccess } from '../../write-access.js';
import { writeAccess } from '../../write-access.js';

/** The rights of each item as they were read, with what they amount to on this link’s channel. */
export const writeAccesses = ({
  facts,
  choice,
}: Sight): readonly { readonly rights: ItemRights; readonly access: WriteAccess }[] =>
  facts
    .all('item-rights')
    .map((rights) => ({ rights, access: writeAccess(rights, choice?.chosen?.securityMode ?? 'None') }));

/** Paths that the link must be able to write. */
export const writtenPaths = ({ subject: { link } }: Sight): readonly string[] =>
  link.needs.filter(({ uses }) => uses.includes('write')).map(({ path }) => path);
