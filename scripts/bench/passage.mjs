import { judgePacket, readPacket, readRuleSet } from '../../core/dist/index.js';
import { timedOver } from './timing.mjs';

const links = 5_000;
const sizes = [1_000, 10_000, 100_000];
const rounds = 3;

/** Verdicts for 5,000 links at one device, by how many rules it has: half of them fit one rule, half none. */
export function passage(say) {
  say(`\nVerdicts for ${links} links at one device’s rules (medians of ${rounds}):`);
  const packets = Array.from({ length: links }, (_, index) => packetOf(index));
  judged(read(rulesOf(200)), packets);
  const results = sizes.map((rules) => {
    const text = rulesOf(rules);
    const readMs = timedOver(1, () => read(text));
    const ruleSet = read(text);
    return { rules, readMs, ms: timedOver(rounds, () => judged(ruleSet, packets)) };
  });
  const [first] = results;
  for (const { rules, readMs, ms } of results)
    say(
      `  ${String(rules).padStart(7)} rules  ${Math.round(ms)} ms, ${(ms / rules / (first.ms / first.rules)).toFixed(2)} times the time per rule at ${first.rules}; read in ${Math.round(readMs)} ms`,
    );
}

function read(text) {
  const told = readRuleSet(text, 'iptables');
  if (!told.ok) throw new Error(told.says);
  return told.ruleSet;
}

const judged = (ruleSet, packets) =>
  packets.filter((packet) => judgePacket(ruleSet, packet).verdict === 'accept').length;

const host = (index) => `10.${index % 200}.${(index * 7) % 250}.${1 + (index % 250)}`;
const server = (index) => `10.${(index * 3) % 200}.${(index * 11) % 250}.${1 + ((index * 13) % 250)}`;
const port = (index) => 1_000 + (index % 5_000);

const rulesOf = (count) =>
  `*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n${Array.from(
    { length: count },
    (_, index) =>
      `-A FORWARD -s ${host(index)}/24 -d ${server(index)}/32 -p tcp -m tcp --dport ${port(index)} -j ACCEPT\n`,
  ).join('')}COMMIT\n`;

function packetOf(index) {
  const told = readPacket(
    {
      hook: 'forward',
      in: 'plant',
      out: 'office',
      source: host(index),
      destination: server(index),
      protocol: 'tcp',
      destinationPort: port(index) + (index % 2) * 7_000,
      state: 'new',
    },
    null,
  );
  if (!told.ok) throw new Error(told.says);
  return told.packet;
}
