import { join } from 'node:path';
import * as z from 'zod';
import type { AnchorFiles } from '../audit/seals.js';
import type { KeyPlace } from '../secrets/sealing-key.js';
import { needsTls } from '../own-tls/where-tls.js';
import { StartRefusal } from '../system/start-refusal.js';

const environment = z.object({
  HINGE_DATABASE_URL: z.string().min(1),
  HINGE_DATA: z.string().min(1),
  HINGE_KEY: z.string().optional(),
  /** Whether secrets that the sealing key can’t open are to be forgotten. */
  HINGE_FORGET_SECRETS: z.enum(['yes', 'no']).default('no'),
  HINGE_HOST: z.string().default('127.0.0.1'),
  /** `yes`: TLS on loopback, too; elsewhere it is never left out. */
  HINGE_TLS: z.enum(['auto', 'yes']).default('auto'),
  HINGE_PORT: z.coerce.number().int().min(0).max(65535).default(4841),
  /** Where outposts are listened to; the port left out: the next one after `HINGE_PORT`. */
  HINGE_OUTPOST_HOST: z.string().optional(),
  HINGE_OUTPOST_PORT: z.coerce.number().int().min(0).max(65535).optional(),
  /** What this process does: serve people, carry queued checks out, or both. */
  HINGE_ROLE: z.enum(['all', 'web', 'worker']).default('all'),
  HINGE_LOG: z.enum(['silent', 'error', 'warn', 'info', 'debug']).default('info'),
  HINGE_WEB: z.string().optional(),
  /** Where captures and logs are put to be taken in; left out: a folder beside the data. */
  HINGE_WATCHED: z.string().min(1).optional(),
  HINGE_SYSLOG_SECONDS: z.coerce.number().min(1).max(3600).default(300),
});

export interface Configuration {
  readonly databaseUrl: string;
  /** Folder for what does not go into the database. */
  readonly dataFolder: string;
  readonly sealingKey: KeyPlace;
  readonly anchors: AnchorFiles;
  readonly host: string;
  /** Folder of the server’s own certificate and key; null: it is reached from its own computer alone, in the clear. */
  readonly tlsFolder: string | null;
  readonly port: number;
  /** Where outposts reach this server. */
  readonly outposts: { readonly host: string; readonly port: number };
  readonly role: 'all' | 'web' | 'worker';
  readonly logLevel: string;
  /** Folder of the built web application, where it is to be served. */
  readonly webFolder: string | null;
  /** Where captures and logs are put to be taken in. */
  readonly watchedFolder: string;
  /** So long messages of syslog are gathered into one log, in milliseconds. */
  readonly syslogGatherMs: number;
}

/** Reads the settings of the process from its environment; a missing or wrong one is named. */
export function readConfiguration(env: NodeJS.ProcessEnv): Configuration {
  const read = environment.safeParse(env);
  if (!read.success)
    throw new StartRefusal(
      `${read.error.issues.map(({ path, message }) => (env[path.join('.')] === undefined ? `${path.join('.')} is not set` : `${path.join('.')}: ${message}`)).join('; ')}. See docs/formats.md.`,
    );
  const { data } = read;
  return {
    databaseUrl: data.HINGE_DATABASE_URL,
    dataFolder: data.HINGE_DATA,
    sealingKey: {
      file: join(data.HINGE_DATA, 'sealing-key'),
      fromEnvironment: data.HINGE_KEY,
      forgetsUnopenable: data.HINGE_FORGET_SECRETS === 'yes',
    },
    anchors: {
      head: join(data.HINGE_DATA, 'audit-head.json'),
      anchors: join(data.HINGE_DATA, 'audit-anchors.jsonl'),
    },
    host: data.HINGE_HOST,
    tlsFolder: needsTls(data.HINGE_HOST, data.HINGE_TLS) ? join(data.HINGE_DATA, 'tls') : null,
    port: data.HINGE_PORT,
    outposts: {
      host: data.HINGE_OUTPOST_HOST ?? data.HINGE_HOST,
      port: data.HINGE_OUTPOST_PORT ?? (data.HINGE_PORT === 0 ? 0 : Math.min(data.HINGE_PORT + 1, 65_535)),
    },
    role: data.HINGE_ROLE,
    logLevel: data.HINGE_LOG,
    webFolder: data.HINGE_WEB ?? null,
    watchedFolder: data.HINGE_WATCHED ?? join(data.HINGE_DATA, 'watched'),
    syslogGatherMs: data.HINGE_SYSLOG_SECONDS * 1000,
  };
}
