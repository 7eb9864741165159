/**
 * Qualities of classic Data Access (2.05a §6.8) and status codes of OPC UA, as they stand for one another (Part 8 Annex A). What one
 * side has no word for becomes its plain bad or uncertain.
 */
const pairs: readonly (readonly [quality: number, status: number])[] = [
  [0x00, 0x8000_0000], // Bad
  [0x04, 0x8089_0000], // BadConfigurationError
  [0x08, 0x808a_0000], // BadNotConnected
  [0x0c, 0x808b_0000], // BadDeviceFailure
  [0x10, 0x808c_0000], // BadSensorFailure
  [0x18, 0x8031_0000], // BadNoCommunication
  [0x1c, 0x808d_0000], // BadOutOfService
  [0x20, 0x8032_0000], // BadWaitingForInitialData
  [0x40, 0x4000_0000], // Uncertain
  [0x44, 0x4090_0000], // UncertainLastUsableValue
  [0x50, 0x4093_0000], // UncertainSensorNotAccurate
  [0x54, 0x4094_0000], // UncertainEngineeringUnitsExceeded
  [0x58, 0x4095_0000], // UncertainSubNormal
  [0xc0, 0x0000_0000], // Good
  [0xd8, 0x0096_0000], // GoodLocalOverride
];
/** Bad, its last value known: of UA’s codes this says it best. */
const lastKnown = 0x14;

/** What a classic quality means as a status code. @param quality its lower eight bits count; limits and the server’s own bits do not */
export function statusOfQuality(quality: number): number {
  const known = quality & 0xfc;
  if (known === lastKnown) return 0x808d_0000;
  const found = pairs.find(([each]) => each === known);
  if (found) return found[1];
  return (known & 0xc0) === 0xc0 ? 0 : (known & 0xc0) === 0x40 ? 0x4000_0000 : 0x8000_0000;
}

/** What a status code means as a classic quality. @param status its severity and sub-code count; bits of information do not */
export function qualityOfStatus(status: number): number {
  const code = (status & 0xffff_0000) >>> 0;
  const found = pairs.find(([, each]) => each === code);
  if (found) return found[0];
  const severity = code >>> 30;
  return severity === 0 ? 0xc0 : severity === 1 ? 0x40 : 0x00;
}
