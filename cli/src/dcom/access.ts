import { checkAccess, usualSid } from '@loyal-hinge/core';
import type { Command } from '../command.js';
import { BadCase, answerCases, textIn } from '../cases.js';
import { descriptorIn, hex } from './descriptors.js';

const usage = `hinge dcom access --cases FILE --json
  Says for each line of a file whether a token is given what it asks for (MS-DTYP 2.5.3.2, without privileges and labels).
  A line: { "id", "descriptor", "token": { "user", "groups", "denyOnly"? }, "mask": "0x…" }; the descriptor in SDDL, or as
  "base64:" and a self-relative binary. Exit code 0, 3 where a line is wrong, 2 when it could not run.`;

export const access: Command = {
  usage,
  run(args, out) {
    return Promise.resolve(
      answerCases(args, out, usage, (fields) => {
        const token = tokenIn(fields['token']);
        const mask = maskIn(fields['mask']);
        const { isAllowed, granted, decidedBy } = checkAccess(descriptorIn(fields, null), token, mask);
        return {
          allowed: isAllowed,
          granted: hex(granted),
          decidedBy: decidedBy && {
            index: decidedBy.index,
            type: decidedBy.ace.type,
            sid: decidedBy.ace.sid,
            mask: hex(decidedBy.ace.mask),
          },
        };
      }),
    );
  },
};

function tokenIn(token: unknown) {
  if (typeof token !== 'object' || token === null) throw new BadCase('“token” must be an object.');
  const fields = token as Readonly<Record<string, unknown>>;
  return {
    user: sidIn(textIn(fields, 'user'), 'user'),
    groups: sidsIn(fields['groups'] ?? [], 'groups'),
    denyOnly: sidsIn(fields['denyOnly'] ?? [], 'denyOnly'),
  };
}

function sidsIn(list: unknown, name: string): string[] {
  if (!Array.isArray(list)) throw new BadCase(`“${name}” must be a list.`);
  return list.map((sid: unknown) => {
    if (typeof sid !== 'string') throw new BadCase(`“${name}” must be a list of texts.`);
    return sidIn(sid, name);
  });
}

function sidIn(text: string, name: string): string {
  const sid = usualSid(text);
  if (sid === null) throw new BadCase(`“${text}” in “${name}” is no SID.`);
  return sid;
}

function maskIn(mask: unknown): number {
  const value = typeof mask === 'string' && /^0x[0-9a-f]{1,8}$/i.test(mask) ? Number(mask) : mask;
  if (typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= 0xffffffff) return value;
  throw new BadCase('“mask” must be a number of 32 bits, such as "0x1f".');
}
