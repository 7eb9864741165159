import type { Cause } from '../../cause.js';
import { answerBroken } from './answer-broken.js';
import { deviceBusy } from './device-busy.js';
import { deviceRefused } from './device-refused.js';
import { deviceSilent } from './device-silent.js';
import { deviceUnknown } from './device-unknown.js';
import { deviceUnseen } from './device-unseen.js';
import { deviceWithheld } from './device-withheld.js';
import { bytesSwapped, registerOffByOne, scaleWrong, typeWrong, wordsSwapped } from './mapping.js';
import { notModbus } from './not-modbus.js';
import { otherTransaction } from './other-transaction.js';
import { registerRefused } from './register-refused.js';
import { serverPollsSlowly } from './server-polls-slowly.js';
import { unitWrong } from './unit-wrong.js';
import { valueApart } from './value-apart.js';
import { valueStuck } from './value-stuck.js';

/** Causes behind a server, whatever it speaks itself. */
export const fieldCauses: readonly Cause[] = [
  deviceUnknown,
  deviceWithheld,
  deviceUnseen,
  deviceRefused,
  deviceSilent,
  deviceBusy,
  notModbus,
  unitWrong,
  answerBroken,
  otherTransaction,
  registerRefused,
  registerOffByOne,
  wordsSwapped,
  bytesSwapped,
  typeWrong,
  scaleWrong,
  valueApart,
  valueStuck,
  serverPollsSlowly,
];
