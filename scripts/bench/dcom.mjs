import { checkAccess, readDescriptorBytes, descriptorBytes, readSddl } from '../../core/dist/index.js';
import { timedOver } from './timing.mjs';

const sizes = [10_000, 100_000, 1_000_000];
const rounds = 5;
const entriesADescriptor = 12;
const groupsAToken = 30;

/** Access checks on descriptors that were read before: each of twelve entries, for accounts in thirty groups. */
export function dcom(say) {
  say(
    `\nAccess checks on descriptors of ${entriesADescriptor} entries, tokens of ${groupsAToken} groups (medians of ${rounds}):`,
  );
  const descriptors = Array.from({ length: 200 }, (_, index) => descriptorOf(index));
  const tokens = Array.from({ length: 50 }, (_, index) => tokenOf(index));
  measured(descriptors, tokens, sizes[0]);
  const results = sizes.map((checks) => ({ checks, ...measured(descriptors, tokens, checks) }));
  const [first] = results;
  for (const { checks, ms, allowed } of results) {
    const growth = (ms / checks / (first.ms / first.checks)).toFixed(2);
    say(
      `  ${String(checks).padStart(8)} checks  ${ms < 10 ? ms.toFixed(1) : Math.round(ms)} ms, ${Math.round((100 * allowed) / checks)} of 100 allowed; ${growth} times the time per check at ${first.checks}`,
    );
  }
}

function measured(descriptors, tokens, checks) {
  let allowed = 0;
  const ms = timedOver(rounds, () => {
    allowed = 0;
    for (let index = 0; index < checks; index += 1) {
      const mask = 1 << (1 + (index % 4));
      const decision = checkAccess(descriptors[index % descriptors.length], tokens[index % tokens.length], mask);
      if (decision.isAllowed) allowed += 1;
    }
  });
  return { ms, allowed };
}

const account = (index) => `S-1-5-21-1-2-3-${1000 + index}`;

/** Read from bytes, as they come from a machine. */
function descriptorOf(index) {
  const entries = Array.from({ length: entriesADescriptor }, (_, at) => {
    const kind = at < 2 ? 'D' : 'A';
    return `(${kind};;0x${((index + at) % 31).toString(16)};;;${account((index * 7 + at * 13) % 400)})`;
  });
  const { value } = readSddl(`O:BAG:BAD:${entries.join('')}`);
  return readDescriptorBytes(descriptorBytes(value)).value;
}

const tokenOf = (index) => ({
  user: account(index),
  groups: Array.from({ length: groupsAToken }, (_, at) => account((index * 11 + at * 17) % 400)),
  denyOnly: [],
});
