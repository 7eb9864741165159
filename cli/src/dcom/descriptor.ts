import { descriptorBytes, sddlOf, encodeBase64, usualSid } from '@loyal-hinge/core';
import type { Ace } from '@loyal-hinge/core';
import type { Command } from '../command.js';
import { BadCase, answerCases } from '../cases.js';
import { descriptorIn, hex } from './descriptors.js';

const usage = `hinge dcom descriptor --cases FILE --json
  Takes each security descriptor of a file apart, and writes it anew as SDDL and as a self-relative binary.
  A line: { "id", "descriptor", "domainSid"? }; the descriptor in SDDL, or as "base64:" and a self-relative binary. Exit
  code 0, 3 where a line is wrong, 2 when it could not run.`;

export const descriptor: Command = {
  usage,
  run(args, out) {
    return Promise.resolve(
      answerCases(args, out, usage, (fields) => {
        const domainSid = domainIn(fields['domainSid']);
        const read = descriptorIn(fields, domainSid);
        return {
          owner: read.owner,
          group: read.group,
          control: hex(read.control),
          dacl: read.dacl && read.dacl.map(entryOf),
          sacl: read.sacl && read.sacl.map(entryOf),
          sddl: sddlOf(read, domainSid),
          base64: encodeBase64(descriptorBytes(read)),
        };
      }),
    );
  },
};

const entryOf = ({ type, flags, mask, sid, objectType, inheritedObjectType }: Ace) => ({
  type,
  flags,
  mask: hex(mask),
  sid,
  ...(objectType === null ? {} : { objectType }),
  ...(inheritedObjectType === null ? {} : { inheritedObjectType }),
});

function domainIn(told: unknown): string | null {
  if (told === undefined || told === null) return null;
  const sid = typeof told === 'string' ? usualSid(told) : null;
  if (sid === null) throw new BadCase('“domainSid” is no SID.');
  return sid;
}
