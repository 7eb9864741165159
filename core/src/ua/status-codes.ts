import { statusCodeNames } from './status-code-names.js';

/**
 * Status codes of the standard (Part 4 §7.38, Part 6 Annex A) that the product meets while it walks a link,
 * each with what it means and what to do about it. Names are kept without the underscore of the printed standard.
 */
export interface StatusCodeEntry {
  readonly code: number;
  readonly name: string;
  readonly meaning: string;
  readonly advice: string;
}

const entry = (code: number, name: string, meaning: string, advice: string): StatusCodeEntry => ({
  code,
  name,
  meaning,
  advice,
});

export const statusCodes: readonly StatusCodeEntry[] = [
  entry(0x00000000, 'Good', 'It worked.', 'Nothing to do.'),
  entry(
    0x00a50000,
    'GoodNoData',
    'There is no value in the span that was asked for.',
    'Ask for a longer span, or check whether recording goes on.',
  ),
  entry(
    0x00ef0000,
    'GoodPasswordChangeRequired',
    'The user is let in, and must change the first password before anything else.',
    'Change the password of the account.',
  ),
  entry(0x40000000, 'Uncertain', 'The value may be wrong; the server does not say why.', 'Check the device.'),
  entry(
    0x408f0000,
    'UncertainNoCommunicationLastUsableValue',
    'The server lost its device and repeats the last value that it had.',
    'Check the connection between the server and its device.',
  ),
  entry(
    0x40900000,
    'UncertainLastUsableValue',
    'Whatever wrote this value has stopped writing it.',
    'Check the source of the value.',
  ),
  entry(
    0x40920000,
    'UncertainInitialValue',
    'The value is the one set at start-up and was never refreshed.',
    'Check whether the device has been reached since.',
  ),
  entry(
    0x40930000,
    'UncertainSensorNotAccurate',
    'The sensor is at a limit or out of calibration.',
    'Check the sensor.',
  ),
  entry(0x80000000, 'Bad', 'It failed; the server does not say why.', 'Read the server’s own log.'),
  entry(
    0x80010000,
    'BadUnexpectedError',
    'The server met an error that it did not expect.',
    'Read the server’s own log.',
  ),
  entry(0x80020000, 'BadInternalError', 'The server met an internal error.', 'Read the server’s own log.'),
  entry(
    0x80030000,
    'BadOutOfMemory',
    'The server has no memory left.',
    'Close other sessions or restart the server under a permit.',
  ),
  entry(
    0x80040000,
    'BadResourceUnavailable',
    'The server has no room left for it.',
    'Free something at the server, then try again.',
  ),
  entry(
    0x80050000,
    'BadCommunicationError',
    'The connection below was lost.',
    'Check the network between the two ends.',
  ),
  entry(
    0x80080000,
    'BadEncodingLimitsExceeded',
    'A message was larger than one side accepts.',
    'Ask for fewer items at once, or raise the limit.',
  ),
  entry(
    0x800a0000,
    'BadTimeout',
    'No answer came in time.',
    'Check whether the server is overloaded or the network is slow.',
  ),
  entry(0x800b0000, 'BadServiceUnsupported', 'The server does not offer this service.', 'Check the server’s profile.'),
  entry(0x800d0000, 'BadServerNotConnected', 'There is no connection to the server.', 'Check the steps before.'),
  entry(0x800e0000, 'BadServerHalted', 'The server has stopped working.', 'Start it again.'),
  entry(
    0x80100000,
    'BadTooManyOperations',
    'One request asked for more than the server does at once.',
    'Ask for fewer items at once.',
  ),
  entry(
    0x80120000,
    'BadCertificateInvalid',
    'The certificate is not well formed, or not one for an application.',
    'Create a new certificate.',
  ),
  entry(
    0x80130000,
    'BadSecurityChecksFailed',
    'The other side refused for a reason of security and, as the standard requires, does not say which.',
    'First check whether the client’s certificate is in the server’s rejected list.',
  ),
  entry(
    0x80140000,
    'BadCertificateTimeInvalid',
    'The certificate has expired or is not valid yet.',
    'Compare the clocks, then renew the certificate.',
  ),
  entry(
    0x80150000,
    'BadCertificateIssuerTimeInvalid',
    'An issuer’s certificate has expired or is not valid yet.',
    'Renew the issuer and what was issued below it.',
  ),
  entry(
    0x80160000,
    'BadCertificateHostNameInvalid',
    'The certificate was made for another host.',
    'Re-issue it with the names that are really used.',
  ),
  entry(
    0x80170000,
    'BadCertificateUriInvalid',
    'The application URI in the certificate is not the application’s.',
    'Re-issue it with the right URI; this must never be waived.',
  ),
  entry(
    0x80180000,
    'BadCertificateUseNotAllowed',
    'The certificate may not be used for this.',
    'Re-issue it with the key usages that Part 6 §6.2.2 asks for.',
  ),
  entry(
    0x80190000,
    'BadCertificateIssuerUseNotAllowed',
    'An issuer’s certificate may not sign certificates.',
    'Have the certificate signed by a real authority.',
  ),
  entry(
    0x801a0000,
    'BadCertificateUntrusted',
    'Neither the certificate nor one of its issuers is trusted.',
    'Trust the issuer, or this one certificate.',
  ),
  entry(
    0x801b0000,
    'BadCertificateRevocationUnknown',
    'It can’t be told whether the certificate was revoked: no usable CRL.',
    'Put a current CRL of the issuer into the right list.',
  ),
  entry(
    0x801c0000,
    'BadCertificateIssuerRevocationUnknown',
    'It can’t be told whether an issuer was revoked: no usable CRL.',
    'Put a current CRL of the issuer’s issuer into the right list.',
  ),
  entry(0x801d0000, 'BadCertificateRevoked', 'The certificate was revoked.', 'Never trust it again; create a new one.'),
  entry(
    0x801e0000,
    'BadCertificateIssuerRevoked',
    'An issuer’s certificate was revoked.',
    'Re-issue everything below it.',
  ),
  entry(
    0x801f0000,
    'BadUserAccessDenied',
    'The user may not do this, or could not sign in.',
    'Check the user’s name, password and roles on the server.',
  ),
  entry(
    0x80200000,
    'BadIdentityTokenInvalid',
    'The user token is not well formed or could not be decrypted.',
    'Choose another token policy.',
  ),
  entry(
    0x80210000,
    'BadIdentityTokenRejected',
    'The token is well formed, and the server rejects it.',
    'Check the user’s name and password, and the tokens offered.',
  ),
  entry(0x80220000, 'BadSecureChannelIdInvalid', 'The secure channel is not (or no longer) known.', 'Connect again.'),
  entry(
    0x80240000,
    'BadNonceInvalid',
    'A random value was too short or repeated.',
    'A fault in one of the two programs: update it.',
  ),
  entry(0x80250000, 'BadSessionIdInvalid', 'The session is not (or no longer) known.', 'Connect again.'),
  entry(0x80260000, 'BadSessionClosed', 'The session was closed.', 'Connect again.'),
  entry(0x80270000, 'BadSessionNotActivated', 'The session was never activated.', 'Sign in first.'),
  entry(
    0x80310000,
    'BadNoCommunication',
    'The server can’t reach its device.',
    'Check the connection between the server and its device.',
  ),
  entry(
    0x80320000,
    'BadWaitingForInitialData',
    'The server has had no value from its device yet.',
    'Wait, then check the device.',
  ),
  entry(0x80330000, 'BadNodeIdInvalid', 'The node id is not well formed.', 'Correct the node id.'),
  entry(
    0x80340000,
    'BadNodeIdUnknown',
    'The server has no such node.',
    'Find the item by browsing; it may not be exposed.',
  ),
  entry(0x80350000, 'BadAttributeIdInvalid', 'The node has no such attribute.', 'Choose another attribute.'),
  entry(
    0x803a0000,
    'BadNotReadable',
    'The item can’t be read by anyone.',
    'Its access level forbids it: change it in the server’s project.',
  ),
  entry(
    0x803b0000,
    'BadNotWritable',
    'The item can’t be written by anyone.',
    'Its access level forbids it: change it in the server’s project.',
  ),
  entry(
    0x803c0000,
    'BadOutOfRange',
    'The value is outside what the server accepts.',
    'Send a value within its limits; for a password, one of the length that it asks for.',
  ),
  entry(0x803d0000, 'BadNotSupported', 'This is not supported.', 'Check the server’s profile.'),
  entry(0x803e0000, 'BadNotFound', 'Nothing was found.', 'Find the nearest path by browsing.'),
  entry(0x80400000, 'BadNotImplemented', 'The server does not have this.', 'Do it in the server’s own configuration.'),
  entry(
    0x80470000,
    'BadEventFilterInvalid',
    'The server does not accept which fields of events are asked for.',
    'Check whether the node sends events of the standard’s base type.',
  ),
  entry(
    0x804f0000,
    'BadServerUriInvalid',
    'The server URI is not the server’s.',
    'Use the URI that the server reports.',
  ),
  entry(
    0x80540000,
    'BadSecurityModeRejected',
    'The server does not accept this message security mode here.',
    'Choose one of the endpoints that the server offers.',
  ),
  entry(
    0x80550000,
    'BadSecurityPolicyRejected',
    'The server does not accept this security policy here.',
    'Choose one of the endpoints that the server offers.',
  ),
  entry(
    0x80560000,
    'BadTooManySessions',
    'The server has no session left.',
    'See who holds them; close the forgotten ones.',
  ),
  entry(
    0x80570000,
    'BadUserSignatureInvalid',
    'The signature that goes with the user token is wrong.',
    'Check whether key and certificate of the user belong together.',
  ),
  entry(
    0x80580000,
    'BadApplicationSignatureInvalid',
    'The application’s signature is wrong.',
    'Check whether key and certificate of the application belong together.',
  ),
  entry(
    0x80670000,
    'BadInvalidSelfReference',
    'Nobody can do this to the account by which the session is open.',
    'Use another administrator for it.',
  ),
  entry(0x806f0000, 'BadNoMatch', 'The browse path leads to no node.', 'Find the nearest path by browsing.'),
  entry(
    0x80710000,
    'BadHistoryOperationInvalid',
    'The server does not know this way of reading history.',
    'Check which ways of reading history it has.',
  ),
  entry(
    0x80720000,
    'BadHistoryOperationUnsupported',
    'The server does not offer this for the history of this node.',
    'Check whether the server records this node at all.',
  ),
  entry(
    0x80730000,
    'BadWriteNotSupported',
    'The server does not accept a status or timestamps with a value that is written.',
    'Write the value alone.',
  ),
  entry(
    0x80740000,
    'BadTypeMismatch',
    'The value has another type than the item.',
    'Write a value of the item’s own type.',
  ),
  entry(
    0x80750000,
    'BadMethodInvalid',
    'The object has no such method.',
    'Check whether the server offers this at all.',
  ),
  entry(0x80770000, 'BadTooManySubscriptions', 'The server has no subscription left.', 'Close the forgotten ones.'),
  entry(
    0x80780000,
    'BadTooManyPublishRequests',
    'Too many publish requests are waiting.',
    'A fault in the client: update it.',
  ),
  entry(0x80790000, 'BadNoSubscription', 'There is no subscription for this session.', 'Subscribe again.'),
  entry(
    0x807d0000,
    'BadTcpServerTooBusy',
    'The server can’t accept the connection now.',
    'Try later; see who else connects.',
  ),
  entry(
    0x807e0000,
    'BadTcpMessageTypeInvalid',
    'The server did not understand the kind of message.',
    'Check whether a device on the way changes the traffic.',
  ),
  entry(
    0x807f0000,
    'BadTcpSecureChannelUnknown',
    'The channel or its token is not (or no longer) in use.',
    'Connect again.',
  ),
  entry(
    0x80800000,
    'BadTcpMessageTooLarge',
    'The message is larger than agreed.',
    'Ask for fewer items at once, or raise the limit.',
  ),
  entry(
    0x80810000,
    'BadTcpNotEnoughResources',
    'The server lacks what it needs to accept the connection.',
    'See who holds its connections.',
  ),
  entry(0x80820000, 'BadTcpInternalError', 'The server met an internal error.', 'Read the server’s own log.'),
  entry(
    0x80830000,
    'BadTcpEndpointUrlInvalid',
    'The server does not know itself by the URL that was used.',
    'Use the URL that the server advertises, or set its host name.',
  ),
  entry(
    0x80840000,
    'BadRequestInterrupted',
    'The connection was lost in the middle of a request.',
    'Check the network between the two ends.',
  ),
  entry(
    0x80850000,
    'BadRequestTimeout',
    'No answer came in time.',
    'Check whether the server is overloaded or the network is slow.',
  ),
  entry(
    0x80860000,
    'BadSecureChannelClosed',
    'The secure channel was closed.',
    'Connect again; look for the reason on the other side.',
  ),
  entry(
    0x80890000,
    'BadConfigurationError',
    'The server’s configuration does not allow it.',
    'Read the server’s own log.',
  ),
  entry(0x808a0000, 'BadNotConnected', 'There is no connection.', 'Check the steps before.'),
  entry(0x808b0000, 'BadDeviceFailure', 'The device below the server failed.', 'Check the device.'),
  entry(0x808c0000, 'BadSensorFailure', 'The sensor failed.', 'Check the sensor.'),
  entry(0x808d0000, 'BadOutOfService', 'The source of the value is switched off.', 'Put it back in service.'),
  entry(
    0x809b0000,
    'BadNoData',
    'There is no data in the span that was asked for.',
    'Check whether the server records this node now.',
  ),
  entry(0x80ab0000, 'BadInvalidArgument', 'An argument is not valid.', 'Check what was asked for.'),
  entry(0x80ac0000, 'BadConnectionRejected', 'The other side rejected the connection.', 'Check the steps before.'),
  entry(0x80ad0000, 'BadDisconnect', 'The other side disconnected.', 'Check the other side’s log.'),
  entry(0x80ae0000, 'BadConnectionClosed', 'The network connection was closed.', 'Check the other side’s log.'),
  entry(
    0x80af0000,
    'BadInvalidState',
    'It can’t be done in the present state.',
    'Check the present state at the server.',
  ),
  entry(
    0x80be0000,
    'BadProtocolVersionUnsupported',
    'The two ends have no version of the protocol in common.',
    'Update the older one.',
  ),
  entry(
    0x80e60000,
    'BadSecurityModeInsufficient',
    'The server does this only on a channel with more security than this one.',
    'Use an endpoint with SignAndEncrypt.',
  ),
  entry(
    0x810d0000,
    'BadCertificateChainIncomplete',
    'An issuer is missing, so the chain can’t be built to its root.',
    'Put the missing issuer into the issuers list.',
  ),
  entry(
    0x81140000,
    'BadCertificatePolicyCheckFailed',
    'Key length or signature hash is outside what the security policy allows.',
    'Create a new certificate.',
  ),
  entry(0x81150000, 'BadAlreadyExists', 'It is there already.', 'Read again to see what holds now.'),
];

const byCode = new Map(statusCodes.map((known) => [known.code, known]));
const byName = new Map(statusCodes.map((known) => [known.name, known]));

/** The name of a numeric code; for one that the standard does not know, its number in hexadecimal. */
export function statusCodeNamed(code: number): string {
  const plain = (code & 0xffff0000) >>> 0;
  return byCode.get(plain)?.name ?? statusCodeNames[plain] ?? `0x${(code >>> 0).toString(16).padStart(8, '0')}`;
}

/** What is known of a code, by its name with or without the underscore. */
export const statusCodeKnown = (name: string): StatusCodeEntry | null => byName.get(name.replace('_', '')) ?? null;

/** As the standard prints it: `Bad_CertificateUntrusted`. */
export const printedStatusCode = (name: string): string => name.replace(/^(Good|Uncertain|Bad)(?=[A-Z])/, '$1_');

/** Code and meaning, where what to do is said otherwise. */
export function meaningOfStatusCode(name: string): string {
  const known = statusCodeKnown(name);
  return known ? `${printedStatusCode(name)}: ${known.meaning}` : printedStatusCode(name);
}

/** Code, meaning and advice in one sentence pair, for places where a bare code would be mute. */
export function explainedStatusCode(name: string): string {
  const known = statusCodeKnown(name);
  return known ? `${meaningOfStatusCode(name)} ${known.advice}` : printedStatusCode(name);
}
