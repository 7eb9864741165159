import type { Cause } from '../../cause.js';
import { manyAddresses } from '../../causes/name/many-addresses.js';
import { nameElsewhere } from '../../causes/name/name-elsewhere.js';
import { nameServerSilent } from '../../causes/name/name-server-silent.js';
import { nameUnknown } from '../../causes/name/name-unknown.js';
import { urlMalformed } from '../../causes/name/url-malformed.js';
import { farTooSlow } from '../../causes/reach/far-too-slow.js';
import { writeAltered } from '../../causes/write/write-altered.js';
import { writeRefused } from '../../causes/write/write-refused.js';
import { nearAddressMissing } from '../../causes/untried/near-address-missing.js';
import { outsideRanges } from '../../causes/untried/outside-ranges.js';
import { accessFailed } from './access/access-failed.js';
import { accessRefused } from './access/access-refused.js';
import { serverNotRunning } from './access/server-not-running.js';
import { activationFailed } from './activation/activation-failed.js';
import { comOff } from './activation/com-off.js';
import { everyoneMay } from './activation/everyone-may.js';
import { guestOnly } from './activation/guest-only.js';
import { notInForce } from './activation/not-in-force.js';
import { runsAsWhoever } from './activation/runs-as-whoever.js';
import { classUnknown } from './activation/class-unknown.js';
import { launchRefused } from './activation/launch-refused.js';
import { levelTooLow } from './activation/level-too-low.js';
import { objectPortClosed } from './activation/object-port-closed.js';
import { startFailed } from './activation/start-failed.js';
import { listRefused } from './class/list-refused.js';
import { programUnknown } from './class/program-unknown.js';
import { itemOld } from './items/item-old.js';
import { itemQuality } from './items/item-quality.js';
import { itemRights } from './items/item-rights.js';
import { itemUnknown } from './items/item-unknown.js';
import { itemUnread } from './items/item-unread.js';
import { bindingsElsewhere } from './mapper/bindings-elsewhere.js';
import { notCom } from './mapper/not-com.js';
import { mapperRefused } from './reach/mapper-refused.js';
import { mapperSilent } from './reach/mapper-silent.js';
import { accountRefused } from './sign-in/account-refused.js';
import { levelNone } from './sign-in/level-none.js';
import { signInFailed } from './sign-in/sign-in-failed.js';
import { signInWithheld } from './sign-in/sign-in-withheld.js';
import { signsInAsNobody } from './sign-in/signs-in-as-nobody.js';
import { calledBackAsNobody } from './watch/called-back-as-nobody.js';
import { calledByStranger } from './watch/called-by-stranger.js';
import { rateRevised } from './watch/rate-revised.js';
import { nobodyMay } from './activation/nobody-may.js';
import { otherView } from './activation/other-view.js';
import { rangeOpen } from './activation/range-open.js';
import { wayBackBlocked } from './watch/way-back-blocked.js';
import { wayBackUnproven } from './watch/way-back-unproven.js';
import { rulesOutOfDate } from '../../causes/passage/rules-out-of-date.js';
import { rulesStop } from '../../causes/passage/rules-stop.js';
import { stoppedElsewhere } from '../../causes/passage/stopped-elsewhere.js';

/** Those that speak of links of any kind, and are tried with those of UA. */
const ofEveryKind: readonly Cause[] = [
  urlMalformed,
  nameUnknown,
  nameServerSilent,
  nameElsewhere,
  manyAddresses,
  nearAddressMissing,
  outsideRanges,
  rulesStop,
  rulesOutOfDate,
  stoppedElsewhere,
  farTooSlow,
  writeRefused,
  writeAltered,
];

/** Causes of classic links alone. */
export const ownClassicCauses: readonly Cause[] = [
  mapperRefused,
  mapperSilent,
  notCom,
  bindingsElsewhere,
  accountRefused,
  signInFailed,
  signInWithheld,
  signsInAsNobody,
  levelNone,
  programUnknown,
  listRefused,
  classUnknown,
  otherView,
  comOff,
  guestOnly,
  levelTooLow,
  launchRefused,
  notInForce,
  everyoneMay,
  nobodyMay,
  runsAsWhoever,
  startFailed,
  activationFailed,
  objectPortClosed,
  rangeOpen,
  accessRefused,
  accessFailed,
  serverNotRunning,
  itemUnknown,
  itemUnread,
  itemRights,
  itemQuality,
  itemOld,
  wayBackBlocked,
  wayBackUnproven,
  rateRevised,
  calledBackAsNobody,
  calledByStranger,
];

/** Every cause that a classic link may have. */
export const classicCauses: readonly Cause[] = [...ofEveryKind, ...ownClassicCauses];
