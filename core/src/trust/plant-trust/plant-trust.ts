import type { Certificate, Thumbprint } from '../certificate.js';
import type { Crl } from '../crl.js';
import type { Waiver } from '../validation/waivers.js';

/** How the trust list of an application can be changed. */
export const trustWays = ['held', 'push', 'files', 'unknown'] as const;
/** `held`: the product holds it; `push`: over the standard’s push interface (Part 12 §7); `files`: by a bundle taken to the machine; `unknown`: nobody has said. */
export type TrustWay = (typeof trustWays)[number];

/** What lies in the lists of an application (Part 12 §7.8.2), and what it has set aside (§7.10.13). */
export interface KnownLists {
  readonly trusted: readonly Certificate[];
  readonly issuers: readonly Certificate[];
  readonly trustedCrls: readonly Crl[];
  readonly issuerCrls: readonly Crl[];
  readonly rejected: readonly Certificate[];
  /** Why CRLs that lay there can’t be read. */
  readonly unreadableCrls?: readonly string[];
}

/** The CRLs of both lists: to a validation they are one. */
export const crlsOf = ({ trustedCrls, issuerCrls }: KnownLists): readonly Crl[] =>
  issuerCrls.length === 0 ? trustedCrls : [...trustedCrls, ...issuerCrls];

/** An application as one that shows a certificate and as one that trusts others. */
export interface TrustParty {
  readonly applicationId: string;
  readonly name: string;
  readonly applicationUri: string;
  /** What it shows to others; null: not known. */
  readonly certificate: Certificate | null;
  /** null: nobody has read them yet. */
  readonly lists: KnownLists | null;
  readonly way: TrustWay;
  /** Whether it must be restarted before a change of its lists counts. */
  readonly restarts: boolean;
  /** Steps that it passes over for single certificates, until a date. */
  readonly waivers: readonly Waiver[];
}

/** A wanted link, as far as trust is concerned. */
export interface TrustLink {
  readonly linkId: string;
  readonly name: string;
  readonly clientId: string;
  readonly serverId: string;
  /** The host by which the client dials the server; null: not known, and not compared. */
  readonly host: string | null;
  /** False where the link uses no security, so that no certificate is looked at. */
  readonly secured: boolean;
}

/** Who trusts whom in a plant, as far as it is known. */
export interface PlantTrust {
  readonly parties: readonly TrustParty[];
  readonly links: readonly TrustLink[];
  /** Whether an authority without a usable CRL is a failure. */
  readonly crlsDemanded: boolean;
  /** Milliseconds since 1970. */
  readonly at: number;
}

/** One application must accept the certificate of another, for a link. Each secured link has two of them. */
export interface TrustNeed {
  readonly link: TrustLink;
  readonly holder: TrustParty;
  readonly shown: TrustParty;
  /** Compared with the certificate where the holder dials by it; null where the holder is the server. */
  readonly host: string | null;
}

/** All needs of the links: the client’s, then the server’s. Links with an end that is not there are passed over. */
export function trustNeeds({ parties, links }: Pick<PlantTrust, 'parties' | 'links'>): readonly TrustNeed[] {
  const byId = new Map(parties.map((party) => [party.applicationId, party]));
  return links.flatMap((link) => {
    const client = byId.get(link.clientId);
    const server = byId.get(link.serverId);
    if (!link.secured || !client || !server) return [];
    return [
      { link, holder: client, shown: server, host: link.host },
      { link, holder: server, shown: client, host: null },
    ];
  });
}

/** Everything that may be put into lists, by thumbprint, and the CRLs by their issuer’s name. */
export interface Shelf {
  readonly certificates: ReadonlyMap<Thumbprint, Certificate>;
  readonly crls: readonly Crl[];
}

/** All certificates and CRLs that stand anywhere in the plant. */
export function shelfOf({ parties }: Pick<PlantTrust, 'parties'>, more: readonly Certificate[] = []): Shelf {
  const certificates = new Map<Thumbprint, Certificate>();
  const add = (certificate: Certificate | null): void => {
    if (certificate) certificates.set(certificate.thumbprint, certificate);
  };
  const crls = new Set<Crl>();
  for (const { certificate, lists } of parties) {
    add(certificate);
    for (const listed of [...(lists?.trusted ?? []), ...(lists?.issuers ?? []), ...(lists?.rejected ?? [])])
      add(listed);
    for (const crl of lists ? crlsOf(lists) : []) crls.add(crl);
  }
  more.forEach(add);
  return { certificates, crls: [...crls] };
}
