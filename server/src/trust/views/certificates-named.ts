import { commonName, fitsWords, wordsIn } from '@loyal-hinge/core';
import type { KnownTrust } from '../known/known-trust.js';

/** Certificates whose subjects or thumbprints hold all of the words, by name; at most so many. */
export function certificatesNamed(
  { shelf }: Pick<KnownTrust, 'shelf'>,
  { find, most }: { readonly find: string; readonly most: number },
): readonly { readonly id: string; readonly name: string; readonly about: string }[] {
  if (wordsIn(find).length === 0) return [];
  const fits = fitsWords(find);
  return [...shelf.certificates.values()]
    .filter(({ subject, thumbprint }) => fits(subject.text, thumbprint))
    .map(({ subject, thumbprint }) => ({
      id: thumbprint,
      name: commonName(subject.text),
      about: thumbprint.slice(0, 12),
    }))
    .sort((one, other) => one.name.localeCompare(other.name))
    .slice(0, most);
}
