/** What answers of ICMP mean that say that something could not be reached (RFC 792, RFC 1812 §5.2.7.1). */
const version4: Readonly<Record<number, string>> = {
  0: 'there is no way to the network',
  1: 'the machine can’t be reached',
  2: 'the machine doesn’t speak the protocol',
  3: 'the port is closed or blocked',
  5: 'the route that was asked for has failed',
  6: 'the network is not known',
  7: 'the machine is not known',
  8: 'the machine is cut off',
  9: 'the network is prohibited',
  10: 'the machine is prohibited',
  11: 'the network can’t be reached with this type of service',
  12: 'the machine can’t be reached with this type of service',
  13: 'a rule prohibits it',
  14: 'the machine’s precedence prohibits it',
  15: 'the precedence is too low',
};
/** Of ICMPv6 (RFC 4443 §3.1). */
const version6: Readonly<Record<number, string>> = {
  0: 'there is no way to the machine',
  1: 'a rule prohibits it',
  2: 'the address is beyond the scope of the sender',
  3: 'the machine can’t be reached',
  4: 'the port is closed or blocked',
  5: 'a rule prohibits the sender’s address',
  6: 'the way to the machine is rejected',
};
/** IPv4: the packet was too large, and is sent again in smaller parts. */
const tooLarge = 4;

/** @returns null where the answer doesn’t end a connection */
export function unreachableWords(code: number, isVersion6: boolean): string | null {
  if (!isVersion6 && code === tooLarge) return null;
  return (isVersion6 ? version6 : version4)[code] ?? `it can’t be reached (code ${code})`;
}
