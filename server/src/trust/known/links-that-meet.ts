import { trustNeeds } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import { knownTrust } from './known-trust.js';

/** The links on which an application meets a certificate. */
export async function linksThatMeet(db: Database, holderId: string, thumbprint: string): Promise<string[]> {
  const { trust } = await knownTrust(db);
  return trustNeeds(trust)
    .filter(({ holder, shown }) => holder.applicationId === holderId && shown.certificate?.thumbprint === thumbprint)
    .map(({ link }) => link.linkId);
}
