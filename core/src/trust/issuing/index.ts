/** Making certificates, requests and CRLs. A door of its own, so that pages that only read certificates need not load it. */
export * from './issue.js';
export * from './keys.js';
export * from './revocation-list.js';
export * from './signing-request.js';
