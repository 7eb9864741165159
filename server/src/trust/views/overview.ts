import { cellsOf, commonName, emptyLists, fitsWords, toCsv } from '@loyal-hinge/core';
import type { Certificate, GridCell, PlantJudge, TrustParty } from '@loyal-hinge/core';
import type { GridChoice, GridPage, PartiesWish, TrustOverview, TrustPartyRow } from '@loyal-hinge/contract';
import type { Places } from '../../plant/places.js';
import type { JudgedKnown } from '../known/keeper.js';
import type { KnownTrust } from '../known/known-trust.js';

const usualRows = 40;

const choices: Readonly<Record<GridChoice, (cell: GridCell) => boolean>> = {
  all: () => true,
  needed: ({ linkIds }) => linkIds.length > 0,
  refused: ({ linkIds, status, standing }) => linkIds.length > 0 && status !== 'Good' && standing !== 'not known',
  idle: ({ linkIds, standing }) => linkIds.length === 0 && standing === 'directly',
};

/**
 * Some applications of the trust grid, with all that they need and list. Where everything is shown, nothing else is judged for
 * it; what is filtered by has to be known of all.
 */
export async function overviewOf(
  { known, judged }: Judged,
  { find = '', only = 'all', from = 0, most = usualRows }: GridPage,
  reading: ReadonlySet<string>,
): Promise<TrustOverview> {
  const isAll = only === 'all' && find.trim() === '';
  const rows: Row[] = [];
  let fitting = 0;
  for await (const row of rowsOf({ known, judged }, { find, only }, isAll ? { from, to: from + most } : null)) {
    if (isAll || (fitting >= from && fitting < from + most)) rows.push(row);
    fitting += 1;
  }
  if (isAll) fitting = known.trust.parties.length;
  const cells = rows.flatMap((row) => row.cells);
  return {
    from,
    fitting,
    reading: reading.size,
    parties: rows.map(({ party }) => partyRow(known, party, reading)),
    columns: await columnsFor(known, judged.judge, cells, isAll ? rows.map(({ party }) => party) : []),
    cells: cells.map((cell) => ({ ...cell, linkIds: [...cell.linkIds] })),
    links: linkNames(known, cells),
  };
}

type Judged = Pick<JudgedKnown, 'known' | 'judged'>;

/** An application with those of its cells that fit. */
interface Row {
  readonly party: TrustParty;
  readonly zone: string;
  readonly cells: readonly GridCell[];
}

/** The rows that fit, in their order; of all rows some may be asked for by their places, and no other is judged. */
async function* rowsOf(
  { known, judged }: Judged,
  { find, only }: { readonly find: string; readonly only: GridChoice },
  places: { readonly from: number; readonly to: number } | null,
): AsyncGenerator<Row> {
  const fits = fitsWords(find);
  const parties = inOrder(known);
  for (const party of places ? parties.slice(places.from, places.to) : parties) {
    const zone = zoneOf(known, party)?.name ?? '';
    const all = await cellsOf(judged, party);
    const cells = places
      ? all
      : all.filter((cell) => choices[only](cell) && fits(party.name, zone, ...wordsOf(known, cell)));
    if (places || cells.length > 0) yield { party, zone, cells };
  }
}

/** The cells that fit, as CSV (RFC 4180): one a line. */
export async function gridCsv(judged: Judged, { find = '', only = 'all' }: GridPage): Promise<string> {
  const { trust, shelf } = judged.known;
  const links = new Map(trust.links.map(({ linkId, name }) => [linkId, name]));
  const lines: string[][] = [];
  for await (const { party, zone, cells } of rowsOf(judged, { find, only }, null))
    for (const { thumbprint, standing, status, says, linkIds } of cells) {
      const name = commonName(shelf.certificates.get(thumbprint)?.subject.text ?? '');
      const needed = linkIds.map((id) => links.get(id) ?? id).join('; ');
      lines.push([zone, party.name, name, thumbprint, standing, status, says, needed]);
    }
  return toCsv(['zone', 'application', 'certificate', 'thumbprint', 'stands', 'status', 'says', 'links'], lines);
}

/** Applications by name, as far as they fit. */
export function partiesOf(
  known: KnownTrust,
  { find = '', way, most = 2000 }: PartiesWish,
  reading: ReadonlySet<string>,
): { fitting: number; parties: TrustPartyRow[] } {
  const fits = fitsWords(find);
  const fitting = known.trust.parties.filter(
    (party) => (way === undefined || party.way === way) && fits(party.name, zoneOf(known, party)?.name ?? ''),
  );
  return { fitting: fitting.length, parties: fitting.slice(0, most).map((party) => partyRow(known, party, reading)) };
}

const wordsOf = ({ shelf }: KnownTrust, { thumbprint, standing }: GridCell): readonly string[] => {
  const subject = shelf.certificates.get(thumbprint)?.subject.text ?? '';
  return [subject, standing];
};

const orders = new WeakMap<
  readonly TrustParty[],
  { readonly places: Places; readonly parties: readonly TrustParty[] }
>();
const names = new Intl.Collator();

/** In the order of their zones, and by name; put into order once as long as nobody comes, goes or changes. */
function inOrder(known: KnownTrust): readonly TrustParty[] {
  const { places, trust } = known;
  const before = orders.get(trust.parties);
  if (before?.places === places) return before.parties;
  const parties = trust.parties
    .map((party) => ({ party, order: zoneOf(known, party)?.order ?? 0 }))
    .sort((left, right) => left.order - right.order || names.compare(left.party.name, right.party.name))
    .map(({ party }) => party);
  orders.set(trust.parties, { places, parties });
  return parties;
}

const zoneOf = ({ applications, places }: KnownTrust, { applicationId }: TrustParty) =>
  places.zoneOfMachine.get(applications.get(applicationId)?.machineId ?? '');

/** One application: how its lists are known and changed. */
export function partyRow(known: KnownTrust, party: TrustParty, reading: ReadonlySet<string>): TrustPartyRow {
  const { applicationId, name, certificate, way, restarts, lists } = party;
  const newest = known.readings.get(applicationId);
  return {
    applicationId,
    name,
    kind: known.applications.get(applicationId)?.kind ?? 'server',
    zone: zoneOf(known, party)?.name ?? '',
    certificate: certificate?.thumbprint ?? null,
    way,
    restarts,
    readAt: newest?.readAt ? ofMs(Date.parse(newest.readAt)) : null,
    fault: newest?.fault ?? null,
    trusted: lists?.trusted.length ?? 0,
    issuers: lists?.issuers.length ?? 0,
    crls: lists ? lists.trustedCrls.length + lists.issuerCrls.length : 0,
    rejected: lists?.rejected.length ?? 0,
    reading: reading.has(applicationId),
  };
}

/** The certificates that cells speak of, and what applications show. */
async function columnsFor(
  { trust, shelf }: KnownTrust,
  judge: PlantJudge,
  cells: readonly GridCell[],
  showing: readonly TrustParty[],
): Promise<TrustOverview['columns']> {
  const wanted = new Set(cells.map(({ thumbprint }) => thumbprint));
  for (const { certificate } of showing) if (certificate) wanted.add(certificate.thumbprint);
  const shownBy = new Map<string, string[]>();
  for (const { applicationId, certificate } of trust.parties)
    if (certificate && wanted.has(certificate.thumbprint))
      shownBy.set(certificate.thumbprint, [...(shownBy.get(certificate.thumbprint) ?? []), applicationId]);
  const revoked = revokedIn({ shelf }, judge);
  const columns: TrustOverview['columns'] = [];
  for (const thumbprint of new Set([...shownBy.keys(), ...wanted])) {
    const certificate = shelf.certificates.get(thumbprint);
    if (!certificate) continue;
    columns.push({
      thumbprint,
      name: commonName(certificate.subject.text),
      subject: certificate.subject.text,
      isAuthority: certificate.isAuthority,
      notAfter: ofMs(certificate.notAfter),
      shownBy: shownBy.get(thumbprint) ?? [],
      revoked: await revoked(certificate),
    });
  }
  return columns;
}

/** Tells which certificates a CRL that is known anywhere revokes, whether or not their holders have it. */
function revokedIn({ shelf }: Pick<KnownTrust, 'shelf'>, judge: PlantJudge) {
  const issuers = [...shelf.certificates.values()].filter(({ isAuthority }) => isAuthority);
  const all = { ...emptyLists, issuers, issuerCrls: shelf.crls };
  return async (certificate: Certificate): Promise<boolean> => {
    if (shelf.crls.length === 0) return false;
    const { findings } = await judge.certificate(all, certificate, null, null);
    return findings[10]?.some(({ kind }) => kind === 'revoked') ?? false;
  };
}

/** Names of the links that cells speak of. */
function linkNames({ trust }: KnownTrust, cells: readonly GridCell[]): Record<string, string> {
  const wanted = new Set(cells.flatMap(({ linkIds }) => linkIds));
  return Object.fromEntries(
    trust.links.filter(({ linkId }) => wanted.has(linkId)).map(({ linkId, name }) => [linkId, name]),
  );
}

const ofMs = (ms: number): string => new Date(ms).toISOString();
