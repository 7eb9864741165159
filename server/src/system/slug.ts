import { createHash } from 'node:crypto';

/** A name of small letters, digits and hyphens; what had to be altered gets a mark of its own, so that two stay two. */
export function slug(id: string): string {
  const plain = id.replace(/[^a-z0-9]+/g, '-').replace(/^-+|-+$/g, '');
  if (plain === id && id.length <= 48) return id;
  return `${plain.slice(0, 40)}-${createHash('sha256').update(id).digest('hex').slice(0, 8)}`.replace(/^-+/, '');
}
