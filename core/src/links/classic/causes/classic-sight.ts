import type { Sight } from '../../cause.js';
import type { ComRight } from '../../../dcom/com-rights.js';
import type { CallLevel } from '../../../plant/plant.js';
import { callLevels, usualCalls } from '../../../plant/plant.js';
import type { FactOf } from '../../facts.js';
import type { ClassicFailure, ClassicRightsFact } from '../facts.js';

/** Whether somebody said that access is denied, in whichever form. */
export const isDenied = (failure: ClassicFailure | null): boolean =>
  failure !== null && failure.by !== 'way' && (failure.code === accessDenied || failure.code === deniedHresult);
const [accessDenied, deniedHresult] = [0x00000005, 0x80070005];

export const hasCode = (failure: ClassicFailure | null, ...codes: readonly number[]): boolean =>
  failure !== null && failure.by !== 'way' && codes.includes(failure.code);

/** Codes by which a machine says what is wrong with an account (MS-ERREF 2.1). */
export const accountCodes: readonly number[] = [
  0x8007052e, 0x80070530, 0x80070531, 0x80070532, 0x80070533, 0x80070569, 0x80070701, 0x80070773, 0x80070775,
];

export const isBelow = (level: CallLevel, other: CallLevel): boolean =>
  callLevels.indexOf(level) < callLevels.indexOf(other);

/** As whom the link calls, for sentences. */
export const sayCaller = ({ subject: { link } }: Pick<Sight, 'subject'>): string =>
  link.identity.kind === 'user' ? `“${link.identity.userName}”` : 'nobody';
export const callsOf = ({ subject: { link } }: Pick<Sight, 'subject'>) => link.classic ?? usualCalls;

/** What the newest export says of rights that were refused; null: none tells. */
export function reportedOf(
  { facts }: Pick<Sight, 'facts'>,
  ...rights: readonly ComRight[]
): {
  readonly fact: FactOf<'classic-rights'>;
  /** The right that is not given; null: none that is known. */
  readonly denied: ClassicRightsFact['rights'][number] | null;
  readonly isGiven: boolean;
} | null {
  const fact = facts.latest('classic-rights');
  const own = (fact?.rights ?? []).filter(({ right }) => rights.includes(right));
  if (!fact || own.length === 0) return null;
  const denied = own.find(({ isAllowed }) => isAllowed === false) ?? null;
  return { fact, denied, isGiven: own.every(({ isAllowed }) => isAllowed === true) };
}

/** Whether the machine’s own settings explain a refusal better than permissions do. */
export const hasOtherReason = ({ facts }: Pick<Sight, 'facts'>): boolean => {
  const fact = facts.latest('classic-rights');
  return fact?.isOn === false || fact?.isGuestOnly === true;
};
