import { and, sql } from 'drizzle-orm';
import type { SQL, SQLWrapper } from 'drizzle-orm';
import { wordsIn } from '@loyal-hinge/core';

/** More words than anybody types tell nothing more. */
const mostWords = 20;

/**
 * Every word that was typed must stand somewhere in the text; undefined: nothing was typed.
 * @param text in small letters
 */
export function hasWords(text: SQLWrapper, typed: string): SQL | undefined {
  const words = wordsIn(typed).slice(0, mostWords);
  return and(...words.map((word) => sql`${text} like ${`%${word.replace(/[\\%_]/g, '\\$&')}%`}`));
}
