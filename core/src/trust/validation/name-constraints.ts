import type { Certificate } from '../certificate.js';
import type { GeneralName } from '../x509/general-name.js';
import { nameAttribute } from '../x509/name.js';
import type { IssuerFault } from './usage.js';

/** Made up to keep us busy: real ones have a few names and a few subtrees. */
const mostComparisons = 200_000;

const tooMany = ({ subject }: Certificate): string =>
  `${subject.text} has name constraints that would take more than ${mostComparisons.toLocaleString('en')} comparisons with the names below it. They are not made.`;

/**
 * Name constraints (RFC 5280 §4.2.1.10, §6.1.3 b and c): every name of what hangs below an authority with constraints is
 * within its permitted subtrees of that kind and outside its excluded ones. Self-issued authorities on the way are exempt.
 */
export function nameConstraintFault(path: readonly Certificate[]): IssuerFault | null {
  let compared = 0;
  for (let index = path.length - 1; index > 0; index -= 1) {
    const issuer = path[index] as Certificate;
    const { nameConstraints } = issuer.extensions;
    if (!nameConstraints) continue;
    for (let below = index - 1; below >= 0; below -= 1) {
      const certificate = path[below] as Certificate;
      if (below > 0 && certificate.isSelfIssued) continue;
      const names = namesOf(certificate, below === 0);
      compared += names.length * (nameConstraints.permitted.length + nameConstraints.excluded.length);
      if (compared > mostComparisons) return { certificate: issuer, says: tooMany(issuer) };
      for (const name of names) {
        const says = faultOf(name, nameConstraints.permitted, nameConstraints.excluded);
        if (says !== null)
          return {
            certificate: issuer,
            says: `${issuer.subject.text} may not sign for ${certificate.subject.text}: ${says}`,
          };
      }
    }
  }
  return null;
}

/** Also what stands in the subject alone: mail addresses, and a common name that reads as a host, as many still take it. */
function namesOf({ subject, extensions }: Certificate, isLeaf: boolean): readonly GeneralName[] {
  const hosts = isLeaf ? subject.valuesOf(nameAttribute.commonName).filter((name) => readsAsHost.test(name)) : [];
  return [
    ...(subject.isEmpty ? [] : [{ kind: 'directory' as const, name: subject }]),
    ...subject.valuesOf(nameAttribute.emailAddress).map((value) => ({ kind: 'email' as const, value })),
    ...hosts.map((value) => ({ kind: 'dns' as const, value })),
    ...(extensions.alternativeNames ?? []),
  ];
}

const readsAsHost = /^(?:[a-z0-9_](?:[a-z0-9_-]{0,62})\.)+[a-z0-9-]{1,63}$/i;

function faultOf(
  name: GeneralName,
  permitted: readonly GeneralName[],
  excluded: readonly GeneralName[],
): string | null {
  const ofKind = (list: readonly GeneralName[]): readonly GeneralName[] =>
    list.filter(({ kind }) => kind === name.kind);
  const allowed = ofKind(permitted);
  const forbidden = ofKind(excluded);
  if (allowed.length === 0 && forbidden.length === 0) return null;
  if (name.kind === 'other') return 'it constrains a kind of name that is not known here.';
  if (forbidden.some((subtree) => isWithin(name, subtree, true)))
    return `${told(name)} is excluded (name constraints).`;
  if (allowed.length > 0 && !allowed.some((subtree) => isWithin(name, subtree, false)))
    return `${told(name)} is not among the names permitted (name constraints).`;
  return null;
}

const told = (name: GeneralName): string =>
  name.kind === 'directory'
    ? name.name.text
    : name.kind === 'ip'
      ? `the address ${[...name.bytes].join('.')}`
      : name.value;

/** @param whenInDoubt what counts where a name can’t be compared: excluded, and not permitted */
function isWithin(name: GeneralName, subtree: GeneralName, whenInDoubt: boolean): boolean {
  if (name.kind === 'directory' && subtree.kind === 'directory') {
    const base = subtree.name.relativeKeys;
    return base.every((key, index) => name.name.relativeKeys[index] === key);
  }
  if (name.kind === 'ip' && subtree.kind === 'ip') return addressWithin(name.bytes, subtree.bytes, whenInDoubt);
  if (name.kind === 'dns' && subtree.kind === 'dns') return hostWithin(name.value, subtree.value, 'and below');
  if (name.kind === 'email' && subtree.kind === 'email') return mailboxWithin(name.value, subtree.value, whenInDoubt);
  if (name.kind === 'uri' && subtree.kind === 'uri') {
    const host = /^[a-z][a-z0-9+.-]*:\/\/(?:[^@/?#]*@)?([^:/?#[\]]+)(?::\d*)?(?:[/?#]|$)/i.exec(name.value)?.[1];
    return host === undefined || /^[\d.]+$/.test(host) ? whenInDoubt : hostWithin(host, subtree.value, 'itself');
  }
  return whenInDoubt;
}

/** A leading dot takes in what is below and not the host itself. */
function hostWithin(host: string, subtree: string, without: 'itself' | 'and below'): boolean {
  const [name, base] = [host.toLowerCase(), subtree.toLowerCase()];
  if (base === '') return true;
  if (base.startsWith('.')) return name.endsWith(base) && name.length > base.length;
  return name === base || (without === 'and below' && name.endsWith(`.${base}`));
}

function mailboxWithin(mailbox: string, subtree: string, whenInDoubt: boolean): boolean {
  const at = mailbox.lastIndexOf('@');
  if (at < 1 || at === mailbox.length - 1) return whenInDoubt;
  const [local, host] = [mailbox.slice(0, at), mailbox.slice(at + 1)];
  const baseAt = subtree.lastIndexOf('@');
  if (baseAt < 0) return hostWithin(host, subtree, 'itself');
  return local === subtree.slice(0, baseAt) && host.toLowerCase() === subtree.slice(baseAt + 1).toLowerCase();
}

function addressWithin(address: Uint8Array, subtree: Uint8Array, whenInDoubt: boolean): boolean {
  if (![4, 16].includes(address.length) || ![8, 32].includes(subtree.length)) return whenInDoubt;
  if (subtree.length !== 2 * address.length) return false;
  return address.every((byte, index) => {
    const mask = subtree[address.length + index] ?? 0;
    return (byte & mask) === ((subtree[index] ?? 0) & mask);
  });
}
