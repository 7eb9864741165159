import { OctetReader } from '../octets/reader.js';
import { WireFault } from '../octets/wire-fault.js';
import { headOctets } from './pdu.js';
import type { Securing, Verifier } from './pdu.js';
import { openProtected } from './protection.js';
import type { Protection } from './protection.js';
import { levelOf, protects } from './security.js';
import type { Agreeing, Caller, Level, SaidAccount, ServerAgreement } from './security.js';

/** One agreement on security: under way, made, or refused. */
interface Agreed {
  readonly contextId: number;
  readonly service: number;
  readonly level: Level;
  readonly agreement: ServerAgreement;
  state:
    | { readonly is: 'under way' }
    | { readonly is: 'refused' }
    | { readonly is: 'made'; readonly protection: Protection; readonly account: SaidAccount | null };
}

/** What a call comes under. */
export interface Coming {
  readonly isRefused: boolean;
  readonly account: SaidAccount | null;
  readonly level: Level;
  /** What its answer is written under. */
  readonly protection: Protection | null;
}
const open: Coming = { isRefused: false, account: null, level: 'none', protection: null };

const mostAgreements = 16;

/** The agreements of one connection, each under its number: a client may sign in again, as another or at another level (MS-RPCE 3.3.1.5.4). */
export class ServerSecurity {
  private readonly agreed = new Map<number, Agreed>();
  private last: Agreed | null = null;

  constructor(
    private readonly agreeing: Readonly<Record<number, Agreeing>>,
    private readonly address: string,
  ) {}

  /** Whether somebody has begun to sign in and has not ended it. */
  get isHalf(): boolean {
    return [...this.agreed.values()].some(({ state }) => state.is === 'under way');
  }

  /** The first leg. @returns what goes with the answer, or why there is none: a reason of a bind that is refused (C706 12.6.4.5) */
  begin({ type, level: number, contextId, value }: Verifier): Securing | number {
    const agreeing = this.agreeing[type];
    const level = levelOf(number);
    if (!agreeing) return 8;
    if (level === null) return 9;
    if (this.agreed.size >= mostAgreements) throw new WireFault('More agreements on security than anybody needs.', 2);
    const agreement = agreeing(value, { address: this.address, level });
    this.last = { contextId, service: type, level, agreement, state: { is: 'under way' } };
    this.agreed.set(contextId, this.last);
    const { challenge } = agreement;
    return { type, level: number, contextId, length: challenge.length, value: () => challenge };
  }

  /** The third leg, which nothing answers. */
  end(verifier: Verifier | null): void {
    const found = verifier && this.agreed.get(verifier.contextId);
    if (!found || found.state.is !== 'under way')
      throw new WireFault('A third leg of security that nobody waits for.', 2);
    const taken = found.agreement.take(verifier.value);
    const { service, level, contextId } = found;
    found.state =
      'refused' in taken
        ? { is: 'refused' }
        : { is: 'made', account: taken.account, protection: { service, level, contextId, security: taken.security } };
  }

  /** Looks at a request before it is believed, and decrypts it in its place. @throws {WireFault} */
  open(octets: Uint8Array): Coming {
    const found = this.agreementOf(octets);
    if (!found) return open;
    const { state, level } = found;
    if (state.is === 'under way') throw new WireFault('A call before security is agreed on.', 2);
    // Nothing is agreed on with whoever was refused: only its calls can be told so.
    if (state.is === 'refused') return { ...open, isRefused: true };
    openProtected(octets, state.protection);
    return { isRefused: false, account: state.account, level, protection: protects(level) ? state.protection : null };
  }

  private agreementOf(octets: Uint8Array): Agreed | null {
    const isLittleEndian = ((octets[4] ?? 0) & 0xf0) === 0x10;
    const length = new OctetReader(octets.subarray(10, 12), isLittleEndian).u16();
    if (length === 0) return this.last;
    const at = octets.length - length - 4;
    if (at < headOctets) throw new WireFault('The signature does not fit into the PDU.', 10);
    const contextId = new OctetReader(octets.subarray(at, at + 4), isLittleEndian).u32();
    const found = this.agreed.get(contextId);
    if (!found) throw new WireFault('A call under an agreement that is not known.', at);
    return found;
  }
}

export const callerOf = ({ account, level }: Coming, address: string): Caller => ({ account, level, address });
