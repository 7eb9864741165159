import { commonName } from '@loyal-hinge/core';
import type { KnownTrust } from '../known/known-trust.js';
import { fitsWords } from './words.js';

/** Certificates whose subjects or thumbprints hold all of the words, by name; at most so many. */
export function certificatesNamed(
  { shelf }: Pick<KnownTrust, 'shelf'>,
  { words, most }: { readonly words: readonly string[]; readonly most: number },
): readonly { readonly id: string; readonly name: string; readonly about: string }[] {
  if (words.length === 0) return [];
  const fits = fitsWords(words.join(' '));
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
