import ipaddr from 'ipaddr.js';

/** Whether an address to listen on is reached from this computer alone; a name other than localhost is not looked up. */
export function isLoopback(host: string): boolean {
  if (host === 'localhost') return true;
  if (!ipaddr.isValid(host)) return false;
  return ipaddr.process(host).range() === 'loopback';
}

/** Outside loopback nothing is served in the clear, whatever is wished. */
export const needsTls = (host: string, wish: 'auto' | 'yes'): boolean => wish === 'yes' || !isLoopback(host);
