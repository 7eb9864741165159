import type { HandOutQuery } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { paperAsCsv, paperAsHtml, paperAsPdf } from '../papers/paper.js';
import { paperOf } from './papers.js';
import type { Reader } from './papers.js';

/** What workers do for reports: they put many views together, and set pages. */
export const handOutJobs = {
  handOut: async (
    db: Database,
    { query, reader }: { readonly query: HandOutQuery; readonly reader: Reader },
  ): Promise<{ readonly content: string | Uint8Array; readonly file: string }> => {
    const paper = await paperOf(db, query, reader, new Date().toISOString());
    const name = paper.title.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '');
    const content =
      query.form === 'html' ? paperAsHtml(paper) : query.form === 'csv' ? paperAsCsv(paper) : await paperAsPdf(paper);
    return { content, file: `${name}.${query.form}` };
  },
} as const;
export type HandOutJobs = typeof handOutJobs;
