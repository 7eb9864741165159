const mostMessage = 16 << 10;

/** Cuts what comes over TCP into messages: with their length before them, or each on a line (RFC 6587 §3.4). */
export class SyslogMessages {
  private held = Buffer.alloc(0);

  constructor(private readonly tell: (message: Uint8Array) => void) {}

  take(bytes: Uint8Array): void {
    this.held = Buffer.concat([this.held, bytes]);
    for (;;) {
      const counted = /^([1-9]\d{0,5}) /.exec(this.held.subarray(0, 8).toString('latin1'));
      const from = counted ? counted[0].length : 0;
      const length = Number(counted?.[1]);
      if (counted && length <= mostMessage) {
        if (this.held.length < from + length) return;
        this.tell(this.held.subarray(from, from + length));
        this.held = this.held.subarray(from + length);
        continue;
      }
      const end = this.held.indexOf(0x0a);
      if (end < 0) {
        /* Nobody holds more than one message: what is longer comes in pieces. */
        if (this.held.length > mostMessage) this.end();
        return;
      }
      this.tell(this.held.subarray(0, end));
      this.held = this.held.subarray(end + 1);
    }
  }

  end(): void {
    if (this.held.length > 0) this.tell(this.held);
    this.held = Buffer.alloc(0);
  }
}
