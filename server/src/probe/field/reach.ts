import { DeviceLine } from '@loyal-hinge/field';
import type { PlacesLine } from '@loyal-hinge/field';
import { dialTcp } from '../dial.js';

/** A device that is to be read by hand. */
export interface DeviceAddress {
  /** As the plant calls it. */
  readonly name: string;
  readonly address: string;
  readonly port: number;
  /** How long dialling, and each answer, may take in milliseconds. */
  readonly connectMs: number;
  readonly answerMs: number;
}

/** Who reads devices for the server from another place. */
export interface FarReaders {
  /** @returns a connection that can be asked, or in words why there is none */
  open(readerId: string, device: DeviceAddress, signal: AbortSignal): Promise<PlacesLine | string>;
}

/**
 * Connects to a device, from here or from where somebody else reads for us.
 * @param readerId by whom; null or undefined: the server itself
 * @returns a connection that can be asked, or in words why there is none
 */
export async function reachDevice(
  far: FarReaders,
  readerId: string | null | undefined,
  device: DeviceAddress,
  signal: AbortSignal,
): Promise<PlacesLine | string> {
  if (readerId !== null && readerId !== undefined) return far.open(readerId, device, signal);
  const { name, address, port, connectMs, answerMs } = device;
  const { outcome, socket } = await dialTcp(address, port, null, connectMs, signal);
  return socket ? new DeviceLine(socket, answerMs) : `${name}, ${address} port ${port}: ${outcome}.`;
}
