/** What a peer sent is not what the protocol allows. Whoever reads from a connection ends it on this, and nothing else. */
export class WireFault extends Error {
  override readonly name = 'WireFault';
  /** @param at where, in octets from the start of what was read; null: it is about the whole */
  constructor(
    message: string,
    readonly at: number | null = null,
  ) {
    super(message);
  }
}
