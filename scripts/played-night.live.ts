import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { heardRpc } from '@loyal-hinge/classic';
import { usualRules } from '@loyal-hinge/core';
import type { Plant } from '@loyal-hinge/core';
import {
  attemptOfConversation,
  attemptOfEvent,
  CaptureReading,
  casesOf,
  joinAttempts,
  joinParts,
  LinkFinder,
  LogReading,
  StoryReading,
  tls,
  uaTcp,
} from '@loyal-hinge/core/casebook';
import type { Attempt, Case, CaseBook, Conversation, Story } from '@loyal-hinge/core/casebook';
import { inPlant, plantGiven } from '../server/src/testing/given.js';

const folder = mkdtempSync(join(tmpdir(), 'hinge-night-'));
const recorded = join(folder, 'recorded');
/** Where no plant of the tests stands. */
const block = 200 + Number(process.env['JEST_WORKER_ID'] ?? 1);
const plant = JSON.parse(
  JSON.stringify(plantGiven().plant).replaceAll(inPlant('0.0').replace('0.0', ''), `127.${block}.`),
) as Plant;
const dialects = [uaTcp, heardRpc, tls];
let book: CaseBook;
let all: readonly Attempt[];

function attemptsIn(name: string): readonly Attempt[] {
  const attempts: Attempt[] = [];
  const bytes = readFileSync(join(recorded, name));
  const source = { fileId: name, clockAheadMs: 0 };
  if (name.endsWith('.pcap')) {
    const reading = new CaptureReading(dialects, (each) => attempts.push(attemptOfConversation(each, source)));
    reading.take(bytes);
    expect(reading.end()).toMatchObject({ fault: null, passedOver: [] });
    return attempts;
  }
  const reading = new LogReading({ zone: 0, latest: Date.now() }, null, (event) => {
    const attempt = attemptOfEvent(event, source);
    if (attempt) attempts.push(attempt);
  });
  reading.take(bytes);
  expect(reading.end()).toMatchObject({ notUnderstood: 0, gaps: [] });
  return attempts;
}

/** A night is played by real servers and clients, and what was recorded of it is read as if somebody had brought it. */
beforeAll(() => {
  const main = join(import.meta.dirname, '..', 'stand-ins', 'dist', 'record-night.js');
  execFileSync(process.execPath, [main, folder], {
    env: { ...process.env, HINGE_PLANT_BLOCK: String(block) },
    stdio: 'pipe',
  });
  const finder = new LinkFinder(plant);
  all = joinParts(joinAttempts(readdirSync(recorded).flatMap(attemptsIn)), (place) => finder.machineOf(place));
  book = casesOf(all, plant, usualRules);
}, 180_000);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const caseOf = (causeId: string | null): Case => {
  const found = book.cases.filter((one) => one.causeId === causeId);
  expect(found).toHaveLength(1);
  return found[0] as Case;
};
const timeOf = (at: number): string => new Date(at).toISOString().slice(11, 16);
const spanOf = ({ first, last }: Case): string => `${timeOf(first)} to ${timeOf(last)}`;
const filesOf = ({ attempts }: Case): readonly string[] =>
  [...new Set(attempts.flatMap(({ evidence }) => evidence.map(({ fileId }) => fileId)))].sort();

describe('the cases of a night', () => {
  it('are five, and nothing else', () => {
    expect(book.cases.map(({ kind, linkId, causeId }) => [kind, linkId, causeId])).toEqual([
      ['link', 'energy--gas-meter', 'expired'],
      ['link', 'line-display--furnace', 'port-refused'],
      ['scan', null, null],
      ['link', 'trend--lehr-data', 'way-back-blocked'],
      ['link', 'trend--lehr-data', 'account-refused'],
    ]);
  });

  it('tell of a certificate that expired, though the server’s refusal is encrypted', () => {
    const one = caseOf('expired');
    expect(spanOf(one)).toBe('02:10 to 05:50');
    expect(one).toMatchObject({ count: 13, rhythm: { isRegular: true }, step: 'secure-channel' });
    const worked = book.worked.get('energy--gas-meter') ?? [];
    expect(worked.some(({ start }) => start < one.first)).toBe(true);
    expect(timeOf(Math.max(...worked.map(({ start }) => start)))).toBe('06:12');
  });

  it('tell of an account that was locked, by what the wire and the server’s log say together', () => {
    const one = caseOf('account-refused');
    expect(spanOf(one)).toBe('23:31 to 23:55');
    expect(one.count).toBe(11);
    expect(one.says).toContain('the account is locked');
    expect(filesOf(one)).toEqual(['control-room-tap.pcap', 'lehr-data-security.xml']);
    expect(one.attempts.every(({ evidence }) => evidence.length === 2)).toBe(true);
  });

  it('tell of a server that can’t call back, by its calls that a firewall dropped', () => {
    const one = caseOf('way-back-blocked');
    expect(spanOf(one)).toBe('00:41 to 01:11');
    expect(one.count).toBe(4);
    expect(filesOf(one)).toEqual(['control-room-tap.pcap', 'trend-station-firewall.log']);
  });

  it('tell of a scan, and of a server that fell and came back', () => {
    expect(book.cases.find(({ kind }) => kind === 'scan')).toMatchObject({ from: 'Maintenance laptop', count: 64 });
    const fell = caseOf('port-refused');
    expect(spanOf(fell)).toBe('03:20 to 03:31');
    const worked = book.worked.get('line-display--furnace') ?? [];
    expect(timeOf(Math.max(...worked.map(({ start }) => start)))).toBe('03:32');
  });

  it('rest on conversations that can each be read closely, but for what signs in', () => {
    const tap = readFileSync(join(recorded, 'control-room-tap.pcap'));
    const told: Conversation[] = [];
    const reading = new CaptureReading(dialects, (each) => told.push(each));
    reading.take(tap);
    reading.end();
    const storyAt = (position: number, bytesOf: number | null = null): Story | null => {
      const close = new StoryReading(dialects, position, bytesOf);
      close.take(tap);
      return close.end();
    };
    const stories = told.map(({ position }) => storyAt(position));
    expect(stories.map((story) => story?.conversation)).toEqual(told);
    expect(stories.every((story) => story?.leftOut === 0 && story.messages.length >= 2)).toBe(true);
    const signingIn = stories.flatMap(
      (story) =>
        story?.messages
          .filter(({ what }) => what === 'third leg of signing in')
          .map(({ index, withheld }) => ({ position: story.conversation.position, index, withheld })) ?? [],
    );
    expect(signingIn.length).toBeGreaterThan(10);
    for (const { position, index, withheld } of signingIn) {
      expect(withheld).toBe('A password can be guessed from what signs in.');
      expect(storyAt(position, index)?.bytes).toBeNull();
    }
    const asked = stories.flatMap((story) => story?.messages.map(({ what }) => what) ?? []);
    for (const what of [
      'Hello',
      'OpenSecureChannel',
      'GetEndpoints',
      'bind',
      'IRemoteSCMActivator.RemoteCreateInstance',
    ])
      expect(asked).toContain(what);
  });

  it('hold no password, neither in the files nor in what was read of them', () => {
    const { passwords } = JSON.parse(readFileSync(join(folder, 'secrets.json'), 'utf8')) as {
      passwords: Readonly<Record<string, string>>;
    };
    const files = readdirSync(recorded).map((name) => readFileSync(join(recorded, name)));
    expect(Object.values(passwords).length).toBeGreaterThan(3);
    for (const password of Object.values(passwords)) {
      expect(files.some((bytes) => bytes.includes(password))).toBe(false);
      expect(files.some((bytes) => bytes.includes(Buffer.from(password, 'utf16le')))).toBe(false);
      expect(JSON.stringify(all)).not.toContain(password);
    }
  });
});
