import { gte, sql } from 'drizzle-orm';
import { JudgeMemory, PlanMemory, withPromises } from '@loyal-hinge/core';
import type { Certificate, Crl, JudgedTrust, Plant, TrustLink, TrustParty } from '@loyal-hinge/core';
import { allCrls, crlsBy } from '../../certificates/crls.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { allCertificates, certificatesBy } from '../../certificates/store.js';
import type { Database } from '../../database/database.js';
import { trustVersions } from '../../database/schema.js';
import { readSetting } from '../../database/settings.js';
import { readPlaces } from '../../plant/places.js';
import type { Places } from '../../plant/places.js';
import type { Reading } from '../lists/readings.js';
import type { KeptWay } from '../lists/ways.js';
import { readParties } from './parties.js';
import { pushTrustLink, readTrustLinks } from './trust-links.js';
import type { KnownTrust } from './known-trust.js';

/** What is known, and what is made of it. */
export interface JudgedKnown {
  readonly known: KnownTrust;
  readonly judged: JudgedTrust;
  readonly keeper: TrustKeeper;
}

/** Parts of what is known that have changed. */
interface Changes {
  readonly everything: boolean;
  readonly places: boolean;
  readonly applications: readonly string[];
  readonly links: readonly string[];
  readonly certificates: readonly string[];
  readonly crls: readonly string[];
}

/**
 * All that is known of trust, kept in memory between two questions: what has changed since is read, and nothing else. What has
 * not changed stays the same object, by which judges and planners tell what they need not look at again.
 */
export class TrustKeeper {
  /** What is judged on paper may hold promises; what was met holds none. */
  readonly judged = new JudgeMemory(withPromises(nodeVerifier));
  private readonly plans = new Map<string, PlanMemory>();
  /** Transactions from this one on may have changed something that was not seen yet. */
  private seenBefore: string | null = null;
  private places: Places = { name: '', zones: [], zoneOfMachine: new Map() };
  private parties = new Map<string, TrustParty>();
  private applications = new Map<string, Plant['applications'][number]>();
  private readings = new Map<string, Reading>();
  private ways = new Map<string, KeptWay>();
  private links = new Map<string, TrustLink>();
  private pushLinks = new Map<string, TrustLink>();
  private certificates = new Map<string, Certificate>();
  private crls = new Map<string, Crl>();
  /** By name, and made anew only when one of them has changed. */
  private byName: readonly TrustParty[] | null = null;
  private order: readonly string[] = [];
  /** Those of the plant and those of push management. */
  private allLinks: readonly TrustLink[] | null = null;
  private reading: Promise<KnownTrust> | null = null;

  constructor(private readonly db: Database) {}

  /** What is known now. Asked for by several at once, it is read once. */
  now(): Promise<KnownTrust> {
    this.reading ??= this.read().finally(() => (this.reading = null));
    return this.reading;
  }

  /** The same, to be judged as far as it is asked for. */
  async judgedNow(): Promise<JudgedKnown> {
    const known = await this.now();
    return { known, judged: this.judged.of(known.trust), keeper: this };
  }

  /** Plans from before, of one strategy and authority. */
  plansOf(strategy: string, authority: string | null): PlanMemory {
    const key = `${strategy} ${authority ?? ''}`;
    const known = this.plans.get(key) ?? new PlanMemory(nodeVerifier);
    this.plans.set(key, known);
    return known;
  }

  private async read(): Promise<KnownTrust> {
    const { horizon, changes } = await this.changes();
    try {
      if (changes.everything) this.forget();
      await this.readPlaces(changes);
      await this.readShelf(changes);
      await this.readParties(changes);
      await this.readLinks(changes);
    } catch (error) {
      // Half of it may be new: all of it is read again.
      this.seenBefore = null;
      throw error;
    }
    this.seenBefore = horizon;
    return this.put(await readSetting(this.db, 'crlsDemanded'));
  }

  /**
   * What may have changed since the last look. The horizon is taken before the look: a transaction that was under way then
   * has a number from it on, and is seen the next time.
   */
  private async changes(): Promise<{ readonly horizon: string; readonly changes: Changes }> {
    const { rows } = await this.db.execute<{ horizon: string }>(
      sql`select pg_snapshot_xmin(pg_current_snapshot())::text as horizon`,
    );
    const horizon = rows[0]?.horizon ?? '0';
    if (this.seenBefore === null)
      return {
        horizon,
        changes: { everything: true, places: true, applications: [], links: [], certificates: [], crls: [] },
      };
    const changed = await this.db
      .select({ part: trustVersions.part, id: trustVersions.id })
      .from(trustVersions)
      .where(gte(trustVersions.changedBy, this.seenBefore));
    const of = (part: string): readonly string[] => [
      ...new Set(changed.filter((one) => one.part === part).map(({ id }) => id)),
    ];
    const whole = of('plant');
    return {
      horizon,
      changes: {
        everything: whole.includes(''),
        places: whole.length > 0,
        applications: of('application'),
        links: of('link'),
        certificates: of('certificate'),
        crls: of('crl'),
      },
    };
  }

  private forget(): void {
    for (const kept of [this.parties, this.applications, this.readings, this.ways, this.links, this.pushLinks])
      kept.clear();
    this.certificates.clear();
    this.crls.clear();
    this.byName = null;
    this.allLinks = null;
  }

  private async readPlaces({ places }: Changes): Promise<void> {
    if (places) this.places = await readPlaces(this.db);
  }

  private async readShelf({ everything, certificates, crls }: Changes): Promise<void> {
    const [read, readCrls] = everything
      ? await Promise.all([allCertificates(this.db), allCrls(this.db)])
      : await Promise.all([
          certificatesBy(this.db, certificates).then((found) => [...found.values()]),
          crlsBy(this.db, crls).then((found) => [...found.values()]),
        ]);
    for (const certificate of read) this.certificates.set(certificate.thumbprint, certificate);
    for (const crl of readCrls) this.crls.set(crl.id, crl);
  }

  private async readParties({ everything, applications }: Changes): Promise<void> {
    if (!everything && applications.length === 0) return;
    const read = await readParties(this.db, everything ? undefined : applications);
    for (const id of applications) if (!read.parties.has(id)) this.forgetParty(id);
    for (const [id, party] of read.parties) {
      const before = this.parties.get(id);
      if (!before || !isSameParty(before, party)) {
        this.parties.set(id, party);
        this.byName = null;
      }
      putOrDrop(this.readings, id, read.readings.get(id));
      putOrDrop(this.ways, id, read.ways.get(id));
      putOrDrop(this.applications, id, read.applications.get(id));
      this.putPushLink(id, pushTrustLink(read.ways.get(id), party.name));
    }
  }

  private forgetParty(id: string): void {
    for (const kept of [this.parties, this.applications, this.readings, this.ways]) kept.delete(id);
    this.byName = null;
    this.putPushLink(id, null);
  }

  private putPushLink(applicationId: string, link: TrustLink | null): void {
    const before = this.pushLinks.get(applicationId) ?? null;
    if (before === link || (before && link && isSameLink(before, link))) return;
    putOrDrop(this.pushLinks, applicationId, link ?? undefined);
    this.allLinks = null;
  }

  private async readLinks({ everything, links }: Changes): Promise<void> {
    if (!everything && links.length === 0) return;
    this.allLinks = null;
    const read = await readTrustLinks(this.db, everything ? undefined : links);
    for (const id of links) if (!read.has(id)) this.links.delete(id);
    for (const [id, link] of read) {
      const before = this.links.get(id);
      this.links.set(id, before && isSameLink(before, link) ? before : link);
    }
  }

  private put(crlsDemanded: unknown): KnownTrust {
    this.byName ??= this.sorted();
    this.allLinks ??= [...this.links.values(), ...this.pushLinks.values()];
    return {
      places: this.places,
      applications: this.applications,
      trust: {
        parties: this.byName,
        links: this.allLinks,
        crlsDemanded: crlsDemanded === true,
        at: Date.now(),
      },
      shelf: { certificates: this.certificates, crls: [...this.crls.values()] },
      readings: this.readings,
      ways: this.ways,
    };
  }

  /** Sorted anew from the order before: where little has changed, that is quick. */
  private sorted(): readonly TrustParty[] {
    const parties = new Map(this.parties);
    const before = this.order.flatMap((id) => {
      const party = parties.get(id);
      parties.delete(id);
      return party ?? [];
    });
    const sorted = [...before, ...parties.values()].sort((left, right) => names.compare(left.name, right.name));
    this.order = sorted.map(({ applicationId }) => applicationId);
    return sorted;
  }
}

const names = new Intl.Collator();

function putOrDrop<Value>(kept: Map<string, Value>, id: string, value: Value | undefined): void {
  if (value === undefined) kept.delete(id);
  else kept.set(id, value);
}

const isSameLink = (one: TrustLink, other: TrustLink): boolean =>
  one.name === other.name &&
  one.clientId === other.clientId &&
  one.serverId === other.serverId &&
  one.host === other.host &&
  one.secured === other.secured;

/** Certificates and CRLs are the same objects where they are the same. */
function isSameParty(one: TrustParty, other: TrustParty): boolean {
  const [lists, others] = [one.lists, other.lists];
  return (
    one.name === other.name &&
    one.applicationUri === other.applicationUri &&
    one.certificate === other.certificate &&
    one.way === other.way &&
    one.restarts === other.restarts &&
    JSON.stringify(one.waivers) === JSON.stringify(other.waivers) &&
    (lists === null || others === null
      ? lists === others
      : (['trusted', 'issuers', 'rejected', 'trustedCrls', 'issuerCrls'] as const).every((list) =>
          isSameList(lists[list], others[list]),
        ) && isSameList(lists.unreadableCrls ?? [], others.unreadableCrls ?? []))
  );
}

const isSameList = (one: readonly unknown[], other: readonly unknown[]): boolean =>
  one.length === other.length && new Set([...one, ...other]).size === one.length;

const keepers = new WeakMap<Database, TrustKeeper>();

/** The one keeper of a database in this process. */
export function keeperOf(db: Database): TrustKeeper {
  const known = keepers.get(db) ?? new TrustKeeper(db);
  keepers.set(db, known);
  return known;
}
