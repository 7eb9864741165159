import { parse } from 'csv-parse/sync';
import {
  Registry,
  accountsInGroups,
  dcomSettings,
  isSameName,
  membersIn,
  readAccount,
  readRegistryExport,
  servicesIn,
  textOf,
} from '@loyal-hinge/core';
import type { DcomService, DcomSettings, GroupMember, ToldAccount } from '@loyal-hinge/core';
import { unzip } from '@loyal-hinge/core/bundles';
import type { DcomExport, DcomView, MachineFiles } from '@loyal-hinge/contract';
import { invalid } from '../http/problems.js';

/** What somebody brought from a machine, read. */
export interface ReadMachine {
  readonly settings: DcomSettings;
  readonly accounts: readonly ToldAccount[];
  readonly files: DcomExport['files'];
  readonly faults: DcomView['faults'];
}

/** Of a zip: exports may be large, and are all letters. */
const zipLimits = { mostFiles: 200, mostBytes: 260_000_000, mostBytesPerFile: 130_000_000 };
const mostFaults = 200;
/** Of one table. */
const mostRows = 50_000;

interface BroughtFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** Reads exports of a registry, all taken together, and what a machine prints of accounts; zips are opened. */
export function readMachineFiles({ files }: MachineFiles): ReadMachine {
  const brought = files.flatMap(({ name, base64 }) => opened({ name, bytes: Buffer.from(base64, 'base64') }));
  const registry = new Registry();
  const accounts: ToldAccount[] = [];
  const services: DcomService[] = [];
  const members: GroupMember[] = [];
  const faults: DcomView['faults'] = [];
  const told = brought.map(({ name, bytes }): DcomExport['files'][number] => {
    const text = textOf(bytes);
    const found = readRegistryExport(text, registry);
    if (found) {
      faults.push(...found.slice(0, mostFaults - faults.length).map((fault) => ({ file: name, ...fault })));
      return { name, bytes: bytes.length, holds: 'settings' };
    }
    const rows = tableIn(text);
    const [listed, inGroups] = [servicesIn(rows), membersIn(rows)];
    services.push(...(listed ?? []));
    members.push(...(inGroups ?? []));
    if (listed || inGroups) return { name, bytes: bytes.length, holds: listed ? 'services' : 'groups' };
    const account = readAccount(text);
    if (account) accounts.push(account);
    return { name, bytes: bytes.length, holds: account ? 'account' : 'nothing' };
  });
  if (told.every(({ holds }) => holds === 'nothing'))
    throw invalid(
      'None of these files is an export of a registry, or what a machine prints of accounts and services.',
      [{ place: 'files', says: 'Choose the files that the commands on this page have written, or a zip of them.' }],
    );
  const settings = dcomSettings(registry, services);
  // What an account prints of itself is known better than what its machine’s groups tell.
  const others = accountsInGroups(members, settings).filter(
    ({ name, token }) => !accounts.some((one) => one.token.user === token.user || isSameName(one.name, name)),
  );
  return { settings, accounts: [...accounts, ...others], files: told, faults };
}

/** A table whose first line names its columns; empty: it is none. */
function tableIn(text: string): readonly Record<string, string>[] {
  if (!/^\s*"?[A-Za-z]+"?,/.test(text)) return [];
  try {
    return parse(text, { columns: true, bom: true, skip_empty_lines: true, relax_column_count: true, to: mostRows });
  } catch {
    return [];
  }
}

function opened(file: BroughtFile): readonly BroughtFile[] {
  if (file.bytes[0] !== 0x50 || file.bytes[1] !== 0x4b) return [file];
  const zip = unzip(file.bytes, zipLimits);
  if (!zip.ok) throw invalid(`${file.name} can’t be used. ${zip.says}`, [{ place: 'files', says: zip.says }]);
  return zip.files.map(({ path, bytes }) => ({ name: path, bytes }));
}
