import type { Cause } from '../cause.js';
import { certMalformed } from './certificate/cert-malformed.js';
import { chainIncomplete } from './certificate/chain-incomplete.js';
import { crlMissing } from './certificate/crl-missing.js';
import { crlStale } from './certificate/crl-stale.js';
import { crlUnreadable } from './certificate/crl-unreadable.js';
import { expired } from './certificate/expired.js';
import { expiresSoon } from './certificate/expires-soon.js';
import { hostMismatch } from './certificate/host-mismatch.js';
import { issuerExpired } from './certificate/issuer-expired.js';
import { issuerRevoked } from './certificate/issuer-revoked.js';
import { keyBelowPolicy } from './certificate/key-below-policy.js';
import { lyingInRejected } from './certificate/lying-in-rejected.js';
import { notTrusted } from './certificate/not-trusted.js';
import { notYetValid } from './certificate/not-yet-valid.js';
import { revoked } from './certificate/revoked.js';
import { signatureWrong } from './certificate/signature-wrong.js';
import { uriMismatch } from './certificate/uri-mismatch.js';
import { usageWrong } from './certificate/usage-wrong.js';
import { wrongList } from './certificate/wrong-list.js';
import { channelRefused } from './channel/channel-refused.js';
import { clockApart } from './channel/clock-apart.js';
import { advertisedUnreachable } from './endpoints/advertised-unreachable.js';
import { certificateChanged } from './endpoints/certificate-changed.js';
import { endpointsRefused } from './endpoints/endpoints-refused.js';
import { wrongApplication } from './endpoints/wrong-application.js';
import { buffersTooSmall } from './hello/buffers-too-small.js';
import { helloRefused } from './hello/hello-refused.js';
import { notUa } from './hello/not-ua.js';
import { anonymousIn } from './identity/anonymous-in.js';
import { passwordInClear } from './identity/password-in-clear.js';
import { passwordElsewhere } from './identity/password-elsewhere.js';
import { passwordNotKept } from './identity/password-not-kept.js';
import { serverUnproved } from './identity/server-unproved.js';
import { serverSignatureWrong } from './identity/server-signature-wrong.js';
import { sessionRefused } from './identity/session-refused.js';
import { sessionsFull } from './identity/sessions-full.js';
import { tokenFloor } from './identity/token-floor.js';
import { tokenNotOffered } from './identity/token-not-offered.js';
import { userCertificateEndsSoon } from './identity/user-certificate-ends-soon.js';
import { userCertificateMissing } from './identity/user-certificate-missing.js';
import { userCertificateOutOfDate } from './identity/user-certificate-out-of-date.js';
import { userRefused } from './identity/user-refused.js';
import { itemBad } from './items/item-bad.js';
import { itemDenied } from './items/item-denied.js';
import { itemHidden } from './items/item-hidden.js';
import { itemMissing } from './items/item-missing.js';
import { itemStale } from './items/item-stale.js';
import { watchSilent } from './items/watch-silent.js';
import { watchSlowed } from './items/watch-slowed.js';
import { manyAddresses } from './name/many-addresses.js';
import { nameElsewhere } from './name/name-elsewhere.js';
import { nameServerSilent } from './name/name-server-silent.js';
import { nameUnknown } from './name/name-unknown.js';
import { urlMalformed } from './name/url-malformed.js';
import { belowFloor } from './policy/below-floor.js';
import { byException } from './policy/by-exception.js';
import { noCommonPolicy } from './policy/no-common-policy.js';
import { plantFloor } from './policy/plant-floor.js';
import { policyDeprecated } from './policy/policy-deprecated.js';
import { signOnly } from './policy/sign-only.js';
import { unsecuredChosen } from './policy/unsecured-chosen.js';
import { unsecuredOffered } from './policy/unsecured-offered.js';
import { farTooSlow } from './reach/far-too-slow.js';
import { portRefused } from './reach/port-refused.js';
import { portSilent } from './reach/port-silent.js';
import { needsRestart } from './restart/needs-restart.js';
import { typeChanged } from './items/type-changed.js';
import { nearAddressMissing } from './untried/near-address-missing.js';
import { noClientKey } from './untried/no-client-key.js';
import { policyNotSpoken } from './untried/policy-not-spoken.js';
import { outsideRanges } from './untried/outside-ranges.js';
import { alarmsRefused } from './alarms/alarms-refused.js';
import { historyEmpty } from './history/history-empty.js';
import { historyRefused } from './history/history-refused.js';
import { writeAltered } from './write/write-altered.js';
import { writeDenied } from './write/write-denied.js';
import { writeOpen } from './write/write-open.js';
import { writeRefused } from './write/write-refused.js';
import { rulesOutOfDate } from './passage/rules-out-of-date.js';
import { rulesStop } from './passage/rules-stop.js';
import { tunnelDown } from './reach/tunnel-down.js';
import { tunnelTargetSilent } from './hello/tunnel-target-silent.js';
import { redundantStopped } from './passage/redundant-stopped.js';
import { redundantUnchecked } from './identity/redundant-unchecked.js';
import { stoppedElsewhere } from './passage/stopped-elsewhere.js';

/** The catalogue: every cause that the product knows, in the order of the steps. */
export const causes: readonly Cause[] = [
  urlMalformed,
  nameUnknown,
  nameServerSilent,
  nameElsewhere,
  manyAddresses,
  outsideRanges,
  nearAddressMissing,
  portRefused,
  portSilent,
  rulesStop,
  rulesOutOfDate,
  stoppedElsewhere,
  redundantStopped,
  tunnelDown,
  tunnelTargetSilent,
  farTooSlow,
  notUa,
  helloRefused,
  buffersTooSmall,
  endpointsRefused,
  advertisedUnreachable,
  wrongApplication,
  certificateChanged,
  noCommonPolicy,
  plantFloor,
  byException,
  unsecuredChosen,
  unsecuredOffered,
  policyDeprecated,
  belowFloor,
  signOnly,
  certMalformed,
  chainIncomplete,
  signatureWrong,
  keyBelowPolicy,
  wrongList,
  notTrusted,
  issuerExpired,
  expired,
  notYetValid,
  expiresSoon,
  hostMismatch,
  uriMismatch,
  usageWrong,
  crlMissing,
  crlStale,
  crlUnreadable,
  issuerRevoked,
  revoked,
  lyingInRejected,
  noClientKey,
  policyNotSpoken,
  needsRestart,
  channelRefused,
  clockApart,
  sessionsFull,
  userRefused,
  userCertificateMissing,
  userCertificateOutOfDate,
  userCertificateEndsSoon,
  sessionRefused,
  tokenNotOffered,
  tokenFloor,
  passwordInClear,
  passwordNotKept,
  passwordElsewhere,
  serverUnproved,
  serverSignatureWrong,
  anonymousIn,
  redundantUnchecked,
  itemHidden,
  itemMissing,
  itemDenied,
  itemBad,
  itemStale,
  typeChanged,
  watchSilent,
  watchSlowed,
  writeRefused,
  writeDenied,
  writeAltered,
  writeOpen,
  historyRefused,
  historyEmpty,
  alarmsRefused,
];
