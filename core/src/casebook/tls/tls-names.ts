/** Alerts of TLS (RFC 8446 §6, RFC 5246 §7.2, RFC 7301 §3.2). */
const alerts: Readonly<Record<number, string>> = {
  0: 'close_notify',
  10: 'unexpected_message',
  20: 'bad_record_mac',
  21: 'decryption_failed',
  22: 'record_overflow',
  40: 'handshake_failure',
  42: 'bad_certificate',
  43: 'unsupported_certificate',
  44: 'certificate_revoked',
  45: 'certificate_expired',
  46: 'certificate_unknown',
  47: 'illegal_parameter',
  48: 'unknown_ca',
  49: 'access_denied',
  50: 'decode_error',
  51: 'decrypt_error',
  70: 'protocol_version',
  71: 'insufficient_security',
  80: 'internal_error',
  86: 'inappropriate_fallback',
  90: 'user_canceled',
  109: 'missing_extension',
  110: 'unsupported_extension',
  112: 'unrecognized_name',
  113: 'bad_certificate_status_response',
  115: 'unknown_psk_identity',
  116: 'certificate_required',
  120: 'no_application_protocol',
};
export const alertNamed = (description: number): string => alerts[description] ?? `alert ${description}`;

const versions: Readonly<Record<number, string>> = {
  0x0300: 'SSL 3.0',
  0x0301: 'TLS 1.0',
  0x0302: 'TLS 1.1',
  0x0303: 'TLS 1.2',
  0x0304: 'TLS 1.3',
};
export const versionNamed = (version: number): string =>
  versions[version] ?? `TLS version 0x${version.toString(16).padStart(4, '0')}`;
/** Versions that nobody should speak any more (RFC 8996, RFC 7568). */
export const isOldVersion = (version: number): boolean => version < 0x0303;
