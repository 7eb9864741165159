import type { Router } from 'express';
import type { PlantSettings } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { readSetting, writeSetting } from '../plant/store.js';
import type { Identities } from './identities.js';

export function settingsRoutes(router: Router, findActor: FindActor, db: Database, identities: Identities): void {
  serve(router, findActor, 'settings', () => readSettings(db));
  serve(router, findActor, 'putSettings', async ({ body }, actor) => {
    const before = await readSettings(db);
    await db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor: actor.name,
        action: 'settings changed',
        subject: 'settings',
        details: { before, after: body },
      });
      for (const [key, value] of Object.entries(body)) await writeSetting(tx, key, value);
    });
    return readSettings(db);
  });
  serve(router, findActor, 'identities', async () => ({ identities: await identities.all() }));
  serve(router, findActor, 'putIdentity', ({ params, body }, actor) =>
    identities.give(params['id'] ?? '', body, actor.name),
  );
}

const keys = [
  'plantName',
  'declaredRanges',
  'nameServer',
  'dialFromClientAddress',
  'crlsDemanded',
  'approvedByAnother',
] as const;

async function readSettings(db: Queryable): Promise<PlantSettings> {
  const [plantName, declaredRanges, nameServer, dialFromClientAddress, crlsDemanded, approvedByAnother] =
    await Promise.all(keys.map((key) => readSetting(db, key)));
  return {
    plantName: typeof plantName === 'string' ? plantName : 'Plant',
    declaredRanges: Array.isArray(declaredRanges) ? declaredRanges.map(String) : [],
    nameServer: typeof nameServer === 'string' ? nameServer : null,
    dialFromClientAddress: dialFromClientAddress === true,
    crlsDemanded: crlsDemanded === true,
    approvedByAnother: approvedByAnother === true,
  };
}
