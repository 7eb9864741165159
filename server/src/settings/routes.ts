import type { Router } from 'express';
import type { PlantSettings } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { usualDevicePauseMs } from '@loyal-hinge/contract';
import { usualRecordsKeptDays } from '../casebook/evidence-keeping.js';
import { usualKeptDays } from '../links/retention.js';
import { readSetting, writeSetting } from '../database/settings.js';
import { propose } from '../proposals/store.js';
import type { Identities } from './identities.js';

export function settingsRoutes(router: Router, findActor: FindActor, db: Database, identities: Identities): void {
  serve(router, findActor, 'settings', () => readSettings(db));
  serve(router, findActor, 'putSettings', async ({ body }, actor) => {
    const before = await readSettings(db);
    const letsGo = before.approvedByAnother && !body.approvedByAnother;
    await writeSettings(
      db,
      { ...body, approvedByAnother: before.approvedByAnother || body.approvedByAnother },
      actor.name,
    );
    return { ...(await readSettings(db)), waitsAs: letsGo ? await proposeLettingGo(db, actor.name) : null };
  });
  serve(router, findActor, 'identities', async () => ({ identities: await identities.all() }));
  serve(router, findActor, 'putIdentity', ({ params, body }, actor) =>
    identities.give(params['id'] ?? '', body, actor.name),
  );
}

/** The rule that wants a second person is itself let go by two alone. */
const proposeLettingGo = (db: Database, actor: string): Promise<string> =>
  propose(
    db,
    {
      body: { kind: 'settings', approvedByAnother: false },
      title: 'Let one person approve alone',
      says: [
        'Whoever proposes a work order may approve it; mending, undoing, waivers and a new plant need no second person.',
      ],
    },
    actor,
  );

export async function writeSettings(db: Database, after: Partial<PlantSettings>, actor: string): Promise<void> {
  const before = await readSettings(db);
  await db.transaction(async (tx) => {
    await appendAudit(tx, { actor, action: 'settings changed', subject: 'settings', details: { before, after } });
    for (const [key, value] of Object.entries(after)) await writeSetting(tx, key, value);
  });
}

const keys = [
  'plantName',
  'declaredRanges',
  'nameServer',
  'dialFromClientAddress',
  'crlsDemanded',
  'approvedByAnother',
  'checksKeptDays',
  'recordsKeptDays',
  'recordedFilesKept',
  'devicePauseMs',
  'syslogAt',
] as const;

async function readSettings(db: Queryable): Promise<PlantSettings> {
  const [
    plantName,
    declaredRanges,
    nameServer,
    dialFromClientAddress,
    crlsDemanded,
    approvedByAnother,
    checksKeptDays,
    recordsKeptDays,
    recordedFilesKept,
    devicePauseMs,
    syslogAt,
  ] = await Promise.all(keys.map((key) => readSetting(db, key)));
  return {
    plantName: typeof plantName === 'string' ? plantName : 'Plant',
    declaredRanges: Array.isArray(declaredRanges) ? declaredRanges.map(String) : [],
    nameServer: typeof nameServer === 'string' ? nameServer : null,
    dialFromClientAddress: dialFromClientAddress === true,
    crlsDemanded: crlsDemanded === true,
    approvedByAnother: approvedByAnother === true,
    checksKeptDays: typeof checksKeptDays === 'number' ? checksKeptDays : usualKeptDays,
    recordsKeptDays: typeof recordsKeptDays === 'number' ? recordsKeptDays : usualRecordsKeptDays,
    recordedFilesKept: recordedFilesKept !== false,
    devicePauseMs: typeof devicePauseMs === 'number' ? devicePauseMs : usualDevicePauseMs,
    syslogAt: typeof syslogAt === 'string' ? syslogAt : null,
  };
}
