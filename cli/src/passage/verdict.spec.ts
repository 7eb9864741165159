import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hinge } from '../main';

const folder = mkdtempSync(join(tmpdir(), 'passage-'));
const written = (name: string, text: string): string => {
  const file = join(folder, name);
  writeFileSync(file, text);
  return file;
};
async function run(
  ...args: readonly string[]
): Promise<{ code: number; answers: readonly Record<string, unknown>[]; errors: string }> {
  let [out, errors] = ['', ''];
  const code = await hinge(
    ['passage', 'verdict', ...args],
    { write: (text) => (out += text) },
    { write: (text) => (errors += text) },
  );
  return {
    code,
    errors,
    answers: out
      .split('\n')
      .filter(Boolean)
      .map((line) => JSON.parse(line) as Record<string, unknown>),
  };
}

const rules = written(
  'rules.nft',
  'table inet plant {\n  chain forward {\n    type filter hook forward priority filter; policy drop;\n    tcp dport 4840 accept\n    tcp dport 4841 frobnicate\n  }\n}\n',
);
const packet = {
  id: 'a',
  hook: 'forward',
  in: 'lan',
  out: 'wan',
  source: '10.1.0.5',
  destination: '10.3.0.7',
  protocol: 'tcp',
  destinationPort: 4840,
  state: 'new',
};
const packets = (...of: readonly object[]): string =>
  written('packets.jsonl', of.map((each) => JSON.stringify(each)).join('\n'));

describe('hinge passage verdict', () => {
  it('answers each packet with the rule that decides', async () => {
    const { code, answers } = await run(
      '--rules',
      rules,
      '--packets',
      packets(packet, { ...packet, id: 'b', destinationPort: 22 }),
      '--json',
    );
    expect(code).toBe(0);
    expect(answers).toEqual([
      {
        id: 'a',
        verdict: 'accept',
        rule: { table: 'plant', chain: 'forward', index: 0, text: 'tcp dport 4840 accept' },
      },
      { id: 'b', verdict: 'drop' },
    ]);
  });

  it('says why it can’t tell', async () => {
    const { answers } = await run(
      '--rules',
      rules,
      '--packets',
      packets({ ...packet, destinationPort: 4841 }),
      '--json',
    );
    expect(answers).toMatchObject([
      { id: 'a', verdict: 'unknown', rule: { index: 1 }, why: expect.stringContaining('frobnicate') as string },
    ]);
  });

  it('answers what is no packet with its error, and the others all the same', async () => {
    const { code, answers } = await run(
      '--rules',
      rules,
      '--packets',
      packets({ ...packet, source: 'here' }, packet),
      '--json',
    );
    expect(code).toBe(3);
    expect(answers).toMatchObject([
      { id: 'a', error: expect.stringContaining('source') as string },
      { verdict: 'accept' },
    ]);
  });

  it.each([
    [['--rules', rules], 'which packets'],
    [['--rules', join(folder, 'none'), '--packets', rules, '--json'], 'can’t be read'],
    [['--rules', rules, '--format', 'nft-json', '--packets', rules, '--json'], 'no JSON'],
    [['--rules', rules, '--format', 'other', '--packets', rules, '--json'], 'no format'],
    [['--rules', rules, '--profile', 'home', '--packets', rules, '--json'], 'no profile'],
  ])('doesn’t run with %j', async (args, says) => {
    const { code, errors } = await run(...args);
    expect(code).toBe(2);
    expect(errors).toContain(says);
  });
});
