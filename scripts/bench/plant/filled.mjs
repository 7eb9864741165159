import { once } from 'node:events';
import { from as copyFrom } from 'pg-copy-streams';
import { linkKinds } from '../../../core/dist/index.js';

const text = (value) =>
  value === null
    ? '\\N'
    : String(value).replace(
        /[\\\t\n\r]/g,
        (letter) => ({ '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' })[letter],
      );

async function copy(client, into, rows) {
  const stream = client.query(copyFrom(`copy ${into} from stdin`));
  for (const row of rows) if (!stream.write(`${row.map(text).join('\t')}\n`)) await once(stream, 'drain');
  stream.end();
  await once(stream, 'finish');
}

/** Certificates, lists and ways of a synthetic plant, past the server: nothing of it can be read from anybody. */
export async function fillTrust(client, { shown, lists, certificates }) {
  const at = new Date(Date.now() - 86_400_000).toISOString();
  await client.query('begin');
  await copy(
    client,
    'certificates (thumbprint, der)',
    certificates.map(({ thumbprint, der }) => [thumbprint, der.toString('base64')]),
  );
  await copy(
    client,
    'application_certificates (application_id, thumbprint)',
    [...shown].map(([id, { certificate }]) => [id, certificate.thumbprint]),
  );
  await copy(
    client,
    'trust_ways (application_id, way)',
    [...shown.keys()].map((id) => [id, 'files']),
  );
  await copy(
    client,
    'trust_readings (application_id, read_at, source, by)',
    [...shown.keys()].map((id) => [id, at, 'reported', 'a file']),
  );
  await copy(
    client,
    'trust_entries (application_id, list, thumbprint)',
    [...lists].flatMap(([id, { trusted }]) => [...trusted].map((thumbprint) => [id, 'trusted', thumbprint])),
  );
  await client.query('commit');
}

const verdictsOf = (index) => {
  const at = index % 20;
  if (at === 0) return { state: 'Parted', verdicts: [...Array(7).fill('holds'), 'fails', ...Array(5).fill('unknown')] };
  if (at === 1) return { state: 'Parted', verdicts: ['holds', 'fails', ...Array(11).fill('unknown')] };
  if (at === 2) return { state: 'Strained', verdicts: [...Array(5).fill('holds'), 'weak', ...Array(7).fill('holds')] };
  if (at === 3) return null;
  return { state: 'Sound', verdicts: Array(13).fill('holds') };
};
const steps = linkKinds.ua.steps.map(({ id }) => id);

/** The newest check of each link with what it amounts to, and two years of facts of earlier ones. */
export async function fillChecks(client, links, factsInAll) {
  await client.query('begin');
  const checked = links.map((link, index) => ({ link, found: verdictsOf(index) })).filter(({ found }) => found);
  await copy(
    client,
    'checks (id, link_id, state, asked_by, asked_at, begun_at, ended_at, found)',
    checked.map(({ link: { id }, found }, index) => {
      const at = new Date(Date.now() - 60_000 * (index % 1000)).toISOString();
      return [`newest-${id}`, id, 'done', 'the bench', at, at, at, found.state];
    }),
  );
  await copy(
    client,
    'assessments (link_id, check_id, at, body, state, headline, parted_at, leading_cause, verdicts)',
    checked.map(({ link: { id }, found: { state, verdicts } }, index) => {
      const at = new Date(Date.now() - 60_000 * (index % 1000)).toISOString();
      const failed = verdicts.indexOf('fails');
      const partedAt = failed < 0 ? null : steps[failed];
      const headline =
        failed < 0
          ? 'All that this link needs holds.'
          : `It stops at the step “${partedAt}”, for a reason that takes a sentence or two to explain to whoever has to mend it.`;
      const body = {
        linkId: id,
        state,
        headline,
        partedAt,
        leadingCause: partedAt && 'made-up',
        steps: steps.map((step, place) => ({
          step,
          verdict: verdicts[place],
          summary: '',
          source: 'tried',
          evidence: [],
          findings: [],
        })),
      };
      return [
        id,
        `newest-${id}`,
        at,
        JSON.stringify(body),
        state,
        headline,
        partedAt,
        partedAt && 'made-up',
        `{${verdicts.join(',')}}`,
      ];
    }),
  );
  await client.query('commit');
  // Otherwise the months of the first two years are let go as soon as the server starts.
  await client.query(
    "insert into settings (key, value) values ('checksKeptDays', '800') on conflict (key) do update set value = excluded.value",
  );
  await client.query("select make_parts('facts', 'month', now() - interval '2 years', now())");
  await client.query(
    `insert into facts (id, position, check_id, link_id, source, at, body)
       select 'c' || (n / 20) || '/' || (n % 20), n % 20, 'c' || (n / 20), 'link-' || lpad((n / 20 % $2)::text, 5, '0'), 'tried',
         now() - interval '2 years' * (n::float / $1),
         jsonb_build_object('kind', 'item-read', 'path', 'Values/Value ' || (n % 50), 'code', 'Good', 'dataType', 'Double', 'value', n)
       from generate_series(0, $1 - 1) n`,
    [factsInAll, links.length],
  );
  await client.query(
    `insert into checks (id, link_id, state, asked_by, asked_at, begun_at, ended_at, found)
       select 'c' || n, 'link-' || lpad((n % $2)::text, 5, '0'), 'done', 'the bench', at, at, at, 'Sound'
       from (select n, now() - interval '2 years' * (n * 20.0 / $1) as at from generate_series(0, $1 / 20 - 1) n) made`,
    [factsInAll, links.length],
  );
  await client.query('analyze');
}
