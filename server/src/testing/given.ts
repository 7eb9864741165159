import { readFileSync } from 'node:fs';
import { linkInPlant, isPlantFault, readPem } from '@loyal-hinge/core';
import type { Fact, FactBody, FactSource, LinkInPlant } from '@loyal-hinge/core';
import type { CheckLog, CheckMeans } from '../links/check/means.js';
import { usualLimits } from '../links/check/means.js';
import { handover } from '../setup/handover.js';
import type { Handover } from '../setup/handover.js';
import { readLists } from '../trust/stand-in-door.js';

/** What `npm test` has started: database, made-up plant and server. */
export function given(name: string): string {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set: run “npm test”, which starts what these tests need`);
  return value;
}

export const plantGiven = (): Handover =>
  handover.parse(JSON.parse(readFileSync(given('HINGE_TEST_HANDOVER'), 'utf8')));

export function derOf(pem: string): Uint8Array {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  if (!der) throw new Error('no certificate');
  return der;
}

export function subjectOf(taken: Handover, linkId: string): LinkInPlant {
  const subject = linkInPlant(taken.plant, linkId);
  if (isPlantFault(subject)) throw new Error(subject.says);
  return subject;
}

export function meansOf(taken: Handover, { link, client, server }: LinkInPlant): CheckMeans {
  const known = taken.clients.find(({ applicationId }) => applicationId === client.id);
  const door = taken.doors.find(({ applicationId }) => applicationId === server.id);
  if (!known) throw new Error(`no client ${client.id}`);
  return {
    nameServer: taken.nameServer,
    declaredRanges: ['127.0.0.0/8'],
    dialFromClientAddress: true,
    credentials: {
      applicationUri: client.applicationUri,
      certificate: derOf(known.certificatePem),
      privateKeyPem: known.privateKeyPem,
    },
    clientTrust: { trusted: known.trustedPem.map(derOf), issuers: [], crls: [] },
    crlsDemanded: false,
    password: taken.passwords.find(({ linkId }) => linkId === link.id)?.password ?? null,
    earlierCertificate: null,
    readServerLists: door ? (signal) => readLists(door, signal) : null,
    limits: usualLimits,
  };
}

/** Keeps facts in memory. */
export function memoryLog(): CheckLog & { readonly facts: Fact[]; readonly begun: string[] } {
  const facts: Fact[] = [];
  const begun: string[] = [];
  return {
    facts,
    begun,
    begin: (step) => void begun.push(step),
    keep: () => undefined,
    note(body: FactBody, source: FactSource = 'tried') {
      const fact: Fact = { ...body, id: `f${facts.length + 1}`, source, at: new Date().toISOString() };
      facts.push(fact);
      return fact;
    },
  };
}
