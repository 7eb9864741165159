/** Why a certificate was revoked (RFC 5280 §5.3.1), in words. */
export const reasonWords: Readonly<Record<string, string>> = {
  unspecified: 'no reason is given',
  keyCompromise: 'its key is no longer secret',
  cACompromise: 'the key of its authority is no longer secret',
  affiliationChanged: 'its name is no longer right',
  superseded: 'it was replaced',
  cessationOfOperation: 'it is no longer used',
  certificateHold: 'it is suspended',
  privilegeWithdrawn: 'it may no longer be used',
};
